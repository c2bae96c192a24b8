namespace Pelto.Core.Formulas;

/// <summary>Finds the name that somebody probably meant.</summary>
internal static class Nearest
{
    /// <summary>The known name with the fewest changed letters, if they are few enough to be a slip.</summary>
    public static string? To(string name, IEnumerable<string> known)
    {
        var best = known
            .Distinct(StringComparer.Ordinal)
            .Select(candidate => (candidate, distance: Distance(name.ToUpperInvariant(), candidate.ToUpperInvariant())))
            .OrderBy(pair => pair.distance)
            .ThenBy(pair => pair.candidate, StringComparer.Ordinal)
            .FirstOrDefault();
        return best.candidate is not null && best.distance <= Math.Max(1, name.Length / 3) ? best.candidate : null;
    }

    /// <summary>The sentence with its first letter large.</summary>
    public static string Capital(this string sentence) =>
        sentence.Length == 0 ? sentence : char.ToUpperInvariant(sentence[0]) + sentence[1..];

    // Levenshtein's distance, one row at a time.
    private static int Distance(string a, string b)
    {
        var row = Enumerable.Range(0, b.Length + 1).ToArray();
        for (var i = 1; i <= a.Length; i++)
        {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
            {
                var replaced = diagonal + (a[i - 1] == b[j - 1] ? 0 : 1);
                diagonal = row[j];
                row[j] = Math.Min(replaced, Math.Min(row[j], row[j - 1]) + 1);
            }
        }

        return row[b.Length];
    }
}
