using System.Text.RegularExpressions;

namespace Pelto.Core.Values;

/// <summary>Patterns that administrators write: regular expressions that a text must fit as a whole, run without backtracking so that none can run for long.</summary>
public static class Patterns
{
    /// <summary>Why a pattern cannot be used, or null.</summary>
    public static string? Refuse(string pattern)
    {
        try
        {
            _ = Of(pattern);
            return pattern.Length > 200 ? "A pattern has at most 200 characters." : null;
        }
        catch (Exception wrong) when (wrong is ArgumentException or NotSupportedException)
        {
            return $"This pattern is no regular expression that can be used: {wrong.Message}";
        }
    }

    /// <summary>True when the whole text fits.</summary>
    public static bool Fits(string text, string pattern)
    {
        try
        {
            return Of(pattern).IsMatch(text);
        }
        catch (Exception wrong) when (wrong is ArgumentException or NotSupportedException)
        {
            return true;
        }
    }

    private static Regex Of(string pattern) => new($"^(?:{pattern})$", RegexOptions.NonBacktracking | RegexOptions.CultureInvariant);
}
