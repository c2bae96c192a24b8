namespace Pelto.Core.Layouts;

internal sealed class PutOperation : OperationKind
{
    public override string Name => LayerOperation.Put;

    public override bool IsOfColumns => true;

    // Columns can be brought into lists, among those that the person may see; on screens nothing is shown that an administrator hid.
    public override bool IsOwnInLists => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("put", "puts");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.New is { } made ? $"{Made(made, name)} here{After(operation, nameOf)}" : name + After(operation, nameOf);

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        var stands = tree.MoveTo(node, step);
        tree.Reveal(node);
        if (step.Operation.Width is { } proposed)
            node.Width = Math.Clamp(proposed, 1, 12);
        if (step.Operation is { New: not null, Label: { Length: > 0 } called })
            node.Caption = new(called, step.Operation.Texts);
        return stands;
    }

    private static string Made(NewPart made, string name) =>
        made.What switch
        {
            NewPart.Page => $"the page {name}",
            NewPart.Section => $"the section {name}",
            NewPart.Guidance => "guidance",
            NewPart.Button => $"the button {name}",
            NewPart.Scratch => $"the scratch field {name}",
            _ => $"{name} once more",
        };
}

internal sealed class MoveOperation : OperationKind
{
    public override string Name => LayerOperation.Move;

    public override bool IsOfColumns => true;

    public override bool IsOwnOnScreens => true;

    public override bool IsOwnInLists => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("moved", "moves");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) => name + After(operation, nameOf);

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step) => tree.MoveTo(node, step);
}

internal sealed class HideOperation : OperationKind
{
    public override string Name => LayerOperation.Hide;

    public override bool IsOfColumns => true;

    public override bool IsOwnOnScreens => true;

    public override bool IsOwnInLists => true;

    public override bool IsSetting => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("hid", "hides");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) => name;

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        tree.Hide(node, step);
        return true;
    }
}

internal sealed class ShowOperation : OperationKind
{
    public override string Name => LayerOperation.Show;

    public override bool IsOfColumns => true;

    public override bool IsOwnInLists => true;

    public override bool IsSetting => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("showed", "shows");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) => name;

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        tree.Reveal(node);
        return true;
    }
}
