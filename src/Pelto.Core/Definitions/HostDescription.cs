using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>The ERP that Pelto runs on, as a description. See <c>hosts/host.schema.json</c> for the format.</summary>
/// <param name="Code">Its technical name, such as <c>rigging</c>.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Version">The version that this describes.</param>
/// <param name="Roles">The roles that its people can have.</param>
/// <param name="RecordTypes">Its record types, in the order of the menu.</param>
public sealed record HostDescription(
    string Code,
    string Label,
    string Version,
    IReadOnlyList<RoleDescription> Roles,
    IReadOnlyList<RecordTypeDescription> RecordTypes
)
{
    /// <summary>The companies that work in it.</summary>
    public IReadOnlyList<CompanyDescription> Companies { get; init; } = [];

    /// <summary>Where stock is kept, or null when it keeps none.</summary>
    public StockDescription? Stock { get; init; }

    /// <summary>Where exchange rates are kept, or null when it keeps none.</summary>
    public RatesDescription? Rates { get; init; }

    /// <summary>The version that this one is an update of; null for one that stands by itself.</summary>
    public string? Follows { get; init; }
}

/// <summary>Where exchange rates are kept.</summary>
/// <param name="RecordType">The record type, a record of which says what a currency is worth from a day on.</param>
/// <param name="Currency">The code of its field with the currency.</param>
/// <param name="Since">The code of its field with the first day.</param>
/// <param name="Rate">The code of its field with how much of the currency one unit of the base is worth.</param>
/// <param name="Base">ISO 4217 code of the currency that all are held against.</param>
public sealed record RatesDescription(string RecordType, string Currency, string Since, string Rate, string Base);

/// <summary>A company that works in the ERP.</summary>
/// <param name="Code">Its code, as fields named <c>company</c> hold it.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Country">ISO 3166 code of its country.</param>
/// <param name="Currency">ISO 4217 code of its currency.</param>
public sealed record CompanyDescription(string Code, string Label, string Country, string Currency)
{
    /// <summary>The time zone of its people who have chosen none, as the IANA names it; null for UTC.</summary>
    public string? Zone { get; init; }

    /// <summary>Days on which nobody works in its country, weekends aside.</summary>
    public IReadOnlyList<DateOnly> Holidays { get; init; } = [];
}

/// <summary>A role that people have.</summary>
public sealed record RoleDescription(string Code, string Label) : ISiteElement
{
    /// <summary>Before the code of a role in its id as an element.</summary>
    public const string ElementPrefix = "role:";

    string ISiteElement.ElementId => ElementPrefix + Code;
}

/// <summary>A built-in record type.</summary>
public sealed record RecordTypeDescription
{
    /// <summary>Technical name; also the table's.</summary>
    public required string Code { get; init; }

    /// <summary>One of them: Sales order.</summary>
    public required string Label { get; init; }

    /// <summary>Many of them: Sales orders.</summary>
    public required string Plural { get; init; }

    /// <summary>Under which heading the menu lists it.</summary>
    public string Area { get; init; } = "Records";

    /// <summary>True when the ERP writes its records itself, and nobody else does.</summary>
    public bool Maintained { get; init; }

    /// <summary>What makes it a document, or null.</summary>
    public DocumentDescription? Document { get; init; }

    /// <summary>The documents that it can be made from.</summary>
    public IReadOnlyList<FollowDescription> Follows { get; init; } = [];

    /// <summary>How its lines move stock, or null.</summary>
    public StockMoveDescription? Stock { get; init; }

    /// <summary>The code of the field that identifies a record to people, such as its number.</summary>
    public required string Identifier { get; init; }

    /// <summary>The code of the field that names a record, such as a partner's name or an order's customer.</summary>
    public required string Name { get; init; }

    /// <summary>Fields of the header.</summary>
    public required IReadOnlyList<FieldDescription> Fields { get; init; }

    /// <summary>Parts that hold lines.</summary>
    public IReadOnlyList<LinesDescription> Lines { get; init; } = [];

    /// <summary>The base screen.</summary>
    public required ScreenDescription Screen { get; init; }

    /// <summary>Codes of the header fields that lists show, in order.</summary>
    public required IReadOnlyList<string> List { get; init; }

    /// <summary>Codes of the header fields that the search box looks in.</summary>
    public required IReadOnlyList<string> Search { get; init; }

    /// <summary>The order of lists until somebody sorts: a field code, with a minus for descending.</summary>
    public required string Order { get; init; }

    /// <summary>Which roles may read and write it.</summary>
    public required AccessDescription Access { get; init; }

    /// <summary>
    /// What other versions have on its screen and this one has not, by lasting id. What was anchored to it stands where it stood.
    /// </summary>
    [JsonIgnore]
    public IReadOnlyDictionary<string, RemovedPart> Removed { get; init; } = new Dictionary<string, RemovedPart>();
}

/// <summary>A part of a screen that an update of the host took away.</summary>
/// <param name="Label">What it was called.</param>
/// <param name="After">The lasting id of what it stood after, or first in.</param>
/// <param name="Version">The version that has it no more.</param>
public sealed record RemovedPart(string Label, string After, string Version);

/// <summary>A part with lines: order lines, addresses.</summary>
public sealed record LinesDescription(string Code, string Label, string Plural, IReadOnlyList<FieldDescription> Fields);

/// <summary>A built-in field.</summary>
public sealed record FieldDescription : FieldContent
{
    /// <summary>True when the ERP keeps it up itself, such as what is delivered of an order line; nobody types it then.</summary>
    public bool Maintained { get; init; }

    /// <summary>For a decimal that is an amount of money: the code of the field beside it that holds its currency.</summary>
    public string? CurrencyIn { get; init; }

    /// <summary>How a new record gets its number.</summary>
    public NumberingDescription? Numbering { get; init; }

    /// <summary>The code that it had in the version before; null when it has the same, or is new.</summary>
    public string? Was { get; init; }

    /// <summary>The column that the host keeps it in; the one named by its code when not given.</summary>
    public string? Column { get; init; }

    /// <summary>The code that it came with; its lasting id is made of it, so it stays when the code changes.</summary>
    [JsonIgnore]
    public string? FirstCode { get; init; }

    /// <summary>The codes that it has in other versions: whoever still sends one of them is understood.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> OtherCodes { get; init; } = [];
}

/// <summary>A numbering pattern: a prefix and a counter with leading zeros.</summary>
/// <param name="Prefix">Stands before the counter.</param>
/// <param name="Digits">The least count of digits.</param>
/// <param name="Start">The first number given to a new record.</param>
/// <param name="WithYear">True when the year stands between prefix and counter.</param>
/// <param name="Gapless">
/// True when no number is ever left out: then those who create records follow one another, records are never deleted, and with a year the
/// counter begins anew each year. Otherwise nobody waits, and a save that fails leaves a gap.
/// </param>
/// <param name="PerCompany">
/// True when each company counts for itself, and its code stands in the number; then records have a company.
/// </param>
public sealed record NumberingDescription(
    string Prefix = "",
    int Digits = 4,
    long Start = 1,
    bool WithYear = false,
    bool Gapless = false,
    bool PerCompany = false
)
{
    /// <summary>The first number, with a word where the company and the year stand.</summary>
    [JsonIgnore]
    public string First => Write(Start, "year", "company");

    /// <summary>A number as people read it.</summary>
    /// <param name="number">The counter.</param>
    /// <param name="year">The year.</param>
    /// <param name="company">The company's code, where each counts for itself.</param>
    public string Write(long number, int year, string company = "") =>
        Write(number, year.ToString("0000", CultureInfo.InvariantCulture), company.ToUpperInvariant());

    private string Write(long number, string year, string company) =>
        Prefix
        + (PerCompany && company.Length > 0 ? company + "-" : "")
        + (WithYear ? year + "-" : "")
        + number.ToString(CultureInfo.InvariantCulture).PadLeft(Digits, '0');
}

/// <summary>Roles that may read and write; <c>*</c> is every role. Administrators always may.</summary>
/// <param name="Read">Those that read.</param>
/// <param name="Write">Those that change.</param>
public sealed record AccessDescription(IReadOnlyList<string> Read, IReadOnlyList<string> Write)
{
    /// <summary>Those that create; the ones that change when not given.</summary>
    public IReadOnlyList<string>? Create { get; init; }

    /// <summary>Those that delete; the ones that change when not given.</summary>
    public IReadOnlyList<string>? Delete { get; init; }
}

/// <summary>A base screen: pages of sections of places.</summary>
public sealed record ScreenDescription(IReadOnlyList<PageDescription> Pages);

/// <summary>A page of a screen.</summary>
public sealed record PageDescription(string Id, string Label, IReadOnlyList<SectionDescription> Sections)
{
    /// <summary>The id that it had in the version before; null when it has the same, or is new.</summary>
    public string? Was { get; init; }
}

/// <summary>A section: fields in places, or the lines of a part in columns.</summary>
public sealed record SectionDescription(string Id, string Label, IReadOnlyList<PlaceDescription> Places)
{
    /// <summary>The code of the part whose lines stand here; the places are its columns then.</summary>
    public string? Lines { get; init; }

    /// <summary>The id that it had in the version before; null when it has the same, or is new.</summary>
    public string? Was { get; init; }
}

/// <summary>Where a field stands, and how many of twelve columns it takes.</summary>
public sealed record PlaceDescription(string Field, int Width);
