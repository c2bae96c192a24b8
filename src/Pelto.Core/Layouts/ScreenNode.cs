namespace Pelto.Core.Layouts;

/// <summary>What a part of a screen is.</summary>
internal enum NodeKind
{
    /// <summary>The screen.</summary>
    Screen,

    /// <summary>A page.</summary>
    Page,

    /// <summary>A section, or a list of what points here.</summary>
    Section,

    /// <summary>What stands in a section.</summary>
    Item,
}

/// <summary>A part of a screen while layers change it. One kind of node for all of them, so that each operation is written once.</summary>
internal sealed class ScreenNode(NodeKind kind, string id, string label)
{
    public NodeKind Kind { get; } = kind;

    public string Id { get; } = id;

    public string Label { get; } = label;

    public ScreenNode? Parent { get; private set; }

    public List<ScreenNode> Children { get; } = [];

    public Caption? Caption { get; set; }

    /// <summary>For a place of a field.</summary>
    public Field? Field { get; init; }

    /// <summary>For a section with lines.</summary>
    public Part? Lines { get; init; }

    /// <summary>For a list of what points here.</summary>
    public Field? Pointing { get; init; }

    /// <summary>What a layer made here.</summary>
    public NewPart? Made { get; init; }

    public int Width { get; set; } = 12;

    public bool IsLocked { get; set; }

    public bool IsRequired { get; set; }

    public bool IsFolded { get; set; }

    public bool StartsRow { get; set; }

    /// <summary>How it looks, by the names of the operations that say so.</summary>
    public IReadOnlyDictionary<string, string> Looks { get; private set; } = LayoutSection.Plain;

    /// <summary>Says how it looks; null for as it looks without that.</summary>
    public void Look(string operation, string? value)
    {
        var looks = new SortedDictionary<string, string>(Looks.ToDictionary(), StringComparer.Ordinal);
        looks.Remove(operation);
        if (value is not null)
            looks.Add(operation, value);
        Looks = looks;
    }

    /// <summary>The step that hides it, or null while it is shown.</summary>
    public TraceStep? Hidden { get; set; }

    /// <summary>True when it is shown, and all that it stands in.</summary>
    public bool IsVisible => Hidden is null && (Parent?.IsVisible ?? true);

    public void Append(ScreenNode child)
    {
        child.Parent = this;
        Children.Add(child);
    }

    public void InsertAt(int index, ScreenNode child)
    {
        child.Parent = this;
        Children.Insert(index, child);
    }

    public void Leave()
    {
        Parent?.Children.Remove(this);
        Parent = null;
    }

    /// <summary>True when a child of this kind can stand here.</summary>
    public bool Takes(ScreenNode child) =>
        (Kind, child.Kind) switch
        {
            (NodeKind.Screen, NodeKind.Page) or (NodeKind.Page, NodeKind.Section) => true,
            (NodeKind.Section, NodeKind.Item) => Pointing is null
                && (child.Field is { } field ? Lines == (field.Part.IsLines ? field.Part : null) : Lines is null),
            _ => false,
        };

    public override string ToString() => $"{Kind} {Id}";
}
