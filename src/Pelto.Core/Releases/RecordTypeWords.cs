namespace Pelto.Core.Releases;

/// <summary>
/// What the definition of a record type means for whoever keeps such records: for its page, and for the plan of a release.
/// </summary>
public static class RecordTypeWords
{
    /// <summary>Its meaning, a sentence for each thing that people should know of.</summary>
    /// <param name="type">The definition.</param>
    /// <param name="isLive">True when it has been live already, so that some may be on file.</param>
    public static IEnumerable<string> Describe(RecordTypeDefinition type, bool isLive)
    {
        var numbering = type.Numbering;
        yield return isLive ? GoesOn(numbering) : $"The first number is {numbering.First}.";
        yield return numbering.Gapless
            ? $"Numbers have no gaps{(numbering.WithYear ? ", and counting begins anew each year" : "")}: "
                + "whoever creates a record waits for the one before, and records are never deleted."
            : "Nobody waits for a number; a save that fails can leave a "
                + $"gap.{(numbering.WithYear ? " The counter goes on over the years." : "")}";
        if (!isLive)
            yield return "It begins with a number and a name. Everything else is added fields, as with any other record type.";
        if (numbering.PerCompany)
            yield return "Each company has its own count; the record says for which company it is.";
        if (type.Confirmed)
            yield return "It is being prepared until somebody confirms it. From then on it can only be cancelled: neither changed nor deleted, by anybody.";
        foreach (var lines in type.Lines.Where(lines => lines.Plural.Length > 0))
            yield return $"Each has many {lines.Plural.ToLowerInvariant()}, which begin with a description.";
        if (type.Code.Length > 0)
            yield return $"Programs read and write it as {type.Code}.";
    }

    /// <summary>Where numbers begin that a new record type gives, or one that comes back.</summary>
    public static string Begins(NumberingDescription numbering, bool isBack) =>
        $"{(isBack ? GoesOn(numbering) : $"The first number is {numbering.First}.")} "
        + (numbering.Gapless ? "Numbers have no gaps, so records are never deleted." : "Numbers may have gaps.");

    /// <summary>What becomes of numbers when a live record type is numbered otherwise.</summary>
    public static string Changes(NumberingDescription now, NumberingDescription old) =>
        now.Gapless && now.WithYear != old.WithYear
            ? $"New records count {(now.WithYear ? "anew each year" : "on over the years")}, "
                + $"from {now.First} where none was counted so before; numbers on file stay."
            : "New records; the counter continues from where it is, and numbers on file stay.";

    private static string GoesOn(NumberingDescription numbering) =>
        $"Numbers look like {numbering.First}, and go on from the last that was given.";
}
