namespace Pelto.Web.Components;

/// <summary>A field as the form draws it.</summary>
public sealed class FieldView
{
    /// <summary>What this person gets of it.</summary>
    public required Cell Cell { get; init; }

    /// <summary>The field.</summary>
    public Field Field => Cell.Field;

    /// <summary>The input's name.</summary>
    public required string Name { get; init; }

    /// <summary>The input's id.</summary>
    public string Id => Name.Replace('.', '-');

    /// <summary>The name of the input that holds the value; another one's, where the field stands a second time.</summary>
    public string Of { get; init; } = "";

    /// <summary>Its place on the screen.</summary>
    public LayoutPlace? Place { get; init; }

    /// <summary>Columns of twelve.</summary>
    public required int Width { get; init; }

    /// <summary>What stands for a value that this person sees only masked; null for one that they may see.</summary>
    public string? Masked => Cell.Mask;

    /// <summary>Its value.</summary>
    public Value Value => Cell.Value;

    /// <summary>What stands in the input; for an amount without its unit, for choices their codes.</summary>
    public required string Text { get; init; }

    /// <summary>For amounts: the currency or the unit.</summary>
    public required string Unit { get; init; }

    /// <summary>The conventions of the person who looks.</summary>
    public required Locale Locale { get; init; }

    /// <summary>The record's id, once it is kept.</summary>
    public required long? Record { get; init; }

    /// <summary>The line's id, in a line that is kept.</summary>
    public required long? LineId { get; init; }

    /// <summary>What people of this language read.</summary>
    public (string Label, string Heading, string? Help) Texts => Place?.TextIn(Locale) ?? Field.TextIn(Locale);

    /// <summary>The value as people read it.</summary>
    public string Read => Field.Kind.Format(Value, Locale);

    /// <summary>
    /// What stands there as people read it, where there is no input: links by what they point to, formatted text without its format.
    /// </summary>
    public string InWords =>
        Masked is { } masked ? masked
        : Field.Kind.IsSeveralLinks
            ? string.Join("; ", Targets.Select(target => IsInLine && target.Identifier.Length > 0 ? target.Identifier : target.Text))
        : LinkText.Length > 0 ? LinkText
        : Field.Kind.Plain(Value, Locale);

    /// <summary>Where a file or picture of this field is read.</summary>
    public string FileAddress => FileRoutes.AddressOf(Field, Record, LineId, Value);

    /// <summary>For links: what people read there.</summary>
    public required string LinkText { get; init; }

    /// <summary>For links: what it points to.</summary>
    public required Target? Target { get; init; }

    /// <summary>For several links: what they point to.</summary>
    public IReadOnlyList<Target> Targets { get; init; } = [];

    /// <summary>True for somebody outside, who finds only what was released.</summary>
    public bool IsOutside { get; init; }

    /// <summary>For links: true when this person may create what it points to.</summary>
    public bool MayMake { get; init; }

    /// <summary>True when the record cannot be saved without it.</summary>
    public bool IsRequired { get; init; }

    /// <summary>True when this person may type here.</summary>
    public required bool IsWritable { get; init; }

    /// <summary>What is wrong.</summary>
    public required IReadOnlyList<string> Messages { get; init; }

    /// <summary>True when only a save can tell that it is wrong, and that it is mended.</summary>
    public bool IsOnlyBySaving { get; init; }

    /// <summary>What somebody else saved here meanwhile.</summary>
    public required Clash? Clash { get; init; }

    /// <summary>What somebody else saved here meanwhile, as people read it.</summary>
    public required string TheirText { get; init; }

    /// <summary>The same as the input holds it.</summary>
    public string TheirValue => Clash is not { Theirs.IsEmpty: false } clash ? "" : Field.Kind.Input(clash.Theirs, Locale);

    /// <summary>Its currency or unit.</summary>
    public string TheirUnit => Clash is { Theirs.DataType: DataType.Money or DataType.Quantity } clash ? clash.Theirs.Unit : "";

    /// <summary>True for the field that a preview is about.</summary>
    public required bool IsDraft { get; init; }

    /// <summary>True in a line, where the column's heading is the label.</summary>
    public required bool IsInLine { get; init; }

    /// <summary>False while the condition under which it is shown does not hold.</summary>
    public bool IsShown { get; init; } = true;

    /// <summary>Where Tab comes to it, where a layer says so: its turn, or <c>skip</c>.</summary>
    public string? Tab { get; init; }

    /// <summary>For what is filled and may be changed: what the record says of that.</summary>
    public FilledNote? Filled { get; init; }

    /// <summary>What the form says of it: typed by hand, to be filled again, or nothing.</summary>
    public string By { get; init; } = "";

    /// <summary>A value as it stands in a row of a list.</summary>
    public static FieldView InRow(ListRow row, Field column, Locale locale) =>
        new()
        {
            Cell = row[column],
            Name = "",
            Width = 1,
            Text = "",
            Unit = "",
            Locale = locale,
            Record = row.Id,
            LineId = null,
            LinkText = row[column].Label,
            Target = null,
            IsWritable = false,
            Messages = [],
            Clash = null,
            TheirText = "",
            IsDraft = false,
            IsInLine = true,
        };

    /// <summary>What an input in a line is called, which has no label beside it; null for others.</summary>
    public string? InputLabel => IsInLine ? Texts.Label : null;

    /// <summary>For the attribute <c>aria-invalid</c>.</summary>
    public string? Invalid => Messages.Count > 0 || Clash is not null ? "true" : null;

    /// <summary>For the attribute <c>aria-required</c>.</summary>
    public string? RequiredMark => Field.Required || IsRequired ? "true" : null;

    /// <summary>
    /// For links whose target people may make while they choose: by which of its fields, <c>-</c> for none; null where they may not.
    /// </summary>
    public string? MakesBy =>
        !MayMake ? null
        : Field.Target!.Name.Kind is { DataType: DataType.Text, Control: FieldKind.PlainControl } ? Field.Target.Name.Code
        : "-";

    /// <summary>A text as a row of a list holds it, which is one line high: the record has the rest.</summary>
    public static string Cut(string text) =>
        text.ReplaceLineEndings(" ") is { Length: > 80 } line ? line[..79] + "…" : text.ReplaceLineEndings(" ");

    /// <summary>For a link out of a value: where it is opened; null for the same place, such as a mail program.</summary>
    public static string? OpensIn(string address) => address.StartsWith("http", StringComparison.Ordinal) ? "_blank" : null;

    /// <summary>For a link out of a value: what the page that it leads to learns, which is nothing.</summary>
    public static string? Rel(string address) => OpensIn(address) is null ? null : "noopener noreferrer";

    /// <summary>Ids of the texts that explain the input, for assistive technology.</summary>
    public string? DescribedBy =>
        string.Join(
            ' ',
            new[]
            {
                Field.Kind.DataType == DataType.Moment && !IsInLine ? Id + "-zone" : null,
                Texts.Help is not { Length: > 0 } || IsInLine ? null : Id + "-help",
                Messages.Count > 0 || Clash is not null ? Id + "-message" : null,
                Filled is null ? null : Id + "-filled",
            }.Where(id => id is not null)
        )
            is { Length: > 0 } ids
            ? ids
            : null;
}
