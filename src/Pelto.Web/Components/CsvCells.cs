using System.Text.RegularExpressions;
using CsvHelper;

namespace Pelto.Web.Components;

/// <summary>Cells of files of comma-separated values that people open in a spreadsheet.</summary>
internal static partial class CsvCells
{
    /// <summary>
    /// Writes a cell that no spreadsheet takes for a formula: a text that would begin one gets an apostrophe before it (CWE-1236); numbers
    /// stay numbers.
    /// </summary>
    public static void WriteCell(this CsvWriter csv, string? text) =>
        csv.WriteField(
            text is { Length: > 0 }
            && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r' or '\n' or '＝' or '＋' or '－' or '＠'
            && !Number().IsMatch(text)
                ? "'" + text
                : text
        );

    [GeneratedRegex(@"^[+-]?[0-9][0-9 .,\u00a0]*%?$")]
    private static partial Regex Number();
}
