using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Core.Values;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Records;
using Pelto.Data.Storage;

namespace Pelto.Web.Components;

/// <summary>Adds a choice while somebody enters a record, where the administrator allows it: a small release of its own, so that it is on record, live for everybody, and in the draft too.</summary>
public sealed class ChoiceAdder(Publisher publisher, Drafts drafts, Catalogues catalogues)
{
    // Two people may add at the same moment: then one of them begins again on top of the other's release.
    private const int Attempts = 4;

    /// <summary>Adds it, or gives the one that is there already. A sentence says why it cannot be.</summary>
    public async Task<(Choice? Choice, string? Refusal)> AddAsync(Field field, string? label, Viewer viewer, CancellationToken cancel = default)
    {
        if (viewer.LevelAt(field) < AccessLevel.Write) throw new AccessRefusedException($"You may not change {field.Label} of {field.Part.RecordType.Plural.ToLowerInvariant()}.");
        if (field.Kind is not AnyChoiceKind { MayAdd: true } kind || field.Definition is not { } definition) return (null, $"Choices of {field.Label} are added by administrators.");
        var plain = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (plain.Length is 0 or > 120 || plain.Any(char.IsControl)) return (null, "The label of a choice has 1 to 120 characters.");
        if (kind.Choices.FirstOrDefault(choice => choice.IsOffered && ChoiceRules.Key(choice.Label) == ChoiceRules.Key(plain)) is { } known) return (known, null);
        if (kind.Choices.Count >= ChoiceRules.MostChoices) return (null, "The list is full.");
        var code = Codes.From(plain, kind.Choices.Select(choice => choice.Code));
        var added = new Choice(code.Length == 0 ? Codes.From($"choice {kind.Choices.Count + 1}", kind.Choices.Select(choice => choice.Code)) : code, plain);

        SiteDefinition Change(SiteDefinition site) => site.FindList(definition.ChoiceList) is { } list ? site.With(list with { Choices = With(list.Choices, added) })
            : site.Find(definition.Id) is { ChoiceList: null } own ? site.With(own with { Choices = With(own.Choices ?? [], added) }) : site;

        // The draft has it first, so that a draft that is published just now does not take it away again.
        await drafts.RebaseAsync(Change, cancel);
        try
        {
            for (var attempt = 0; attempt < Attempts; attempt++)
            {
                var row = await publisher.RunAsync(await publisher.StartSmallAsync(Change(catalogues.Live.Site), $"Added “{plain}” to {field.Label} while entering a record.", viewer, cancel), CancellationToken.None);
                if (row.State == PublishingState.Done) return (added, null);
            }
        }
        catch (PublishRefusedException refused)
        {
            return (null, refused.Message);
        }

        return (null, "It could not be added just now; please try again.");
    }

    private static List<Choice> With(IReadOnlyList<Choice> choices, Choice added) => choices.Any(choice => choice.Code == added.Code) ? [.. choices] : [.. choices, added];
}
