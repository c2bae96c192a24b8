using System.Text.RegularExpressions;
using CsvHelper;
using CsvHelper.Configuration;

namespace Pelto.Web.Components;

/// <summary>Reads what somebody copied from a spreadsheet: cells apart by tabs, semicolons or commas, quoted as RFC 4180 has it.</summary>
internal static partial class PastedTable
{
    public static IReadOnlyList<IReadOnlyList<string>> Read(string text)
    {
        var settings = new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = DelimiterIn(text),
            HasHeaderRecord = false,
            BadDataFound = null,
            IgnoreBlankLines = true,
            MissingFieldFound = null,
            Mode = Opening().IsMatch(text) ? CsvMode.RFC4180 : CsvMode.NoEscape,
        };
        using var reader = new CsvReader(new StringReader(text), settings);
        var rows = new List<IReadOnlyList<string>>();
        while (reader.Read() && rows.Count < 5000)
            rows.Add([.. Enumerable.Range(0, reader.Parser.Count).Select(i => reader.GetField(i) ?? "")]);
        return rows;
    }

    /// <summary>
    /// The line on which a quotation mark begins a cell and none ends it, so that all that follows would be one cell; null when there is
    /// none.
    /// </summary>
    public static int? Unclosed(string text)
    {
        var opened = Quoted()
            .Replace(text, quoted =>
                new string('x', quoted.Length - quoted.Value.Count(c => c == '\n')) + new string('\n', quoted.Value.Count(c => c == '\n'))
            );
        return Opening().Match(opened) is { Success: true } mark ? opened[..(mark.Index + mark.Length)].Count(c => c == '\n') + 1 : null;
    }

    // Spreadsheets copy with tabs; files mostly come with semicolons or commas. A comma counts only where each line has one, since labels
    // hold commas too.
    private static string DelimiterIn(string text)
    {
        // What stands in quotes parts nothing.
        var lines = Quoted()
            .Replace(text, "")
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Take(20)
            .ToList();
        if (lines.Exists(line => line.Contains('\t', StringComparison.Ordinal)))
            return "\t";
        if (lines.Count > 0 && lines.Count(line => line.Contains(';', StringComparison.Ordinal)) * 2 > lines.Count)
            return ";";
        return
            lines.Count > 1
            && lines.TrueForAll(line =>
                line.Count(c => c == ',') == lines[0].Count(c => c == ',') && line.Contains(',', StringComparison.Ordinal)
            )
            ? ","
            : "\t";
    }

    // Only at the beginning of a cell: elsewhere it stands for inches, or for itself.
    [GeneratedRegex("(?<=^|[\t;,\n])\"(?:[^\"]|\"\")*\"")]
    private static partial Regex Quoted();

    [GeneratedRegex("(?<=^|[\t;,\n])\"")]
    private static partial Regex Opening();
}
