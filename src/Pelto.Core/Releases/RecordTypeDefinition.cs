using Pelto.Core.Catalog;

namespace Pelto.Core.Releases;

/// <summary>A user-defined record type: what the site says of it. Its fields are added fields, like those of any other type.</summary>
public sealed record RecordTypeDefinition
{
    /// <summary>The code of the field that holds the number of each record.</summary>
    public const string NumberCode = "number";

    /// <summary>The code of the field that holds its name.</summary>
    public const string NameCode = "name";

    /// <summary>The code of the field that each line has from the start.</summary>
    public const string LineTextCode = "description";

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
    public IReadOnlyList<OwnLines> Lines { get; init; } = [];

    /// <summary>Codes of the roles that may read its records; <c>*</c> is every role.</summary>
    public IReadOnlyList<string> Read { get; init; } = [];

    /// <summary>Codes of the roles that may create, change and delete them as well.</summary>
    public IReadOnlyList<string> Write { get; init; } = [];

    /// <summary>True when it is out of use: it stands nowhere, and its records stay on file.</summary>
    public bool Retired { get; init; }

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "t-" + Guid.NewGuid().ToString("N")[..12];

    /// <summary>The same in the form in which hosts describe their types, so that both go through the same code.</summary>
    public RecordTypeDescription ToDescription() => new()
    {
        Code = Code,
        Label = Label,
        Plural = Plural,
        Identifier = NumberCode,
        Name = NameCode,
        Fields =
        [
            new() { Code = NumberCode, Label = "Number", Kind = "text", Length = 30, Required = true, Numbering = Numbering },
            new() { Code = NameCode, Label = "Name", Kind = "text", Length = 80 },
        ],
        Lines = [.. Lines.Select(lines => new LinesDescription(lines.Code, lines.Label, lines.Plural, [new() { Code = LineTextCode, Label = "Description", Kind = "text", Length = 200 }]))],
        Screen = new([new($"{Code}.main", Label,
        [
            new($"{Code}.main.all", Label, [new(NumberCode, 2), new(NameCode, 6)]),
            .. Lines.Select(lines => new SectionDescription($"{Code}.main.{lines.Code}", lines.Plural, [new(LineTextCode, 6)]) { Lines = lines.Code }),
        ])]),
        List = [NumberCode, NameCode],
        Search = [NumberCode, NameCode],
        Order = "-" + NumberCode,
        Access = new(Read, Write),
    };
}

/// <summary>Lines of a user-defined record type.</summary>
/// <param name="Code">The lasting technical name.</param>
/// <param name="Label">One of them: Lift.</param>
/// <param name="Plural">Many of them: Lifts.</param>
public sealed record OwnLines(string Code, string Label, string Plural);
