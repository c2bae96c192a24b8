namespace Pelto.Web.Components;

/// <summary>
/// Adds a choice while somebody enters a record, where the administrator allows it: a small release of its own, so that it is on record,
/// live for everybody, and in the draft too.
/// </summary>
public sealed class ChoiceAdder(SmallReleases releases)
{
    /// <summary>Adds it, or gives the one that is there already. A sentence says why it cannot be.</summary>
    public async Task<(Choice? Choice, string? Refusal)> AddAsync(
        Field field,
        string? label,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (viewer.LevelAt(field) < AccessLevel.Write)
            throw new AccessRefusedException($"You may not change {field.Label} of {field.Part.RecordType.Plural.ToLowerInvariant()}.");
        if (field.Kind.Choices is not { MayAdd: true } choices || field.Definition is not { } definition)
            return (null, $"Choices of {field.Label} are added by administrators.");
        var plain = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (plain.Length is 0 or > 120 || plain.Any(char.IsControl))
            return (null, "The label of a choice has 1 to 120 characters.");
        if (
            choices.All.FirstOrDefault(choice =>
                choice.IsOffered && choice.Labels.Any(called => ChoiceRules.Key(called) == ChoiceRules.Key(plain))
            ) is
            { } known
        )
            return (known, null);

        // What was merged goes on under the name of the one that took its place.
        if (
            choices.All.Any(choice => choice.MergedInto is not null && ChoiceRules.Key(choice.Label) == ChoiceRules.Key(plain))
            && field.Kind.Parse(plain) is { Refusal: null } merged
            && choices.Find(merged.Value.DataType == DataType.Several ? merged.Value.Codes[0] : merged.Value.Text)
                is { IsOffered: true } into
        )
            return (into, null);
        if (ChoiceRules.RefuseAnew(plain, choices.All, mayOffer: false) is { } retired)
            return (null, retired);
        if (choices.All.Count >= ChoiceRules.MaxChoices)
            return (null, "The list is full.");
        var code = Codes.From(plain, choices.All.Select(choice => choice.Code));
        var added = new Choice(
            code.Length == 0 ? Codes.From($"choice {choices.All.Count + 1}", choices.All.Select(choice => choice.Code)) : code,
            plain
        );

        SiteDefinition Change(SiteDefinition site) =>
            site.FindList(definition.ChoiceList) is { } list ? site.With(list with { Choices = With(list.Choices, added) })
            : site.Find(definition.Id) is { ChoiceList: null } own ? site.With(own with { Choices = With(own.Choices ?? [], added) })
            : site;

        return
            await releases.PublishAsync(Change, $"Added “{plain}” to {field.Label} while entering a record.", viewer, cancel) is { } refusal
            ? (null, refusal)
            : (added, null);
    }

    private static List<Choice> With(IReadOnlyList<Choice> choices, Choice added) =>
        choices.Any(choice => choice.Code == added.Code) ? [.. choices] : [.. choices, added];
}
