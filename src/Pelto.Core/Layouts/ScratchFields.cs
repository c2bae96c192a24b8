namespace Pelto.Core.Layouts;

/// <summary>
/// Scratch fields: typed on a screen, or calculated there, for what stands on it alone. Nothing of them is stored, and they are gone when
/// one leaves.
/// </summary>
public static class ScratchFields
{
    private const int LongestText = 200;
    private const int DecimalDigits = 15;

    /// <summary>The names of the kinds that they can have.</summary>
    public static IReadOnlyList<string> Kinds { get; } = ["text", "integer", "decimal", "percent", "date", "yes_no"];

    /// <summary>What a scratch field takes, or gives.</summary>
    public static FieldKind KindOf(NewPart made)
    {
        var options = new FieldDefinition { Kind = Kinds.Contains(made.Kind) ? made.Kind! : Kinds[0], Decimals = made.Decimals };
        var usual = FieldKinds.Find(options.Kind)!;
        return FieldKinds.Make(options with { Length = LongestText, Digits = DecimalDigits }, static (_, _) => { }) ?? usual;
    }

    /// <summary>Those that layers make on the screen of a record type.</summary>
    public static IEnumerable<NewPart> On(RecordType type, IEnumerable<Layer> layers) =>
        layers
            .SelectMany(layer => layer.Operations)
            .Where(operation => operation.New is { What: NewPart.Scratch } && operation.Screen == type.Code)
            .Select(operation => operation.New!);

    /// <summary>What formulas of the screen can name, after a colon: those that people type, with the type of each.</summary>
    public static IReadOnlyDictionary<string, DataType> Names(IEnumerable<NewPart> made) =>
        made.Where(scratch => string.IsNullOrWhiteSpace(scratch.Formula) && !string.IsNullOrEmpty(scratch.Code))
            .DistinctBy(scratch => scratch.Code)
            .ToDictionary(scratch => scratch.Code!, scratch => KindOf(scratch).DataType, StringComparer.Ordinal);

    /// <summary>What is wrong with one, as sentences.</summary>
    public static IEnumerable<string> Refusals(NewPart made)
    {
        if (!Codes.IsCode(made.Code))
            yield return $"A scratch field needs a code, such as wish: {Codes.Rule}";
        if (made.Kind is null || !Kinds.Contains(made.Kind))
            yield return $"A scratch field is of the kind {string.Join(", ", Kinds)}.";
        if (made.Decimals is < 0 or > 6)
            yield return "A scratch field has 0 to 6 digits after the point.";
    }
}
