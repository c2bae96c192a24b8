namespace Pelto.Core.Layouts;

/// <summary>A screen while layers are folded into it.</summary>
internal sealed class ScreenTree
{
    private readonly RecordType type;
    private readonly IReadOnlySet<string> made;
    private readonly ScreenNode root;
    private readonly Dictionary<string, ScreenNode> nodes = new(StringComparer.Ordinal);
    private readonly HashSet<Field> hiddenLists = [];
    private readonly Dictionary<string, List<TraceStep>> trace = new(StringComparer.Ordinal);
    private readonly List<LayerClash> clashes = [];
    private readonly List<TraceStep> sorts = [];
    private readonly ListOf? list;

    /// <param name="list">The list.</param>
    public ScreenTree(ListOf list)
    {
        (this.list, type, made) = (list, list.Type, new HashSet<string>());
        root = new(NodeKind.Screen, "screen:" + list.Id, list.Type.Plural);
        var columns = Add(
            Add(root, new(NodeKind.Page, "page:" + list.Id, list.Type.Plural)),
            new(NodeKind.Section, list.Id, list.Type.Plural)
        );
        foreach (var column in list.Standard)
            Add(columns, Column(column));
    }

    /// <param name="type">The record type.</param>
    /// <param name="made">Ids of all that layers make, under whatever condition.</param>
    public ScreenTree(RecordType type, IReadOnlySet<string> made)
    {
        (this.type, this.made) = (type, made);
        root = new(NodeKind.Screen, "screen:" + type.Code, type.Label);
        nodes[root.Id] = root;
        foreach (var page in type.Description.Screen.Pages)
        {
            var sheet = Add(root, new(NodeKind.Page, page.Id, page.Label));
            foreach (var section in page.Sections)
            {
                var part = section.Lines is null ? type.Header : type.FindPart(section.Lines) ?? type.Header;
                var area = Add(sheet, new(NodeKind.Section, section.Id, section.Label) { Lines = part.IsLines ? part : null });
                foreach (var place in section.Places)
                    if (part.Find(place.Field) is { } field && !nodes.ContainsKey(field.Id))
                        Add(area, new(NodeKind.Item, field.Id, field.Label) { Field = field, Width = place.Width });
            }
        }

        foreach (var field in type.Parts.SelectMany(part => part.AddedFields))
            if (FirstFor(field.Part) is { } section)
                Add(section, Place(field));
    }

    public void Apply(LayerOperation operation, Layer layer)
    {
        var step = new TraceStep(layer, operation);
        if (Find(step) is not { } node)
        {
            if (GoneOf(operation) is { } gone)
                Clash(step, $"{gone.Label} is no longer in {gone.Version}: nothing is left to do.");
            return;
        }

        if (list is not null && node.Field is null && operation.Op != LayerOperation.Own)
        {
            Clash(step, "Of a list as a whole, a layer says only whether people may arrange it for themselves.", true);
            return;
        }

        if (OperationKinds.Find(operation.Op) is not { } kind)
            Clash(step, OperationKinds.Unknown(operation.Op), true);
        else if (kind.ApplyTo(this, node, step))
            Trace(node.Id, step);
    }

    /// <summary>What says where Tab goes, in the order in which it is said.</summary>
    public List<TraceStep> Tabs { get; } = [];

    /// <summary>Takes a part off the screen.</summary>
    public void Hide(ScreenNode node, TraceStep step)
    {
        if (node.Pointing is { } link)
            hiddenLists.Add(link);
        node.Hidden = step;
    }

    /// <summary>Puts the rows of a list in the order of a column, in place of what earlier layers say.</summary>
    public void Sort(TraceStep step)
    {
        sorts.RemoveAll(other => other.Layer != step.Layer);
        sorts.Add(step);
    }

    public Resolved Result()
    {
        if (list is null)
            UndoHarm();
        var layout = new Layout([.. root.Children.Where(page => page.Hidden is null).Select(PageOf)]) { HiddenLists = hiddenLists };
        var (order, lost) = TabOrder.For(layout, [.. Tabs.Select(step => step.Operation)]);
        foreach (var step in Tabs.Where(step => lost.Contains(step.Operation)))
            Clash(
                step,
                $"Tab was to come to {NameOf(step.Operation.Part)} after "
                    + $"{NameOf(step.Operation.After!)}, which is not there; it comes as one reads."
            );
        var steps = trace.ToDictionary(pair => pair.Key, pair => (IReadOnlyList<TraceStep>)pair.Value);
        return new(
            layout with
            {
                Tabs = order,
            },
            steps,
            clashes,
            nodes.ToDictionary(pair => pair.Key, pair => NameOf(pair.Key)),
            HiddenParts()
        )
        {
            Sorted =
            [
                .. sorts
                    .Where(step => nodes[step.Operation.Part].Field is not null)
                    .Select(step => (nodes[step.Operation.Part].Field!, step.Operation.Off)),
            ],
            Fields = nodes.Where(pair => pair.Value.Field is not null).ToDictionary(pair => pair.Key, pair => pair.Value.Field!),
        };
    }

    // The part that an operation is about; made, when it is one that is put on the screen.
    private ScreenNode? Find(TraceStep step)
    {
        var operation = step.Operation;
        if (nodes.TryGetValue(operation.Part, out var known))
            return known;
        if (list is not null)
            return operation.Op is LayerOperation.Put or LayerOperation.Sort && list.Find(operation.Part) is { } column
                ? Keep(Column(column))
                : null;
        if (type.PointedBy.FirstOrDefault(link => LayoutSection.IdOf(link) == operation.Part) is { } pointing)
            return Keep(
                new(NodeKind.Section, operation.Part, $"{pointing.Part.RecordType.Plural} by {pointing.Label}") { Pointing = pointing }
            );
        if (type.TryFindField(operation.Part, out var field))
            return operation.Op == LayerOperation.Put ? Keep(Place(field)) : null;
        if (operation is not { Op: LayerOperation.Put, New: { } made })
            return null;
        var label = operation.Label ?? "";
        switch (made.What)
        {
            case NewPart.Page:
                return Keep(new(NodeKind.Page, operation.Part, label) { Made = made });
            case NewPart.Section:
                return Keep(new(NodeKind.Section, operation.Part, label) { Made = made });
            case NewPart.Guidance or NewPart.Button or NewPart.Scratch:
                return Keep(
                    new(NodeKind.Item, operation.Part, made.What == NewPart.Guidance ? "guidance" : label)
                    {
                        Made = made,
                        Width = made.What == NewPart.Guidance ? 12 : 2,
                    }
                );
            case NewPart.Again when made.Field is { } id && type.TryFindField(id, out var again) && !again.Part.IsLines:
                return Keep(
                    new(NodeKind.Item, operation.Part, again.Label)
                    {
                        Field = again,
                        Made = made,
                        Width = again.Kind.Width,
                    }
                );
            default:
                return null;
        }
    }

    // As wide as what stands in it, unless a layer says otherwise.
    private ScreenNode Column(Field field) => new(NodeKind.Item, list!.IdOf(field), field.Label) { Field = field, Width = 0 };

    private static ScreenNode Place(Field field) => new(NodeKind.Item, field.Id, field.Label) { Field = field, Width = field.Kind.Width };

    // After its anchor, or first in what it is anchored to. When that is gone it stays in sight, where it would stand without this
    // operation.
    public bool MoveTo(ScreenNode node, TraceStep step)
    {
        var after = step.Operation.After;
        if (after is null || after == node.Id)
        {
            Finish(node);
            return node.Parent is not null;
        }

        var anchor = nodes.GetValueOrDefault(after);
        var into =
            anchor is null ? null
            : anchor.Takes(node) ? anchor
            : anchor.Parent?.Takes(node) == true ? anchor.Parent
            : null;
        if (anchor is null && made.Contains(after))
            return WaitsFor(node);
        if (anchor is null && type.Description.Removed.TryGetValue(after, out var gone) && Meanwhile(after, node) is { } meanwhile)
        {
            Clash(
                step,
                $"{NameOf(node.Id)} was to stand after {gone.Label}, which is no longer in {gone.Version}; "
                    + $"it stands {(meanwhile.Takes(node) ? "first in" : "after")} {NameOf(meanwhile.Id)} meanwhile."
            );
            (anchor, into) = (meanwhile, meanwhile.Takes(node) ? meanwhile : meanwhile.Parent);
        }

        if (into is null || Stands(anchor!, node))
        {
            Finish(node);
            Clash(
                step,
                $"{(node.Pointing is null ? "" : "The list ")}{NameOf(node.Id)} was to stand after {NameOf(after)}, "
                    + $"which is not {(anchor is null ? "on this screen" : "where it can stand")}{(node.Pointing is null || node.Parent is not null ? "" : "; it stands below the screen")}."
            );
            return false;
        }

        node.Leave();
        var at = into == anchor ? 0 : into.Children.IndexOf(anchor!) + 1;

        // Lists of what points here keep the order in which they were put.
        while (node.Pointing is not null && at < into.Children.Count && into.Children[at].Pointing is not null)
            at++;
        into.InsertAt(at, node);
        return true;
    }

    // Where what is gone stood: after what it stood after, and so on until that is there.
    private ScreenNode? Meanwhile(string after, ScreenNode node)
    {
        for (var steps = type.Description.Removed.Count; steps > 0 && type.Description.Removed.TryGetValue(after, out var gone); steps--)
        {
            after = gone.After;
            if (nodes.GetValueOrDefault(after) is not { } stands)
                continue;

            // With a section its page may be gone: what stood there goes to the last section of the page before.
            if (stands.Kind == NodeKind.Page && node.Kind == NodeKind.Item)
                return stands.Children.LastOrDefault(section => section.Takes(node));
            if ((stands.Takes(node) || stands.Parent?.Takes(node) == true) && !Stands(stands, node))
                return stands;
        }

        return null;
    }

    private RemovedPart? GoneOf(LayerOperation operation) =>
        type.Description.Removed.GetValueOrDefault(list?.FieldIdOf(operation.Part) ?? operation.Part)
        ?? (operation.New?.Field is { } again ? type.Description.Removed.GetValueOrDefault(again) : null);

    // What was made to stand in a section that a condition takes away goes with it; a field stays where it stood.
    private bool WaitsFor(ScreenNode node)
    {
        if (node.Made is null)
            Finish(node);
        return false;
    }

    // Nothing stands within itself.
    private static bool Stands(ScreenNode? within, ScreenNode node) =>
        within is not null && (within == node || Stands(within.Parent, node));

    private void Finish(ScreenNode node)
    {
        if (node.Parent is not null || node.Pointing is not null)
            return;
        if (node.Kind == NodeKind.Page)
            root.Append(node);
        else if (node.Kind == NodeKind.Section)
            root.Children.FirstOrDefault(page => page.Hidden is null)?.Append(node);
        else
            FirstFor(node.Field?.Part ?? type.Header)?.Append(node);
    }

    private ScreenNode? FirstFor(Part part) =>
        root
            .Children.SelectMany(page => page.Children)
            .FirstOrDefault(section => section.Pointing is null && section.Lines == (part.IsLines ? part : null));

    // What is shown is shown with all that it stands in, of which the rest stays hidden.
    public void Reveal(ScreenNode node)
    {
        node.Hidden = null;
        if (node.Pointing is { } link)
            hiddenLists.Remove(link);
        Open(node);
    }

    // Gives the step that hid what the node stands in, if any.
    private static TraceStep? Open(ScreenNode node)
    {
        if (node.Parent is not { } container)
            return null;
        var hid = Open(container) ?? container.Hidden;
        container.Hidden = null;
        if (hid is null)
            return null;
        foreach (var other in container.Children.Where(other => other != node))
            other.Hidden ??= hid;
        return hid;
    }

    // A field that nobody could do without is not hidden, nor kept from being typed in.
    private void UndoHarm()
    {
        foreach (var places in nodes.Values.Where(node => node.Field is not null && IsDemanded(node)).GroupBy(node => node.Field!))
        {
            if (places.Any(node => node is { IsVisible: true, IsLocked: false, Parent: not null }))
                continue;
            var node = places.FirstOrDefault(node => node.Parent is not null);
            if (node is null || Cause(node) is not { } cause)
                continue;
            var what = cause.Operation.Op == LayerOperation.Lock ? "locked" : "hidden";
            Clash(
                cause,
                $"{places.Key.Label} cannot be {what}: it is required, "
                    + "is not filled by itself and has no default, so nobody could save a record.",
                true
            );
            node.IsLocked = false;
            Reveal(node);
        }
    }

    private static bool IsDemanded(ScreenNode node) =>
        (node.Field!.Required || node.IsRequired)
        && node.Field is { IsTyped: true, IsFilled: false }
        && string.IsNullOrWhiteSpace(node.Field.Content.DefaultValue);

    private TraceStep? Cause(ScreenNode node) =>
        node.Hidden
        ?? node.Parent?.Hidden
        ?? node.Parent?.Parent?.Hidden
        ?? (node.IsLocked ? trace.GetValueOrDefault(node.Id)?.LastOrDefault(step => step.Operation.Op == LayerOperation.Lock) : null);

    private LayoutPage PageOf(ScreenNode page) =>
        new(page.Id, page.Label, [.. page.Children.Where(section => section.Hidden is null).Select(SectionOf)]) { Caption = page.Caption };

    private LayoutSection SectionOf(ScreenNode section) =>
        new(
            section.Id,
            section.Label,
            section.Lines,
            [.. section.Children.Where(item => item.Hidden is null).Select(ItemOf)],
            section.Pointing
        )
        {
            Caption = section.Caption,
            IsFolded = section.IsFolded,
            Looks = section.Looks,
        };

    // A field's input stands at the first place that is shown and not locked.
    private LayoutItem ItemOf(ScreenNode item) =>
        item.Field is { } field
            ? new LayoutPlace(field, item.Width)
            {
                Id = item.Id,
                Caption = item.Caption,
                StartsRow = item.StartsRow,
                IsLocked = item.IsLocked,
                IsRequired = item.IsRequired,
                IsAgain =
                    item.Id != field.Id && nodes.TryGetValue(field.Id, out var own) && own is { IsVisible: true, Parent: not null }
                    || IsLater(item, field),
            }
            : new LayoutExtra(item.Made!, item.Width)
            {
                Id = item.Id,
                Caption = item.Caption,
                StartsRow = item.StartsRow,
            };

    private bool IsLater(ScreenNode item, Field field) =>
        item.Id != field.Id
        && nodes.Values.TakeWhile(node => node != item).Any(node => node.Field == field && node is { IsVisible: true, Parent: not null });

    private Dictionary<string, string> HiddenParts()
    {
        var hidden = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var node in nodes.Values.Where(node => node is { Hidden: not null, Parent: not null }))
        {
            var at = node.Parent!.Children.IndexOf(node);
            while (--at >= 0 && node.Parent.Children[at].Hidden is not null)
                continue;
            hidden[node.Id] = at < 0 ? node.Parent.Id : node.Parent.Children[at].Id;
        }

        return hidden;
    }

    private string NameOf(string id) =>
        nodes.TryGetValue(id, out var node) ? node.Caption?.Label ?? (node.Field is { } field ? field.Label : node.Label)
        : type.TryFindField(id, out var other) ? other.Label
        : type.Description.Removed.TryGetValue(id, out var gone) ? gone.Label
        : id;

    private ScreenNode Add(ScreenNode parent, ScreenNode node)
    {
        parent.Append(node);
        return Keep(node);
    }

    private ScreenNode Keep(ScreenNode node) => nodes[node.Id] = node;

    private void Trace(string id, TraceStep step)
    {
        if (!trace.TryGetValue(id, out var steps))
            trace[id] = steps = [];
        steps.Add(step);
    }

    public void Clash(TraceStep step, string sentence, bool refused = false) =>
        clashes.Add(new(step.Layer, step.Operation, sentence, refused));
}
