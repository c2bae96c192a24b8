namespace Pelto.Core.Layouts;

/// <summary>Gives a section a background in one of the five colours, so that people find it again.</summary>
internal sealed class TintOperation : OperationKind
{
    private static readonly string[] Colours = ["moss", "rye", "clay", "fjord", "heather"];

    public override string Name => "tint";

    public override OperationChoice Choice { get; } =
        new(
            "Background",
            [("", "as without this"), .. Colours.Select(colour => (colour, colour)), ("none", "none")],
            part => part is { IsSection: true, IsOfList: false },
            operation => operation.Value ?? "none",
            chosen => new() { Op = "tint", Value = chosen == "none" ? null : chosen }
        );

    public override (string Past, string Present) Verb(LayerOperation operation) => ("gave", "gives");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        operation.Value is { } colour ? $"{name} a background of {colour}" : $"{name} no background";

    public override string? Refuse(LayerOperation operation) =>
        operation.Value is null || Colours.Contains(operation.Value)
            ? null
            : $"There is no background “{operation.Value}”; there are {string.Join(", ", Colours)}.";

    internal override bool ApplyTo(ScreenTree tree, ScreenNode node, TraceStep step)
    {
        if (node.Kind != NodeKind.Section)
        {
            tree.Clash(step, $"{node.Label} is not a section: only sections have a background.", true);
            return false;
        }

        node.Look(Name, step.Operation.Value);
        return true;
    }
}
