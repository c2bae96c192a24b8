namespace Pelto.Core.Layouts;

internal sealed class FoldOperation : SettingOperation
{
    public override string Name => LayerOperation.Fold;

    public override bool IsOwnOnScreens => true;

    public override OperationChoice Choice { get; } =
        new(
            "Folded",
            [("", "as without this"), ("on", "folded until somebody unfolds it"), ("off", "unfolded")],
            part => part is { IsSection: true, IsOfList: false },
            operation => operation.Off ? "off" : "on",
            chosen => new() { Op = LayerOperation.Fold, Off = chosen == "off" }
        );

    public override (string Past, string Present) Verb(LayerOperation operation) =>
        operation.Off ? ("unfolded", "unfolds") : ("folded", "folds");

    protected override void Set(ScreenNode node, LayerOperation operation) => node.IsFolded = !operation.Off;
}

internal sealed class RowOperation : SettingOperation
{
    public override string Name => LayerOperation.Row;

    public override bool IsOwnOnScreens => true;

    public override bool IsSetting => false;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("let", "lets");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.Off ? $"{name} follow on in its row" : $"{name} begin a row";

    protected override void Set(ScreenNode node, LayerOperation operation) => node.StartsRow = !operation.Off;
}

internal sealed class SortOperation : OperationKind
{
    public override string Name => LayerOperation.Sort;

    public override bool IsOfColumns => true;

    public override bool IsOfScreens => false;

    public override bool IsOwnInLists => true;

    public override OperationChoice Choice { get; } =
        new(
            "Rows begin",
            [("", "as without this"), ("up", "in the order of this column"), ("down", "in its order, downwards")],
            part => part is { IsOfList: true, IsOrdered: true },
            operation => operation.Off ? "down" : "up",
            chosen => new() { Op = LayerOperation.Sort, Off = chosen == "down" }
        );

    public override (string Past, string Present) Verb(LayerOperation operation) => ("sorted", "sorts");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        $"by {name}{(operation.Off ? ", downwards" : "")}";

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        if (node.Field is { Kind.IsOrdered: false } unordered)
        {
            tree.Clash(step, $"{unordered.Label} has no order to sort by.", true);
            return false;
        }

        tree.Sort(step);
        return true;
    }
}

/// <summary>For a screen or a list as a whole: whether people may arrange it for themselves.</summary>
internal sealed class PersonalOperation : OperationKind
{
    public override string Name => LayerOperation.Own;

    public override bool IsOfColumns => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => operation.Off ? ("kept", "keeps") : ("let", "lets");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.Off ? $"people from arranging {name} for themselves" : $"people arrange {name} for themselves";

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step) => true;
}
