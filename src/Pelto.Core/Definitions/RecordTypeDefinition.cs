namespace Pelto.Core.Definitions;

/// <summary>A user-defined record type: what the site says of it. Its fields are added fields, like those of any other type.</summary>
public sealed record RecordTypeDefinition : ISiteElement
{
    /// <summary>The code of the field that holds the number of each record.</summary>
    public const string NumberCode = "number";

    /// <summary>The code of the field that holds its name.</summary>
    public const string NameCode = "name";

    /// <summary>The code of the field that each line has from the start.</summary>
    public const string LineTextCode = "description";

    /// <summary>The code of the company, where each counts for itself.</summary>
    public const string CompanyCode = "company";

    /// <summary>The code of the status, where records are confirmed.</summary>
    public const string StatusCode = "status";

    private const string Open = "open";
    private const string Closed = "confirmed";
    private const string Cancelled = "cancelled";

    /// <summary>Lasting id; it stays when everything else changes.</summary>
    public string Id { get; init; } = "";

    /// <summary>The lasting technical name.</summary>
    public string Code { get; init; } = "";

    /// <summary>One of them: Rigging plan.</summary>
    public string Label { get; init; } = "";

    /// <summary>Many of them: Rigging plans.</summary>
    public string Plural { get; init; } = "";

    /// <summary>How new records get their number.</summary>
    public NumberingDescription Numbering { get; init; } = new("", 4, 1);

    /// <summary>Parts that a record has many lines of.</summary>
    public IReadOnlyList<LinesDefinition> Lines { get; init; } = [];

    /// <summary>Codes of the roles that may read its records; <c>*</c> is every role.</summary>
    public IReadOnlyList<string> Read { get; init; } = [];

    /// <summary>Codes of the roles that may change them.</summary>
    public IReadOnlyList<string> Write { get; init; } = [];

    /// <summary>Codes of the roles that may create them; those that change them when not given.</summary>
    public IReadOnlyList<string>? Create { get; init; }

    /// <summary>Codes of the roles that may delete them; those that change them when not given.</summary>
    public IReadOnlyList<string>? Delete { get; init; }

    /// <summary>
    /// True when its records are documents that are confirmed, and then can only be cancelled: neither changed nor deleted.
    /// </summary>
    public bool Confirmed { get; init; }

    /// <summary>The form through which people outside send records in, or null.</summary>
    public PublicFormDefinition? PublicForm { get; init; }

    /// <summary>True when it is out of use: it stands nowhere, and its records stay on file.</summary>
    public bool Retired { get; init; }

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "t-" + Guid.NewGuid().ToString("N")[..12];

    /// <summary>The same in the form in which hosts describe their types, so that both go through the same code.</summary>
    /// <param name="companies">The companies of the host, for a numbering of which each has its own.</param>
    public RecordTypeDescription ToDescription(IReadOnlyList<CompanyDescription> companies)
    {
        var fields = new List<(FieldDescription Field, int Width)>
        {
            (
                new()
                {
                    Code = NumberCode,
                    Label = "Number",
                    Kind = "text",
                    Length = 30,
                    Required = true,
                    Numbering = Numbering,
                },
                2
            ),
            (
                new()
                {
                    Code = NameCode,
                    Label = "Name",
                    Kind = "text",
                    Length = 80,
                },
                6
            ),
        };
        if (Numbering.PerCompany)
            fields.Add(
                (
                    new()
                    {
                        Code = CompanyCode,
                        Label = "Company",
                        Kind = "choice",
                        Required = true,
                        Choices = [.. companies.Select(company => new Choice(company.Code, company.Label))],
                        DefaultValue = companies.Count > 0 ? companies[0].Code : null,
                    },
                    2
                )
            );
        if (Confirmed)
            fields.Add(
                (
                    new()
                    {
                        Code = StatusCode,
                        Label = "Status",
                        Kind = "choice",
                        Required = true,
                        Choices = [new(Open, "Being prepared"), new(Closed, "Confirmed"), new(Cancelled, "Cancelled")],
                        DefaultValue = Open,
                    },
                    2
                )
            );
        return new()
        {
            Code = Code,
            Label = Label,
            Plural = Plural,
            Identifier = NumberCode,
            Name = NameCode,
            Document = Confirmed ? new(StatusCode, Open, Closed, Cancelled, Locks: true) : null,
            Fields = [.. fields.Select(field => field.Field)],
            Lines =
            [
                .. Lines.Select(lines => new LinesDescription(
                    lines.Code,
                    lines.Label,
                    lines.Plural,
                    [
                        new()
                        {
                            Code = LineTextCode,
                            Label = "Description",
                            Kind = "text",
                            Length = 200,
                        },
                    ]
                )),
            ],
            Screen = new([
                new(
                    $"{Code}.main",
                    Label,
                    [
                        new($"{Code}.main.all", Label, [.. fields.Select(field => new PlaceDescription(field.Field.Code, field.Width))]),
                        .. Lines.Select(lines => new SectionDescription($"{Code}.main.{lines.Code}", lines.Plural, [new(LineTextCode, 6)])
                        {
                            Lines = lines.Code,
                        }),
                    ]
                ),
            ]),
            List = [.. fields.Select(field => field.Field.Code)],
            Search = [NumberCode, NameCode],
            Order = "-" + NumberCode,
            Access = new(Read, Write) { Create = Create, Delete = Delete },
        };
    }

    string ISiteElement.ElementId => Id;
}

/// <summary>Lines of a user-defined record type.</summary>
/// <param name="Code">The lasting technical name.</param>
/// <param name="Label">One of them: Lift.</param>
/// <param name="Plural">Many of them: Lifts.</param>
public sealed record LinesDefinition(string Code, string Label, string Plural);
