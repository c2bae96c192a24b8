using System.Diagnostics.CodeAnalysis;

namespace Pelto.Core.Catalog;

/// <summary>A field of the catalogue, built in or added; both go through the same code.</summary>
public sealed class Field : Bindable
{
    /// <summary>Lasting id.</summary>
    public required string Id { get; init; }

    /// <summary>What was said about it.</summary>
    public required FieldContent Content { get; init; }

    /// <summary>What values it takes.</summary>
    public required FieldKind Kind { get; init; }

    /// <summary>The part that it belongs to.</summary>
    public required Part Part { get; init; }

    /// <summary>Its place in a record's array of values.</summary>
    public required int Slot { get; init; }

    /// <summary>True for a field that the site added.</summary>
    public required bool IsAdded { get; init; }

    /// <summary>
    /// For what is seen through a link: the links to go through, and the field at their end. Empty for a field of its own.
    /// </summary>
    public IReadOnlyList<Field> Path { get; init; } = [];

    /// <summary>True for a field of another record that is seen through a link: read live, not stored here, typed by nobody.</summary>
    public bool IsThroughLink => Path.Count > 0;

    /// <summary>True when it is calculated whenever it is read: no table holds it.</summary>
    public bool IsLive => Definition is { Live: true, Formula.Length: > 0 };

    /// <summary>True when a table of this part holds it.</summary>
    public bool IsStored => !IsThroughLink && !IsLive;

    /// <summary>The field that holds the value: itself, or the one at the end of the path.</summary>
    public Field Source => IsThroughLink ? Path[^1] : this;

    /// <summary>How new records get it as their number, or null.</summary>
    public NumberingDescription? Numbering { get; init; }

    /// <summary>For a decimal of the host that is an amount of money: the field beside it that holds its currency.</summary>
    public Field? CurrencyIn => (Content as FieldDescription)?.CurrencyIn is { } code ? Part.Find(code) : null;

    /// <summary>The columns that it is kept in, in the order of its kind's; for a live one, those that queries name its value by.</summary>
    public IReadOnlyList<FieldColumn> Columns =>
        columns ??= IsThroughLink
            ? []
            : [.. Kind.Columns.Select(column => new FieldColumn(ColumnBase + column.Suffix, column.Type, column.Suffix))];

    /// <summary>The name of the table that it is kept in: that of its part, or, in schema <c>added</c>, one of those beside it.</summary>
    public string Table => Definition is { } definition ? AddedTables.NameOf(Part, definition.Table) : Part.Table;

    /// <summary>Names its columns in SQL, each after a prefix such as <c>a.</c></summary>
    public ColumnNames ColumnNames(string prefix = "") => suffix => $"{prefix}\"{ColumnBase}{suffix}\"";

    /// <summary>For links: the fields of the target that stand beside its number and name where one chooses.</summary>
    public IReadOnlyList<Field> Finds { get; internal set; } = [];

    /// <summary>True when links find a record by what stands here: single lines of text.</summary>
    public bool IsFoundBy => Kind.DataType == DataType.Text && !Kind.IsChoice && !Kind.IsLongText && IsStored;

    /// <summary>The definition, for an added field.</summary>
    public FieldDefinition? Definition => Content as FieldDefinition;

    /// <summary>The fields of documents before from which it is carried along; what they hold goes before what a formula gives.</summary>
    public IReadOnlyList<CarriedFrom> CarriedFrom { get; internal set; } = [];

    /// <summary>
    /// What it is calculated from, asked for with, or copied from; who may not see one of these does not see it, unless it is opened. Of a
    /// built-in field only those count that something guards.
    /// </summary>
    public IReadOnlyCollection<Field> GuardedBy { get; internal set; } = [];

    /// <summary>For links: the record type pointed to.</summary>
    public RecordType? Target { get; internal set; }

    /// <summary>For a number that holds the id of a line of the document before: the lines; a foreign key in the database.</summary>
    public Part? LineOf { get; internal set; }

    /// <summary>Technical name.</summary>
    public string Code => Content.Code;

    /// <summary>What people read.</summary>
    public string Label => Content.Label;

    /// <summary>For columns.</summary>
    public string Heading => string.IsNullOrEmpty(Content.Heading) ? Content.Label : Content.Heading;

    /// <summary>What people of a language read: label, column heading and help text.</summary>
    public (string Label, string Heading, string? Help) TextIn(Locale locale)
    {
        if (Content.Texts is null || !Content.Texts.TryGetValue(locale.Language, out var text))
            return (Label, Heading, Content.Help);
        var label = string.IsNullOrEmpty(text.Label) ? Label : text.Label;
        return (
            label,
            !string.IsNullOrEmpty(text.Heading) ? text.Heading
            : string.IsNullOrEmpty(text.Label) ? Heading
            : label,
            string.IsNullOrEmpty(text.Help) ? Content.Help : text.Help
        );
    }

    /// <summary>True when a record cannot be saved without it.</summary>
    public bool Required => Content.Required;

    /// <summary>What values it takes, in words, with what a link points to.</summary>
    public string KindInWords =>
        IsThroughLink ? $"{Source.KindInWords}, seen through {string.Join(" and ", Path.SkipLast(1).Select(link => link.Label))}"
        : Target is null ? Kind.Description
        : $"link to {Target.Plural.ToLowerInvariant()}";

    /// <summary>True when the ERP keeps it up itself.</summary>
    public bool IsMaintained => Content is FieldDescription { Maintained: true };

    /// <summary>What a new record begins with, on that day.</summary>
    public Value StartsWith(DateOnly today) => Starts(Kind, Content.DefaultValue, today).Value;

    internal static Parsed Starts(FieldKind kind, string? text, DateOnly today) =>
        kind.DataType == DataType.Date && string.Equals(text?.Trim(), "today", StringComparison.OrdinalIgnoreCase) ? Value.From(today)
        : kind.StaysWithRecord ? Value.Empty
        : kind.Parse(text);

    private IReadOnlyList<FieldColumn>? columns;

    private string ColumnBase => Definition?.ColumnName ?? (Content as FieldDescription)?.Column ?? Code;

    /// <inheritdoc/>
    public override string ToString() => $"{Part.RecordType.Code}.{Part.Code}.{Code}";
}

/// <summary>A column of a field.</summary>
/// <param name="Name">Its name in the table.</param>
/// <param name="Type">Its type.</param>
/// <param name="Suffix">What its kind calls it.</param>
public sealed record FieldColumn(string Name, ColumnType Type, string Suffix);

/// <summary>
/// A part of a record type: its header, or lines. Each stands on a table of the host and, once fields are added, a table beside it.
/// </summary>
public sealed class Part
{
    private readonly Dictionary<string, Field> byCode = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Field> byId = new(StringComparer.Ordinal);
    private readonly List<Field> fields = [];
    private readonly HashSet<string> kept = new(StringComparer.Ordinal);

    /// <summary>The code of every header.</summary>
    public const string HeaderCode = PartNames.Header;

    /// <summary><c>header</c>, or the code of the lines.</summary>
    public required string Code { get; init; }

    /// <summary>One of them.</summary>
    public required string Label { get; init; }

    /// <summary>Many of them.</summary>
    public required string Plural { get; init; }

    /// <summary>The record type that it belongs to.</summary>
    public required RecordType RecordType { get; init; }

    /// <summary>True for lines.</summary>
    public bool IsLines => Code != HeaderCode;

    /// <summary>The name of its table, in schema <c>erp</c> and, for what is added, in schema <c>added</c>.</summary>
    public string Table => IsLines ? $"{RecordType.Code}_{Code}" : RecordType.Code;

    /// <summary>Its fields, built in first, each at the index of its slot.</summary>
    public IReadOnlyList<Field> Fields => fields;

    /// <summary>True when a field keeps something in a column of this name.</summary>
    public Field? FindColumn(string name)
    {
        // Asked for each field while the next are still being added.
        for (; indexed < fields.Count; indexed++)
            foreach (var column in fields[indexed].Columns)
                byColumn.TryAdd(column.Name, fields[indexed]);
        return byColumn.GetValueOrDefault(name);
    }

    private readonly Dictionary<string, Field> byColumn = new(StringComparer.Ordinal);
    private int indexed;

    /// <summary>The fields that the site added.</summary>
    public IEnumerable<Field> AddedFields => fields.Where(added => added.IsAdded);

    /// <summary>Those of them that are kept with its rows, rather than seen through a link or calculated when they are read.</summary>
    public IEnumerable<Field> StoredFields => fields.Where(added => added.IsAdded && added.IsStored);

    /// <summary>
    /// The names of the tables in which these are kept, the first of which has a row for each row in another; none where nothing is kept.
    /// </summary>
    public IReadOnlyList<string> AddedTables =>
        addedTables ??= StoredFields.Any() ? [.. StoredFields.Select(stored => stored.Table).Prepend(Table).Distinct()] : [];

    private IReadOnlyList<string>? addedTables;

    /// <summary>What is seen through links.</summary>
    public IEnumerable<Field> FieldsThroughLinks => fields.Where(seen => seen.IsThroughLink);

    /// <summary>Finds a field by its code, or by the code that a built-in one has in another version of the host.</summary>
    public Field? Find(string code) => byCode.GetValueOrDefault(code);

    /// <summary>Finds a field by its lasting id.</summary>
    public Field? FindById(string id) => byId.GetValueOrDefault(id);

    internal void Keep(string code) => kept.Add(code);

    internal bool IsStored(string code) => kept.Contains(code);

    internal void Add(Field field)
    {
        fields.Add(field);
        byCode[field.Code] = field;
        byId.TryAdd(field.Id, field);
        if (field.Content is FieldDescription description)
            foreach (var other in description.OtherCodes)
                byCode.TryAdd(other, field);
    }
}

/// <summary>A kind of record: partner, item, sales order.</summary>
public sealed class RecordType : Bindable
{
    /// <summary>What the host says of it.</summary>
    public required RecordTypeDescription Description { get; init; }

    /// <summary>What the site says of it, for a user-defined type; null for one that is built in.</summary>
    public RecordTypeDefinition? Definition { get; init; }

    /// <summary>The part that each record has once.</summary>
    public Part Header { get; internal set; } = default!;

    /// <summary>The parts that a record can have many lines of.</summary>
    public IReadOnlyList<Part> LineParts { get; internal set; } = [];

    /// <summary>The companies of the host, whose holidays formulas can read.</summary>
    public IReadOnlyList<CompanyDescription> Companies { get; init; } = [];

    /// <summary>The exchange rates of the host, which formulas can read; null when it has none.</summary>
    public RateTable? Rates { get; internal set; }

    /// <summary>What makes it a document, or null.</summary>
    public Document? Document { get; internal set; }

    /// <summary>The links of all record types that point to it.</summary>
    public IReadOnlyList<Field> PointedBy { get; internal set; } = [];

    /// <summary>The documents that it can be made from.</summary>
    public IReadOnlyList<Follow> Follows { get; internal set; } = [];

    /// <summary>The documents that can be made from it.</summary>
    public IReadOnlyList<Follow> Next { get; internal set; } = [];

    /// <summary>How its lines move stock, or null.</summary>
    public StockMoves? StockMoves { get; internal set; }

    /// <summary>Fields that something fills, in an order in which each comes after what it reads.</summary>
    public IReadOnlyList<Field> FillOrder { get; internal set; } = [];

    /// <summary>The fields of other records that its formulas read through links.</summary>
    public IReadOnlySet<Field> RelatedFields { get; internal set; } = new HashSet<Field>();

    /// <summary>Technical name.</summary>
    public string Code => Description.Code;

    /// <summary>One of them.</summary>
    public string Label => Description.Label;

    /// <summary>Many of them.</summary>
    public string Plural => Description.Plural;

    /// <summary>The field that identifies a record to people.</summary>
    public Field Identifier => Header.Find(Description.Identifier)!;

    /// <summary>The field that names a record.</summary>
    public Field Name => Header.Find(Description.Name)!;

    /// <summary>False when a deleted record would leave a gap where numbers have none.</summary>
    public bool IsDeletable => Identifier.Numbering is not { Gapless: true };

    /// <summary>Header and lines.</summary>
    public IEnumerable<Part> Parts => LineParts.Prepend(Header);

    /// <summary>Finds a part by its code.</summary>
    public Part? FindPart(string code) => Parts.FirstOrDefault(part => part.Code == code);

    /// <summary>Finds a field in any part by its lasting id.</summary>
    public bool TryFindField(string id, [NotNullWhen(true)] out Field? field) =>
        (field = Parts.Select(part => part.FindById(id)).FirstOrDefault(found => found is not null)) is not null;

    /// <summary>
    /// The columns of its lists unless somebody arranges them: what the host shows, then the first of what was added and stands on the
    /// screen.
    /// </summary>
    public IReadOnlyList<Field> ListColumns { get; internal set; } = [];
}
