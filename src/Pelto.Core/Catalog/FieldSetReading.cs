using System.Globalization;
using Pelto.Core.Releases;
using Pelto.Core.Values;

namespace Pelto.Core.Catalog;

/// <summary>A field read from a row of a pasted table.</summary>
/// <param name="Line">Where it stood, counted from 1.</param>
/// <param name="Field">The definition.</param>
/// <param name="Problems">What keeps it from being taken, in words.</param>
public sealed record ReadField(int Line, FieldDefinition Field, IReadOnlyList<string> Problems);

/// <summary>Reads a usual set of fields from the cells of a pasted table: label, kind, length, choices, part, and whether it is needed.</summary>
public static class FieldSetReading
{
    private static readonly string[] Usual = ["label", "kind", "length", "choices", "part", "needed", "help"];

    /// <summary>Reads them, and checks them as a whole against what the site has.</summary>
    /// <param name="rows">Cells, row by row. A first row that names columns sets their order.</param>
    /// <param name="type">The record type that they are for.</param>
    /// <param name="site">The draft.</param>
    /// <param name="host">What is built in.</param>
    public static IReadOnlyList<ReadField> Read(IReadOnlyList<IReadOnlyList<string>> rows, RecordType type, SiteDefinition site, HostDescription host)
    {
        var (columns, first) = Columns(rows);
        var read = new List<ReadField>();
        var taken = type.Parts.ToDictionary(part => part.Code, part => part.Fields.Select(field => field.Code).Concat(type.LineParts.Select(lines => lines.Code)).ToHashSet(StringComparer.Ordinal), StringComparer.Ordinal);
        for (var i = first; i < rows.Count; i++)
            if (rows[i].Any(cell => cell.Trim().Length > 0)) read.Add(Row(rows[i], i + 1, columns, type, site, taken));

        // As a whole: what one row breaks in another, such as the same label twice, shows only when all are there.
        var whole = Catalogue.Build(0, host, read.Where(row => row.Problems.Count == 0).Aggregate(site, (all, row) => all.With(row.Field)));
        var twice = read.GroupBy(row => (row.Field.Part, row.Field.Label.ToUpperInvariant())).Where(group => group.Count() > 1).SelectMany(group => group.Skip(1)).ToHashSet();
        return [.. read.Select(row => row with
        {
            Problems = [.. row.Problems.Concat(whole.Problems.Where(problem => problem.Element == row.Field.Id).Select(problem => problem.Sentence))
                .Concat(twice.Contains(row) ? [$"“{row.Field.Label}” is there twice."] : []).Distinct()],
        })];
    }

    private static ReadField Row(IReadOnlyList<string> cells, int line, List<string> columns, RecordType type, SiteDefinition site, Dictionary<string, HashSet<string>> taken)
    {
        var problems = new List<string>();
        string Cell(string name) => columns.IndexOf(name) is >= 0 and var at && at < cells.Count ? cells[at].Trim() : "";

        var label = Cell("label");
        var part = Cell("part") is { Length: > 0 } named ? type.Parts.FirstOrDefault(part => Is(named, part.Code, part.Label, part.Plural)) : type.Header;
        if (part is null) problems.Add($"{type.Label} has no part “{Cell("part")}”. It has: {string.Join(", ", type.Parts.Select(each => each.Plural))}.");
        var kind = Cell("kind") is { Length: > 0 } said ? FieldKinds.Definable.FirstOrDefault(kind => Is(said, kind.Name, kind.Label)) : Cell("choices").Length > 0 ? FieldKinds.Definable.First(kind => kind is ChoiceKind) : FieldKinds.Definable[0];
        if (kind is null) problems.Add($"There is no kind “{Cell("kind")}”. There are: {string.Join(", ", FieldKinds.Definable.Select(each => each.Label))}.");
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
            Required = Cell("needed").ToUpperInvariant() is "YES" or "Y" or "X" or "TRUE" or "1" or "NEEDED",
        };
        field = Sized(field, kind, Cell("length"), problems);
        return new(line, kind is AnyChoiceKind ? WithChoices(field, Cell("choices"), site) : field, problems);
    }

    // "30" for texts; "8.2" or "8,2" for numbers: digits in all, and those after the point.
    private static FieldDefinition Sized(FieldDefinition field, FieldKind? kind, string size, List<string> problems)
    {
        if (size.Length == 0) return field;
        var parts = size.Split(['.', ',', '/', ' '], StringSplitOptions.RemoveEmptyEntries);
        var numbers = parts.Select(part => int.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : -1).ToList();
        if (numbers.Count is < 1 or > 2 || numbers.Contains(-1))
        {
            problems.Add($"“{size}” is no length. Write 30 for a text, 8,2 for a number with two digits after the point.");
            return field;
        }

        return kind switch
        {
            AnyTextKind or SecretKind => field with { Length = numbers[0] },
            DecimalKind or QuantityKind => field with { Digits = numbers[0], Decimals = numbers.Count > 1 ? numbers[1] : null },
            MoneyKind => field with { Digits = numbers[0] },
            PercentKind => field with { Decimals = numbers[^1] },
            _ => field,
        };
    }

    private static FieldDefinition WithChoices(FieldDefinition field, string cell, SiteDefinition site)
    {
        if (site.ChoiceLists.FirstOrDefault(list => Is(cell, list.Label, list.Id)) is { } shared) return field with { ChoiceList = shared.Id };
        var labels = cell.Split(['|', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (labels.Length == 1) labels = cell.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        return field with { Choices = [.. ChoiceReading.Read([.. labels.Select(label => new[] { label })], []).Where(choice => choice.IsTaken).Select(choice => choice.Choice)] };
    }

    private static (List<string> Columns, int First) Columns(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (rows.Count == 0) return ([.. Usual], 0);
        var heading = rows[0].Select(cell => cell.Trim().ToLowerInvariant() switch { "required" => "needed", "size" => "length", "name" => "label", "type" => "kind", var other => other }).ToList();
        return heading.Contains("label") ? (heading, 1) : ([.. Usual], 0);
    }

    private static bool Is(string text, params string[] names) => names.Any(name => string.Equals(text, name, StringComparison.OrdinalIgnoreCase) || ChoiceRules.Key(text) == ChoiceRules.Key(name));
}
