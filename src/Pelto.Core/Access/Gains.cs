namespace Pelto.Core.Access;

/// <summary>
/// Nobody gives rights that they do not have: what somebody gains by a change of their roles, rights or company must be what the giver has.
/// </summary>
/// <remarks>
/// Whoever may set a person's password, or make a token for them, could act as that person, and so gains all that the person has.
/// </remarks>
public static class Gains
{
    /// <summary>Why a person may not be changed so, as a sentence; null when they may.</summary>
    /// <param name="giver">Who changes them, as they are before.</param>
    /// <param name="before">The person as they are; null for a new one, and for whoever could act as them.</param>
    /// <param name="after">The person as they would be.</param>
    /// <param name="catalogue">What is live.</param>
    public static string? Refuse(Viewer giver, Viewer? before, Viewer after, Catalogue catalogue)
    {
        if (AdminRights.All(giver))
            return null;
        if (after.IsAdministrator && before?.IsAdministrator != true)
            return $"{after.Name} would be an administrator, which you are not.";
        foreach (var right in after.Rights.Where(right => before?.Rights.Any(had => had.Includes(right)) != true))
            if (!giver.Rights.Any(mine => mine.Includes(right)))
                return $"{after.Name} could {AdminWork.InWords(right.Work)} beyond what you may yourself.";
        foreach (var type in catalogue.RecordTypes)
        {
            if (
                Rights(after, type)
                    .Zip(Rights(before, type), Rights(giver, type))
                    .FirstOrDefault(right => right.First.Of.IsPossible && !right.Second.Of.IsPossible && !right.Third.Of.IsSure)
                    .First.Right is
                { } more
            )
                return $"{after.Name} could {more} {type.Plural.ToLowerInvariant()}, which you may not do yourself for all of them.";
            foreach (var field in type.Parts.SelectMany(part => part.Fields))
            {
                var level = after.LevelAt(field);
                if (level > (before?.LevelAt(field) ?? AccessLevel.None) && level > giver.SureAt(field))
                    return $"{after.Name} could {GrantWords.Verb(level)} {field.Label} of "
                        + $"{field.Part.Plural.ToLowerInvariant()}, which you may not do yourself for all of them.";
            }
        }

        return null;
    }

    /// <summary>
    /// Why somebody may not change, stop or rename a person at all; null when they may. Nobody touches what is above them: an
    /// administrator, or whoever may do work on Pelto that they may not.
    /// </summary>
    /// <param name="by">Who would.</param>
    /// <param name="person">The person as they are.</param>
    public static string? RefuseTouching(Viewer by, Viewer person)
    {
        if (AdminRights.All(by) || by.Id == person.Id)
            return null;
        if (person.IsAdministrator)
            return $"{person.Name} is an administrator, which you are not.";
        return person.Rights.FirstOrDefault(right => !by.Rights.Any(mine => mine.Includes(right))) is { } more
            ? $"{person.Name} may {AdminWork.InWords(more.Work)} beyond what you may "
                + "yourself: somebody who may do that too has to change them."
            : null;
    }

    private static IEnumerable<(string Right, Decision Of)> Rights(Viewer? viewer, RecordType type)
    {
        var of = viewer is null ? new(Decision.Never, Decision.Never, Decision.Never, Decision.Never) : viewer.AccessAt(type).For(type);
        return [("read", of.Read), ("create", of.Create), ("change", of.Change), ("delete", of.Delete)];
    }
}
