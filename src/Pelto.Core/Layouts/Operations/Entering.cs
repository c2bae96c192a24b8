namespace Pelto.Core.Layouts;

internal sealed class LockOperation : SettingOperation
{
    public override string Name => LayerOperation.Lock;

    public override (string Past, string Present) Verb(LayerOperation operation) =>
        operation.Off ? ("unlocked", "unlocks") : ("locked", "locks");

    protected override void Set(ScreenNode node, LayerOperation operation) => node.IsLocked = !operation.Off;
}

internal sealed class RequireOperation : SettingOperation
{
    public override string Name => LayerOperation.Require;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("asked", "asks");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.Off ? $"for {name} no more than it is defined" : $"for {name}";

    protected override void Set(ScreenNode node, LayerOperation operation) => node.IsRequired = !operation.Off;
}

internal sealed class TabOperation : OperationKind
{
    public override string Name => LayerOperation.Tab;

    public override bool IsSetting => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("had", "has");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.Off ? $"Tab pass by {name}"
        : operation.After is null ? $"Tab stop at {name}"
        : $"Tab come to {name}{After(operation, nameOf)}";

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        tree.Tabs.Add(step);
        return true;
    }
}
