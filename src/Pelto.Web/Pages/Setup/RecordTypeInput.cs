namespace Pelto.Web.Pages;

/// <summary>Lines of a record type, as typed.</summary>
public sealed class LinesInput
{
    /// <summary>The code; empty for lines that are new.</summary>
    public string Code { get; set; } = "";

    /// <summary>One of them.</summary>
    public string Label { get; set; } = "";

    /// <summary>Many of them.</summary>
    public string Plural { get; set; } = "";
}

/// <summary>What stands in the inputs of the page of a record type, as text, so that nothing typed is lost.</summary>
public sealed class RecordTypeInput
{
    /// <summary>One of them.</summary>
    public string Label { get; set; } = "";

    /// <summary>Many of them.</summary>
    public string Plural { get; set; } = "";

    /// <summary>Empty until somebody types one: then it follows from the label.</summary>
    public string Code { get; set; } = "";

    /// <summary>Stands before the number.</summary>
    public string Prefix { get; set; } = "";

    /// <summary>The least count of digits.</summary>
    public string Digits { get; set; } = "4";

    /// <summary>The first number.</summary>
    public string Start { get; set; } = "1";

    /// <summary>Whether the year stands in the number.</summary>
    public bool WithYear { get; set; }

    /// <summary>Whether no number is ever left out.</summary>
    public bool Gapless { get; set; }

    /// <summary>Whether each company counts for itself.</summary>
    public bool PerCompany { get; set; }

    /// <summary>Whether records are confirmed.</summary>
    public bool Confirmed { get; set; }

    /// <summary>Its lines.</summary>
    public List<LinesInput> Lines { get; set; } = [];

    /// <summary>Codes of the roles that read.</summary>
    public List<string> Read { get; set; } = [];

    /// <summary>Codes of the roles that change.</summary>
    public List<string> Write { get; set; } = [];

    /// <summary>Codes of the roles that create.</summary>
    public List<string> Create { get; set; } = [];

    /// <summary>Codes of the roles that delete.</summary>
    public List<string> Delete { get; set; } = [];

    /// <summary>The inputs for a definition.</summary>
    public static RecordTypeInput From(RecordTypeDefinition type) =>
        new()
        {
            Label = type.Label,
            Plural = type.Plural,
            Code = type.Code,
            Prefix = type.Numbering.Prefix,
            Digits = type.Numbering.Digits.ToString(CultureInfo.InvariantCulture),
            Start = type.Numbering.Start.ToString(CultureInfo.InvariantCulture),
            WithYear = type.Numbering.WithYear,
            Gapless = type.Numbering.Gapless,
            Lines =
            [
                .. type.Lines.Select(lines => new LinesInput
                {
                    Code = lines.Code,
                    Label = lines.Label,
                    Plural = lines.Plural,
                }),
            ],
            Read = [.. type.Read],
            Write = [.. type.Write],
            Create = [.. type.Create ?? type.Write],
            Delete = [.. type.Delete ?? type.Write],
            PerCompany = type.Numbering.PerCompany,
            Confirmed = type.Confirmed,
        };

    /// <summary>The definition that the inputs make, over what the draft has of the type already.</summary>
    /// <param name="known">The type as the draft has it, or an empty one with its id.</param>
    /// <param name="taken">Codes that other types have.</param>
    /// <param name="problems">Takes what cannot be read.</param>
    public RecordTypeDefinition ToType(RecordTypeDefinition known, IEnumerable<string> taken, List<Problem> problems)
    {
        var lines = new List<LinesDefinition>();
        foreach (var one in Lines.Where(one => $"{one.Label}{one.Plural}{one.Code}".Trim().Length > 0))
            lines.Add(
                new(
                    one.Code.Length > 0
                        ? one.Code.Trim()
                        : Codes.From(
                            one.Plural.Length > 0 ? one.Plural : one.Label,
                            lines.Select(other => other.Code).Concat([RecordTypeDefinition.NumberCode, RecordTypeDefinition.NameCode])
                        ),
                    one.Label.Trim(),
                    one.Plural.Trim()
                )
            );
        return known with
        {
            Label = Label.Trim(),
            Plural = Plural.Trim(),
            Code = Code.Trim().Length > 0 ? Code.Trim() : Codes.From(Label, taken),
            Numbering = new(
                Prefix.Trim(),
                (int)Number(Digits, "The count of digits"),
                Number(Start, "The first number"),
                WithYear,
                Gapless,
                PerCompany
            ),
            Confirmed = Confirmed,
            Lines = lines,
            Read = [.. Read.Union(Write).Union(Create).Union(Delete)],
            Write = [.. Write],
            Create = Create.Order().SequenceEqual(Write.Order()) ? null : [.. Create],
            Delete = Delete.Order().SequenceEqual(Write.Order()) ? null : [.. Delete],
        };

        long Number(string text, string what)
        {
            if (int.TryParse(text.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                return number;
            problems.Add(new(known.Id, "numbering", $"{what} is a whole number."));
            return 1;
        }
    }
}
