namespace Pelto.Core.Catalog;

/// <summary>A choice read from what was pasted, with what was noticed about it.</summary>
/// <param name="Choice">The choice.</param>
/// <param name="Line">Where it stood, counted from 1.</param>
/// <param name="IsTaken">True when it is taken into the list; false for one that is there already.</param>
/// <param name="Remarks">What looks like a slip, in words.</param>
public sealed record ReadChoice(Choice Choice, int Line, bool IsTaken, IReadOnlyList<string> Remarks)
{
    /// <summary>True for one that is skipped though it was wanted.</summary>
    public bool IsSlip { get; init; }
}

/// <summary>
/// Reads choices from the cells of a pasted table: labels, or codes and labels, perhaps with colours and labels in other languages; and
/// points out what looks like a slip before anything is taken.
/// </summary>
public static class ChoiceReading
{
    private static readonly string[] CodeHeadings = ["code", "key", "id", "value"];
    private static readonly string[] LabelHeadings = ["label", "name", "text", "choice", "description", "meaning"];

    /// <summary>Reads them.</summary>
    /// <param name="rows">Cells, row by row, as they were pasted.</param>
    /// <param name="known">Choices that the list has already.</param>
    public static IReadOnlyList<ReadChoice> Read(IReadOnlyList<IReadOnlyList<string>> rows, IReadOnlyList<Choice> known)
    {
        var (code, label, colour, first) = Columns(rows);
        var languages =
            first == 0
                ? []
                : rows[0]
                    .Select((cell, at) => (Language: cell.Trim().ToLowerInvariant(), at))
                    .Where(column =>
                        column.at != code
                        && column.Language.Length == 2
                        && column.Language.All(char.IsAsciiLetterLower)
                        && column.Language != "id"
                    )
                    .ToList();
        var read = new List<ReadChoice>();
        var codes = known.Select(choice => choice.Code).ToHashSet(StringComparer.Ordinal);
        for (var i = first; i < rows.Count; i++)
        {
            var raw = Cell(rows[i], label);
            var plain = string.Join(' ', raw.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            if (plain.Length == 0)
                continue;
            var remarks = new List<string>();
            if (plain != raw)
                remarks.Add("Stray spaces were removed.");
            if (known.FirstOrDefault(choice => choice.IsOffered && choice.Label == plain) is { } same)
            {
                read.Add(new(same, i + 1, false, [.. remarks, "It is in the list already."]));
                continue;
            }

            if (read.Find(other => string.Equals(other.Choice.Label, plain, StringComparison.OrdinalIgnoreCase)) is { } twice)
            {
                read.Add(new(twice.Choice, i + 1, false, [.. remarks, $"It is the same as line {twice.Line}."]));
                continue;
            }

            if (ChoiceRules.RefuseAnew(plain, known, mayOffer: true) is { } retired)
            {
                read.Add(new(new("", plain), i + 1, false, [.. remarks, retired]) { IsSlip = true });
                continue;
            }

            if (Alike(plain, known, read) is { } alike)
                remarks.Add($"It is spelled almost like “{alike}”: is it the same?");
            var texts = languages
                .Select(column => (column.Language, Text: Cell(rows[i], column.at).Trim()))
                .Where(text => text.Text.Length > 0)
                .ToDictionary(text => text.Language, text => text.Text, StringComparer.Ordinal);
            read.Add(
                new(
                    new(CodeFor(Cell(rows[i], code).Trim(), plain, codes, remarks), plain)
                    {
                        Colour = ColourIn(Cell(rows[i], colour), remarks),
                        Texts = texts.Count > 0 ? texts : null,
                    },
                    i + 1,
                    true,
                    remarks
                )
            );
        }

        return read;
    }

    // A code that is given and can be one is kept; else it follows from the label.
    private static string CodeFor(string given, string label, HashSet<string> codes, List<string> remarks)
    {
        var code = given;
        if (given.Length > 0 && !Codes.IsChoiceCode(given))
        {
            code = Codes.From(given, codes);
            remarks.Add($"“{given}” cannot be a code; {(code.Length == 0 ? "one follows from the label" : $"{code} is taken")}.");
        }

        if (code.Length == 0)
            code = Codes.From(label, codes);
        if (code.Length == 0)
            code = Codes.From($"choice {codes.Count + 1}", codes);
        if (codes.Contains(code))
        {
            var other = Codes.From(code, codes);
            remarks.Add($"The code {code} is taken; {other} is used.");
            code = other;
        }

        codes.Add(code);
        return code;
    }

    private static string? Alike(string label, IReadOnlyList<Choice> known, List<ReadChoice> read)
    {
        var key = ChoiceRules.Key(label);
        return known
            .Where(choice => choice.IsOffered)
            .Concat(read.Where(other => other.IsTaken).Select(other => other.Choice))
            .FirstOrDefault(choice => ChoiceRules.Key(choice.Label) == key)
            ?.Label;
    }

    private static (int Code, int Label, int Colour, int First) Columns(IReadOnlyList<IReadOnlyList<string>> rows)
    {
        if (rows.Count == 0)
            return (-1, 0, -1, 0);
        var heading = rows[0].Select(cell => cell.Trim().ToLowerInvariant()).ToList();
        var (code, label) = (heading.FindIndex(CodeHeadings.Contains), heading.FindIndex(LabelHeadings.Contains));
        if (label >= 0 && (code >= 0 || rows[0].Count == 1 || heading.Contains("colour") || heading.Exists(cell => cell.Length == 2)))
            return (code, label, heading.IndexOf("colour"), 1);
        var wide = rows.Where(row => row.Count > 1 && row[1].Trim().Length > 0).ToList();
        if (wide.Count * 2 < rows.Count)
            return (-1, 0, -1, 0);

        // Two columns without headings: that with the plain identifiers holds the codes.
        return wide.All(row => Codes.IsChoiceCode(row[0].Trim())) ? (0, 1, 2, 0)
            : wide.All(row => Codes.IsChoiceCode(row[1].Trim())) ? (1, 0, 2, 0)
            : (0, 1, 2, 0);
    }

    private static string? ColourIn(string cell, List<string> remarks)
    {
        var colour = cell.Trim().ToLowerInvariant();
        if (colour.Length == 0 || Choice.Colours.Contains(colour))
            return colour.Length == 0 ? null : colour;
        remarks.Add($"There is no colour “{colour}”: it has none now. There are {string.Join(", ", Choice.Colours)}.");
        return null;
    }

    private static string Cell(IReadOnlyList<string> row, int at) => at >= 0 && at < row.Count ? row[at] : "";
}
