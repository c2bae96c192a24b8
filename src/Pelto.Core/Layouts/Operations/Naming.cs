namespace Pelto.Core.Layouts;

internal sealed class RelabelOperation : SettingOperation
{
    private static readonly Dictionary<string, string> NoTexts = [];

    public override string Name => LayerOperation.Relabel;

    public override bool IsOfColumns => true;

    public override bool IsOwnOnScreens => true;

    public override bool IsOwnInLists => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("called", "calls");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf)
    {
        if (operation.Label is { Length: > 0 } label)
            return $"{name} “{label}”";
        var texts = (operation.Texts ?? NoTexts).Select(text => $"{text.Key} (“{text.Value}”)");
        return $"{name} otherwise in {string.Join(", ", texts)}";
    }

    public override string? Refuse(LayerOperation operation) =>
        string.IsNullOrWhiteSpace(operation.Label) && operation.Texts is not { Count: > 0 } ? "Say what it is called here." : null;

    protected override void Set(ScreenNode node, LayerOperation operation)
    {
        var (label, texts) = (operation.Label, operation.Texts);
        node.Caption =
            label is { Length: > 0 } ? new(label, texts)
            : texts is { Count: > 0 } ? new(node.Caption?.Label, Over(node.Caption?.Texts, texts))
            : null;
    }

    // What a layer says in other languages alone leaves what was said before as it is.
    private static Dictionary<string, string> Over(IReadOnlyDictionary<string, string>? before, IReadOnlyDictionary<string, string> texts)
    {
        var all = new Dictionary<string, string>(before ?? NoTexts, StringComparer.Ordinal);
        foreach (var (language, text) in texts)
            all[language] = text;
        return all;
    }
}

internal sealed class ResizeOperation : SettingOperation
{
    public override string Name => LayerOperation.Resize;

    public override bool IsOfColumns => true;

    public override bool IsOwnOnScreens => true;

    public override bool IsOwnInLists => true;

    public override (string Past, string Present) Verb(LayerOperation operation) => ("made", "makes");

    public override string What(LayerOperation operation, string name, Func<string, string> nameOf) =>
        $"{name} {operation.Width} of 12 wide";

    public override string? Refuse(LayerOperation operation) =>
        operation.Width is >= 1 and <= 12 ? null : "A width is 1 to 12 of twelve columns.";

    protected override void Set(ScreenNode node, LayerOperation operation) => node.Width = Math.Clamp(operation.Width ?? node.Width, 1, 12);
}
