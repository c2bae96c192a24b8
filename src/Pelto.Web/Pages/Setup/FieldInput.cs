using System.Globalization;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;
using Pelto.Core.Values;

namespace Pelto.Web.Pages;

/// <summary>What stands in the inputs of the field page, as text, so that nothing typed is lost.</summary>
/// <remarks>Binding gives null for an empty input; here it is the empty text.</remarks>
public sealed class FieldInput
{
    /// <summary>Says "on no screen" in the place input.</summary>
    public const string Nowhere = "-";

    /// <summary>Record type and part, such as <c>sales_order/lines</c>.</summary>
    public string Part { get; set => field = value ?? ""; } = "";

    /// <summary>What people will read.</summary>
    public string Label { get; set => field = value ?? ""; } = "";

    /// <summary>Empty until somebody types one: then it follows from the label.</summary>
    public string Code { get; set => field = value ?? ""; } = "";

    /// <summary>True once somebody typed the code.</summary>
    public bool CodeTyped { get; set; }

    /// <summary>For columns.</summary>
    public string Heading { get; set => field = value ?? ""; } = "";

    /// <summary>Tells people what to fill in.</summary>
    public string Help { get; set => field = value ?? ""; } = "";

    /// <summary>The kind's name.</summary>
    public string Kind { get; set => field = value ?? ""; } = "text";

    /// <summary>For text.</summary>
    public string Length { get; set => field = value ?? ""; } = "30";

    /// <summary>For decimals.</summary>
    public string Digits { get; set => field = value ?? ""; } = "10";

    /// <summary>For decimals.</summary>
    public string Decimals { get; set => field = value ?? ""; } = "2";

    /// <summary>For choices: one a line, <c>code = label</c> or a label alone.</summary>
    public string Choices { get; set => field = value ?? ""; } = "";

    /// <summary>What new records begin with.</summary>
    public string StartingValue { get; set => field = value ?? ""; } = "";

    /// <summary>Whether a record needs it.</summary>
    public bool Required { get; set; }

    /// <summary>The id of what it stands after; empty for the end, <see cref="Nowhere"/> for no screen.</summary>
    public string After { get; set => field = value ?? ""; } = "";

    /// <summary>Columns of twelve; empty for what its kind proposes.</summary>
    public string Width { get; set => field = value ?? ""; } = "";

    /// <summary>The record that the proof shows it on.</summary>
    public string Record { get; set => field = value ?? ""; } = "";

    /// <summary>A value to try.</summary>
    public string Sample { get; set => field = value ?? ""; } = "";

    /// <summary>The inputs for a definition.</summary>
    public static FieldInput Of(FieldDefinition field, LayerOperation? placement) => new()
    {
        Part = $"{field.RecordType}/{field.Part}",
        Label = field.Label,
        Code = field.Code,
        CodeTyped = true,
        Heading = field.Heading ?? "",
        Help = field.Help ?? "",
        Kind = field.Kind,
        Length = Text(field.Length ?? 30),
        Digits = Text(field.Digits ?? 10),
        Decimals = Text(field.Decimals ?? 2),
        Choices = string.Join('\n', (field.Choices ?? []).Select(choice => $"{choice.Code} = {choice.Label}")),
        StartingValue = field.StartingValue ?? "",
        Required = field.Required,
        After = placement?.Op == LayerOperation.Hide ? Nowhere : placement?.After ?? "",
        Width = placement?.Width is { } width ? Text(width) : "",
    };

    /// <summary>The definition that the inputs make. What cannot be read goes to <paramref name="problems"/>.</summary>
    /// <param name="id">The field's lasting id.</param>
    /// <param name="taken">Codes that other fields of the part have.</param>
    /// <param name="problems">Takes what is wrong.</param>
    public FieldDefinition ToField(string id, IEnumerable<string> taken, List<Problem> problems)
    {
        var part = Part.Split('/', 2);
        if (Width.Trim() is { Length: > 0 } width && !(int.TryParse(width, NumberStyles.None, CultureInfo.InvariantCulture, out var wide) && wide is >= 1 and <= 12))
            problems.Add(new(id, "width", "The width is a whole number from 1 to 12."));
        if (!CodeTyped || Code.Length == 0) (Code, CodeTyped) = (Codes.From(Label, taken), false);
        return new()
        {
            Id = id,
            RecordType = part[0],
            Part = part.Length > 1 ? part[1] : Core.Catalog.Part.HeaderCode,
            Label = Label.Trim(),
            Code = Code.Trim(),
            Heading = OrNull(Heading),
            Help = OrNull(Help),
            Kind = Kind,
            Length = Kind == "text" ? Number(Length, "length", "The length") : null,
            Digits = Kind == "decimal" ? Number(Digits, "digits", "The count of digits") : null,
            Decimals = Kind == "decimal" ? Number(Decimals, "decimals", "The count of digits after the point") : null,
            Choices = Kind == "choice" ? ReadChoices() : null,
            StartingValue = OrNull(StartingValue),
            Required = Required,
        };

        int? Number(string text, string property, string what)
        {
            if (int.TryParse(text.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var number)) return number;
            problems.Add(new(id, property, $"{what} is a whole number."));
            return null;
        }
    }

    /// <summary>Where the field is put; null at the end of its part, where it stands by itself.</summary>
    public LayerOperation? ToPlacement(string id)
    {
        int? width = int.TryParse(Width.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var columns) && columns is >= 1 and <= 12 ? columns : null;
        return After == Nowhere ? new() { Op = LayerOperation.Hide, Part = id }
            : After.Length == 0 ? null
            : new() { Op = LayerOperation.Put, Part = id, After = After, Width = width };
    }

    private List<Choice> ReadChoices()
    {
        var choices = new List<Choice>();
        foreach (var line in Choices.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var cut = line.Split('=', 2, StringSplitOptions.TrimEntries);
            choices.Add(cut.Length == 2 && Codes.IsChoiceCode(cut[0]) ? new(cut[0], cut[1]) : new(Codes.From(line, choices.Select(choice => choice.Code)), line));
        }

        return choices;
    }

    private static string? OrNull(string text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);
}
