using Pelto.Core.Binding;

namespace Pelto.Core.Elements;

/// <summary>A field read from a row of a pasted table.</summary>
/// <param name="Line">Where it stood, counted from 1.</param>
/// <param name="Field">The definition.</param>
/// <param name="Problems">What keeps it from being taken, in words.</param>
/// <param name="Remarks">What looks like a slip, and keeps it from nothing.</param>
public sealed record ReadField(int Line, FieldDefinition Field, IReadOnlyList<string> Problems, IReadOnlyList<string> Remarks);

/// <summary>
/// Reads a usual set of fields from the cells of a pasted table: label, kind, length, choices, what a link points to, scheme, currencies,
/// units, part, and whether it is required.
/// </summary>
public static class FieldSetReading
{
    private static readonly string[] Usual =
    [
        "label",
        "kind",
        "length",
        "choices",
        "part",
        "required",
        "help",
        "target",
        "scheme",
        "currencies",
        "units",
    ];

    /// <summary>Reads them, and checks them as a whole against what the site has.</summary>
    /// <param name="rows">Cells, row by row. A first row that names columns sets their order.</param>
    /// <param name="type">The record type that they are for.</param>
    /// <param name="site">The draft.</param>
    /// <param name="host">What is built in.</param>
    /// <param name="views">What whoever pastes knows of; all when not given.</param>
    public static IReadOnlyList<ReadField> Read(
        IReadOnlyList<IReadOnlyList<string>> rows,
        RecordType type,
        SiteDefinition site,
        HostDescription host,
        SiteViews? views = null
    )
    {
        var (columns, first) = Columns(rows);
        var read = new List<ReadField>();
        var taken = type.Parts.ToDictionary(
            part => part.Code,
            part =>
                part.Fields.Select(field => field.Code)
                    .Concat(type.LineParts.Select(lines => lines.Code))
                    .ToHashSet(StringComparer.Ordinal),
            StringComparer.Ordinal
        );
        var types = Catalogue.Build(0, host, site).RecordTypes.Where(one => views?.Sees(one) ?? true).ToList();
        for (var i = first; i < rows.Count; i++)
            if (rows[i].Any(cell => cell.Trim().Length > 0))
                read.Add(Row(rows[i], i + 1, columns, type, types, site, views, taken));

        // As a whole: what one row breaks in another, such as the same label twice, shows only when all are there.
        var whole = Catalogue.Build(0, host, read.Where(row => row.Problems.Count == 0).Aggregate(site, (all, row) => all.With(row.Field)));
        var twice = read.GroupBy(row => (row.Field.Part, row.Field.Label.ToUpperInvariant()))
            .Where(group => group.Count() > 1)
            .SelectMany(group => group.Skip(1))
            .ToHashSet();
        return
        [
            .. read.Select(row =>
                row with
                {
                    Problems =
                    [
                        .. row
                            .Problems.Concat(
                                whole.Problems.Where(problem => problem.Element == row.Field.Id).Select(problem => problem.Sentence)
                            )
                            .Concat(twice.Contains(row) ? [$"“{row.Field.Label}” is there twice."] : [])
                            .Distinct(),
                    ],
                }
            ),
        ];
    }

    private static ReadField Row(
        IReadOnlyList<string> cells,
        int line,
        List<string> columns,
        RecordType type,
        IReadOnlyList<RecordType> types,
        SiteDefinition site,
        SiteViews? views,
        Dictionary<string, HashSet<string>> taken
    )
    {
        var (problems, remarks) = (new List<string>(), new List<string>());
        string Cell(string name) => columns.IndexOf(name) is >= 0 and var at && at < cells.Count ? cells[at].Trim() : "";

        var label = Cell("label");
        var part = Cell("part") is { Length: > 0 } named
            ? type.Parts.FirstOrDefault(part => Is(named, part.Code, part.Label, part.Plural))
            : type.Header;
        if (part is null)
            problems.Add(
                $"{type.Label} has no part “{Cell("part")}”. It has: {string.Join(", ", type.Parts.Select(each => each.Plural))}."
            );
        var kind = Cell("kind") is { Length: > 0 } said
            ? FieldKinds.Definable.FirstOrDefault(kind => Is(said, kind.Name, kind.Label))
            : Implied(Cell);
        if (kind is null)
            problems.Add(
                $"There is no kind “{Cell("kind")}”. There are: {string.Join(", ", FieldKinds.Definable.Select(each => each.Label))}."
            );
        var code = Codes.From(label, taken[part?.Code ?? Part.HeaderCode]);
        taken[part?.Code ?? Part.HeaderCode].Add(code);
        var field = new FieldDefinition
        {
            Id = FieldDefinition.NewId(),
            RecordType = type.Code,
            Part = part?.Code ?? Part.HeaderCode,
            Label = label,
            Code = code,
            Kind = kind?.Name ?? "text",
            Help = Cell("help") is { Length: > 0 } help ? help : null,
            Required = Cell("required").ToUpperInvariant() is "YES" or "Y" or "X" or "TRUE" or "1" or "REQUIRED",
        };
        field = Sized(field, kind, Cell("length"), problems);
        if (Cell("length").Length > 0 && kind is not null && !Lengths.Exists(kind.Takes))
            remarks.Add(PassedOver(kind, "length", Cell("length")));
        if (Existing(label, part, site, views) is { } access)
            remarks.Add(access);
        foreach (var option in Columned)
        {
            var cell = Cell(option.Name);
            if (kind?.Takes(option) == true)
                field = With(option, field, cell, new(types, site, problems, remarks));
            else if (cell.Length > 0 && kind is not null)
                remarks.Add(PassedOver(kind, option.Name, cell));
        }

        return new(line, field, problems, remarks);
    }

    // What has a column of its own in a table of fields.
    private static readonly KindOption[] Columned =
    [
        KindOption.Choices,
        KindOption.Target,
        KindOption.Scheme,
        KindOption.Currencies,
        KindOption.Units,
    ];

    // What the column of lengths can say.
    private static readonly List<KindOption> Lengths = [KindOption.Length, KindOption.Digits, KindOption.Decimals];

    private static string PassedOver(FieldKind kind, string column, string cell) =>
        $"A field of the kind {kind.Label} has no {column}: “{cell}” is skipped.";

    private sealed record Reading(IReadOnlyList<RecordType> Types, SiteDefinition Site, List<string> Problems, List<string> Remarks);

    private static FieldDefinition With(KindOption option, FieldDefinition field, string cell, Reading reading) =>
        option == KindOption.Choices ? WithChoices(field, cell, reading.Site, reading.Remarks)
        : option == KindOption.Target ? WithTarget(field, cell, reading.Types, reading.Problems)
        : option == KindOption.Scheme ? WithScheme(field, cell, reading.Problems)
        : cell.Length == 0 ? field
        : option == KindOption.Currencies ? field with { Currencies = [.. Parts(cell.ToUpperInvariant())] }
        : WithUnits(field, cell, reading.Problems);

    // Where no kind is named, what only one kind has tells it.
    private static FieldKind Implied(Func<string, string> cell) =>
        Columned.FirstOrDefault(option => cell(option.Name).Length > 0) is { } only
            ? FieldKinds.Definable.First(kind => kind.Takes(only))
            : FieldKinds.Definable[0];

    // Built in, added, or retired: the label says the same to people.
    private static string? Existing(string label, Part? part, SiteDefinition site, SiteViews? views)
    {
        if (part is null || label.Length == 0)
            return null;
        var key = ChoiceRules.Key(label);
        if (
            part
                .RecordType.Parts.SelectMany(each => each.Fields)
                .FirstOrDefault(field => ChoiceRules.Key(field.Label) == key && (views?.Sees(field) ?? true)) is
            { } known
        )
            return $"“{known.Label}” exists already: {(known.IsAdded ? "added" : "built in")}, "
                + $"{(known.Part.IsLines ? $"in {known.Part.Plural.ToLowerInvariant()}" : "in the header")}, code {known.Code}. Is it the same?";
        return
            site.Fields.FirstOrDefault(field =>
                field.Retired
                && field.RecordType == part.RecordType.Code
                && ChoiceRules.Key(field.Label) == key
                && (views?.Sees(field) ?? true)
            )
                is { } retired
            ? $"“{retired.Label}” was there and is retired, with its data: bring it back instead of making a duplicate?"
            : null;
    }

    private static string[] Parts(string cell) =>
        cell.Split(['|', ';', ',', ' ', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    private static FieldDefinition WithTarget(FieldDefinition field, string cell, IReadOnlyList<RecordType> types, List<string> problems)
    {
        if (types.FirstOrDefault(type => cell.Length > 0 && Is(cell, type.Code, type.Label, type.Plural)) is { } target)
            return field with { Target = target.Code };
        problems.Add(
            $"{(cell.Length == 0 ? "Say what it points to, in the column target." : $"There is no record type “{cell}” to point to.")} There are: {string.Join(", ", types.Select(type => type.Plural.ToLowerInvariant()))}."
        );
        return field;
    }

    private static FieldDefinition WithScheme(FieldDefinition field, string cell, List<string> problems)
    {
        if (
            IdentifierScheme.All.FirstOrDefault(scheme =>
                cell.Length > 0 && Is(cell, scheme.Code, scheme.Label, scheme.Label.Split(' ')[0])
            ) is
            { } known
        )
            return field with { Scheme = known.Code };
        problems.Add(
            $"{(cell.Length == 0 ? "Say by which scheme it is checked, in the column scheme." : $"There is no scheme “{cell}”.")} There are: {string.Join(", ", IdentifierScheme.All.Select(scheme => scheme.Code))}. One of your own is defined on the page of the field."
        );
        return field;
    }

    private static FieldDefinition WithUnits(FieldDefinition field, string cell, List<string> problems)
    {
        // Some units are written with a blank.
        var read = cell.Split(['|', ';', ',', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(text => (text, unit: Units.Read(text)))
            .ToList();
        if (read.FirstOrDefault(one => one.unit is null).text is { } unknown)
            problems.Add($"“{unknown}” is not a known unit. Write its symbol or its code, such as kg or KGM, and commas between several.");
        return field with
        {
            Units = [.. read.Where(one => one.unit is not null).Select(one => one.unit!.Code).Distinct(StringComparer.Ordinal)],
        };
    }

    // "30" for texts; "8.2" or "8,2" for numbers: digits in all, and those after the point.
    private static FieldDefinition Sized(FieldDefinition field, FieldKind? kind, string size, List<string> problems)
    {
        if (size.Length == 0)
            return field;
        var parts = size.Split(['.', ',', '/', ' '], StringSplitOptions.RemoveEmptyEntries);
        var numbers = parts
            .Select(part => int.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : -1)
            .ToList();
        if (numbers.Count is < 1 or > 2 || numbers.Contains(-1))
        {
            problems.Add($"“{size}” is not a length. Write 30 for a text, 8,2 for a number with two digits after the point.");
            return field;
        }

        var (digits, decimals) = (kind?.Takes(KindOption.Digits) == true, kind?.Takes(KindOption.Decimals) == true);
        return field with
        {
            Length = kind?.Takes(KindOption.Length) == true ? numbers[0] : null,
            Digits = digits ? numbers[0] : null,
            Decimals =
                !decimals ? null
                : !digits ? numbers[^1]
                : numbers.Count > 1 ? numbers[1]
                : null,
        };
    }

    private static FieldDefinition WithChoices(FieldDefinition field, string cell, SiteDefinition site, List<string> remarks)
    {
        if (site.ChoiceLists.FirstOrDefault(list => Is(cell, list.Label, list.Id)) is { } shared)
            return field with { ChoiceList = shared.Id };
        var labels = cell.Split(['|', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (labels.Length == 1)
            labels = cell.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        var read = ChoiceReading.Read([.. labels.Select(label => new[] { label })], []);
        remarks.AddRange(
            read.Where(choice => !choice.IsTaken).Select(choice => $"The choice “{choice.Choice.Label}” is there twice; it is taken once.")
        );
        remarks.AddRange(
            read.Where(choice => choice.IsTaken).SelectMany(choice => choice.Remarks.Select(remark => $"{choice.Choice.Label}: {remark}"))
        );
        return field with { Choices = [.. read.Where(choice => choice.IsTaken).Select(choice => choice.Choice)] };
    }

    private static (List<string> Columns, int First) Columns(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (rows.Count == 0)
            return ([.. Usual], 0);
        var heading = rows[0]
            .Select(cell =>
                cell.Trim().ToLowerInvariant() switch
                {
                    "required" => "required",
                    "size" => "length",
                    "name" => "label",
                    "type" => "kind",
                    "points to" or "link" => "target",
                    "currency" => "currencies",
                    "unit" => "units",
                    "choice" => "choices",
                    var other => other,
                }
            )
            .ToList();
        return heading.Contains("label") ? (heading, 1) : ([.. Usual], 0);
    }

    private static bool Is(string text, params string[] names) =>
        names.Any(name => string.Equals(text, name, StringComparison.OrdinalIgnoreCase) || ChoiceRules.Key(text) == ChoiceRules.Key(name));
}
