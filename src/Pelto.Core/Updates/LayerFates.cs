using Pelto.Core.Layouts;

namespace Pelto.Core.Updates;

/// <summary>What becomes of an operation of a layer when the host goes to another version.</summary>
public enum Fate
{
    /// <summary>It goes on as it is.</summary>
    Stays,

    /// <summary>It goes on, and what it is about or anchored to is called otherwise, or stands elsewhere.</summary>
    Follows,

    /// <summary>What it was anchored to is gone: its part stands elsewhere meanwhile.</summary>
    LosesAnchor,

    /// <summary>What it was about is gone, so there is nothing to do.</summary>
    HasNothingToDo,
}

/// <summary>What becomes of an operation.</summary>
/// <param name="Layer">The layer.</param>
/// <param name="RecordType">The code of the record type whose screen it is about.</param>
/// <param name="Operation">The operation.</param>
/// <param name="Says">What it does, for people.</param>
/// <param name="Fate">What becomes of it.</param>
/// <param name="Sentence">The same with its reason; null when there is nothing to say.</param>
public sealed record LayerFate(Layer Layer, string RecordType, LayerOperation Operation, string Says, Fate Fate, string? Sentence);

/// <summary>
/// Determines what becomes of each operation of each layer, by holding the screens before and after against each other: what people get
/// counts, not what the files say.
/// </summary>
internal sealed class LayerFates(Catalogue now, Catalogue next)
{
    public IEnumerable<LayerFate> All() =>
        from layer in LayoutResolver.InOrder(now.Site.Layers)
        from type in now.RecordTypes
        let laid = type.Screens.Layers.FirstOrDefault(known => known.Id == layer.Id)
        where laid is not null && next.Find(type.Code) is not null
        from operation in laid.Operations
        select For(layer, type, next.Find(type.Code)!, operation);

    private LayerFate For(Layer layer, RecordType type, RecordType nextType, LayerOperation operation)
    {
        var (before, after) = (Screen(type, layer, operation), Screen(nextType, layer, operation));

        // What is called otherwise is named as it was before that.
        var says = LayerWords.Whole(operation, id =>
            id == operation.Part && operation.Op == LayerOperation.Relabel ? Bare(type, id) ?? before.NameOf(id) : before.NameOf(id)
        );
        if (operation.IsOfList && type.Screens.Lists.FirstOrDefault(list => list.Knows(operation.Part)) is { } shown)
            says = $"{shown.InWords}, {says}";
        LayerFate Is(Fate fate, string? sentence) => new(layer, type.Code, operation, says, fate, sentence);

        // Conditions and addresses may be written anew, so the same operation is found by its place.
        var at = type.Screens.Layers.First(known => known.Id == layer.Id).Operations.ToList().IndexOf(operation);
        var then = nextType.Screens.Layers.FirstOrDefault(known => known.Id == layer.Id)?.Operations.ElementAtOrDefault(at) ?? operation;
        var clash = after.Clashes.FirstOrDefault(known => known.Layer.Id == layer.Id && SiteDefinition.Same(known.Operation, then));
        if (clash is not null && before.Clashes.All(known => known.Sentence != clash.Sentence))
            return Is(IsGone(type, nextType, operation) ? Fate.HasNothingToDo : Fate.LosesAnchor, clash.Sentence);
        if (Moved(before, after, operation) is { } moved)
            return Is(Fate.Follows, moved);
        foreach (
            var id in new[] { operation.Part, operation.After, operation.New?.Field }.OfType<string>().Select(id => FieldIdOf(type, id))
        )
            if (Renamed(type, nextType, id, operation) is { } renamed)
                return renamed.Follows ? Is(Fate.Follows, renamed.Sentence) : Is(Fate.Stays, renamed.Sentence);
        return Is(Fate.Stays, Beside(type, after, operation));
    }

    private static string? Bare(RecordType type, string id) =>
        type.TryFindField(id, out var field) ? field.Label : Labels(type).GetValueOrDefault(id);

    // The screen, or the list, as the people of its audience get it who are in no other.
    private static Resolved Screen(RecordType type, Layer layer, LayerOperation operation)
    {
        List<Layer> laid =
        [
            .. type.Screens.Layers.Where(known =>
                known.Id == layer.Id || (known.For!.Kind == AudienceKind.Everyone && layer.Audience != Layer.Everyone)
            ),
        ];
        if (operation.IsOfList && type.Screens.Lists.FirstOrDefault(list => list.Knows(operation.Part)) is { } shown)
            return type.Screens.ListFor(shown, laid);
        return type.Screens.For(laid, operation.On == "adding" ? RecordMode.Adding : RecordMode.Changing, LayoutResolver.HoldsAtMost);
    }

    // For a column of a list: its field, whose name is the column's.
    private static string FieldIdOf(RecordType type, string id) =>
        type.Screens.Lists.Select(list => list.FieldIdOf(id)).FirstOrDefault(field => field is not null) ?? id;

    private static bool IsGone(RecordType type, RecordType next, LayerOperation operation)
    {
        if (operation.IsOfList)
            return next.Screens.Lists.Any(list =>
                list.FieldIdOf(operation.Part) is { } field && list.Type.Description.Removed.ContainsKey(field)
            );
        return next.Description.Removed.ContainsKey(FieldIdOf(type, operation.Part))
            || (operation.New?.Field is { } again && next.Description.Removed.ContainsKey(again));
    }

    private static string? Moved(Resolved before, Resolved after, LayerOperation operation)
    {
        var (was, stands) = (Where(before, operation.Part), Where(after, operation.Part));
        if (was is null || stands is null || (was.Value.Page.Id == stands.Value.Page.Id && was.Value.Section.Id == stands.Value.Section.Id))
            return null;
        var with = operation.After is { } anchor && Where(after, anchor) is not null ? $" with {after.NameOf(anchor)}" : "";
        return $"{after.NameOf(operation.Part)} goes{with} to the page {stands.Value.Page.Label}, section {stands.Value.Section.Label}.";
    }

    private static (LayoutPage Page, LayoutSection Section)? Where(Resolved screen, string id)
    {
        foreach (var page in screen.Layout.Pages)
        foreach (var section in page.Sections)
            if (section.Items.Any(item => item.Id == id))
                return (page, section);
        return null;
    }

    private static (bool Follows, string Sentence)? Renamed(RecordType type, RecordType next, string id, LayerOperation operation)
    {
        if (type.TryFindField(id, out var field) && next.TryFindField(id, out var then))
        {
            if (field.Code != then.Code)
                return (true, $"{then.Label} has the code {then.Code} now.");
            if (field.Label != then.Label)
                return operation is { Op: LayerOperation.Relabel, Label.Length: > 0 }
                    ? (
                        false,
                        $"It goes on being called “{operation.Label}” here; the ERP calls it {then.Label} instead of {field.Label} now."
                    )
                    : (true, $"{field.Label} is called {then.Label} now.");
        }

        if (Labels(type).TryGetValue(id, out var was) && Labels(next).TryGetValue(id, out var called) && was != called)
            return operation is { Op: LayerOperation.Relabel, Label.Length: > 0 }
                ? (false, $"It goes on being called “{operation.Label}” here; the ERP calls it {called} instead of {was} now.")
                : (true, $"{was} is called {called} now.");
        return null;
    }

    private static Dictionary<string, string> Labels(RecordType type) =>
        type
            .Description.Screen.Pages.SelectMany(page =>
                page.Sections.Select(section => (section.Id, section.Label)).Prepend((page.Id, page.Label))
            )
            .DistinctBy(part => part.Id)
            .ToDictionary(part => part.Id, part => part.Label, StringComparer.Ordinal);

    // What the host puts where the site had put something already.
    private static string? Beside(RecordType type, Resolved after, LayerOperation operation)
    {
        if (operation.Op is not (LayerOperation.Put or LayerOperation.Move) || Where(after, operation.Part) is not var (_, section))
            return null;
        var items = section.Items.ToList();
        var beside = items.ElementAtOrDefault(items.FindIndex(item => item.Id == operation.Part) + 1) as LayoutPlace;
        return beside is { Field.IsAdded: false } && !type.TryFindField(beside.Field.Id, out _)
            ? $"The ERP's new {beside.Field.Label} comes right after it."
            : null;
    }
}
