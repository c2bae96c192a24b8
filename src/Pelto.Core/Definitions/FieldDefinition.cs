using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>An added field, as the administrator defined it.</summary>
public sealed record FieldDefinition : FieldContent, ISiteElement
{
    /// <summary>Lasting id; it stays when everything else changes.</summary>
    public string Id { get; init; } = "";

    /// <summary>The code of the record type that it belongs to.</summary>
    public string RecordType { get; init; } = "";

    /// <summary><c>header</c>, or the code of the part with lines.</summary>
    public string Part { get; init; } = PartNames.Header;

    /// <summary>Other parts in which the same field stands: one definition, a place and a column in each.</summary>
    public IReadOnlyList<AlsoOn> AlsoOn { get; init; } = [];

    /// <summary>
    /// For what a formula fills: true when it is calculated whenever it is read, and nothing is stored; otherwise it is stored when its
    /// record is saved.
    /// </summary>
    public bool Live { get; init; }

    /// <summary>True when a document that is made from another takes the value over, where the field stands on both.</summary>
    public bool CarriedAlong { get; init; }

    /// <summary>True when it is printed with its record.</summary>
    public bool Printed { get; init; }

    /// <summary>True when it is out of use: it stands nowhere, and its data stays.</summary>
    public bool Retired { get; init; }

    /// <summary>True when the records on file that have no value get the default too, once it is live.</summary>
    public bool FillExisting { get; init; }

    /// <summary>
    /// Which of its columns it is kept in: 0 until it changes its kind, then a new one each time; an earlier one when that is taken back.
    /// See <see cref="Releases.ColumnAssignment"/>.
    /// </summary>
    public int Column { get; init; }

    /// <summary>The newest column that it ever had.</summary>
    public int LastColumn { get; init; }

    /// <summary>Which of the tables beside its part it is kept in: see <see cref="Catalog.AddedTables"/>.</summary>
    public int Table { get; init; }

    /// <summary>
    /// The code that its columns are named by, when an update of the host took that code for a field of its own; else null.
    /// </summary>
    public string? StoredAs { get; init; }

    /// <summary>True when columns of earlier kinds are dropped for good.</summary>
    public bool DropsEarlier { get; init; }

    /// <summary>True for a removed field that comes back: its saved data is read back once it is live.</summary>
    public bool ReadBack { get; init; }

    /// <summary>
    /// Lasting ids of fields that values on file came from, though nothing of it reads them any more: whoever may not read those does not
    /// read this. See <c>GuardInheritance</c>.
    /// </summary>
    public IReadOnlyList<string> HeldFrom { get; init; } = [];

    /// <summary>All parts in which it stands, its own first.</summary>
    public IEnumerable<AlsoOn> Places() => AlsoOn.Prepend(new AlsoOn(RecordType, Part, Printed));

    /// <summary>The lasting id of the field in one of its parts.</summary>
    public string IdIn(AlsoOn place) => place.RecordType == RecordType && place.Part == Part ? Id : $"{Id}@{place.RecordType}.{place.Part}";

    /// <summary>The name of its first column.</summary>
    [JsonIgnore]
    public string ColumnName => ColumnNameAt(Column);

    /// <summary>The name that its column had, or has, at one of its kinds.</summary>
    public string ColumnNameAt(int column) =>
        column == 0 ? StoredAs ?? Code : $"{StoredAs ?? Code}__{(column + 1).ToString(System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "f-" + Guid.NewGuid().ToString("N")[..12];

    string ISiteElement.ElementId => Id;
}

/// <summary>Another part in which a field stands.</summary>
/// <param name="RecordType">The code of the record type.</param>
/// <param name="Part"><c>header</c>, or the code of the lines.</param>
/// <param name="Printed">True when it is printed there.</param>
public sealed record AlsoOn(string RecordType, string Part = PartNames.Header, bool Printed = false);
