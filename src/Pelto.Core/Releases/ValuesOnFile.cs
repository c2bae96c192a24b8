namespace Pelto.Core.Releases;

/// <summary>
/// Says what becomes of the values of a field on file once a draft is live, from the jobs and steps that will do it.
/// All that is said of it, on the page of a definition, in the draft and in its plan, is said here.
/// </summary>
/// <param name="live">What is live.</param>
/// <param name="jobs">The jobs that begin once it is live: <see cref="PlannedJobs.For(Catalogue, Catalogue)"/>.</param>
/// <param name="facts">What the database holds.</param>
public sealed class ValuesOnFile(Catalogue live, IReadOnlyList<PlannedJob> jobs, StorageFacts facts)
{
    /// <summary>What is said where nothing happens to them.</summary>
    public const string Stay = "Values on file stay as they are.";

    private readonly ILookup<string, PlannedJob> byField = jobs.ToLookup(job => job.Field, StringComparer.Ordinal);

    private const string Undone = "in the background, which can be undone";

    /// <summary>True when the values of a field are carried to another column, because its kind is another.</summary>
    public static bool IsConverted(Field field, Field? was) =>
        was is { IsStored: true, IsAdded: true } && field.IsStored && was.Columns[0].Name != field.Columns[0].Name;

    /// <summary>In sentences, for all record types on which a definition stands; each is told by itself where they differ.</summary>
    /// <param name="field">The field as it is drafted, at its first place.</param>
    /// <param name="draft">What is wanted.</param>
    public string Describe(Field field, Catalogue draft)
    {
        var places = field.Definition!.Places().Select(field.Definition.IdIn).Select(draft.FindField).OfType<Field>().ToList();
        var said = places.GroupBy(place => Describe(place, place.Part.IsLines ? "Lines on file" : "Records on file")).ToList();
        return said.Count == 1
            ? said[0].Key
            : string.Join(
                " ",
                said.Select(same =>
                    $"With {Access.GrantWords.Listed([.. same.Select(place => place.Part.Plural.ToLowerInvariant())])}: {same.Key}"
                )
            );
    }

    /// <summary>In sentences, for one place.</summary>
    /// <param name="field">The field as it is drafted, at one place.</param>
    /// <param name="who">The records or lines on file, as they are called at the beginning of a sentence.</param>
    public string Describe(Field field, string who)
    {
        var was = live.FindField(field.Id);
        bool Has(string work) => byField[field.Id].Any(job => job.Work == work);
        var said = new List<string>();

        // What is there: of a field that was taken out or calculated live, too, what its column held before.
        var (isLive, holds) = (was is { IsStored: true }, was is { IsStored: true } || facts.Has(field));
        if (!field.IsStored)
            return "Nothing is stored: it is calculated whenever it is read, for all that is on file at once.";
        if (IsConverted(field, was))
            said.Add(Converted(field));
        if (Has(PlannedJob.ReadBack))
            said.Add($"{who} get back what was saved of it, {Undone}.");
        if (Has(PlannedJob.FillStart))
            said.Add($"{who}{(holds || Has(PlannedJob.ReadBack) ? " that have none" : "")} get the default {Undone}.");
        if (Has(PlannedJob.Refill))
            said.Add($"{who} get their value {Undone}{(field.Mode == FillMode.Untouched && holds ? "; what was typed over stays" : "")}.");
        if (Has(PlannedJob.MergeChoice))
            said.Add("All other values on file stay as they are.");
        if (said.Count > 0)
            return string.Join(" ", said);
        return isLive ? Stay
            : holds ? $"{who} have again what was stored there before."
            : $"{who} get no value.";
    }

    private string Converted(Field field)
    {
        const string Kept = "The earlier column is kept, so that this can be undone until you remove it.";
        if (!facts.Conversions.TryGetValue(field.Id, out var counts))
            return $"Values on file are converted while everyone works. {Kept}";
        return counts.Converts + counts.Fails == 0
            ? "No record holds a value yet."
            : $"{Plan.Count(counts.Converts, "value")} on file {(counts.Converts == 1 ? "is" : "are")} converted "
                + $"while everyone works; {(counts.Fails == 0 ? "none is lost" : $"{Numbers.Format(counts.Fails)} cannot be turned and become empty")}. {Kept}";
    }
}
