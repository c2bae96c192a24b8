using System.Text;

namespace Pelto.Data.SigningIn;

/// <summary>
/// What a password must be, after NIST SP 800-63B: long, nothing else about its composition, and none that is common or to be expected.
/// </summary>
public static class PasswordRules
{
    /// <summary>The fewest characters of a password that stands alone.</summary>
    public const int Least = 15;

    /// <summary>The most characters.</summary>
    public const int Most = 128;

    // Beyond this the estimate costs more than it tells.
    private const int Looked = 64;

    // Of four: one is a common password, or two of them in a row, or a sequence.
    private const int LeastScore = 2;

    /// <summary>As it is hashed: what looks the same is the same on every keyboard (Unicode NFKC).</summary>
    public static string Normal(string password) => password.Normalize(NormalizationForm.FormKC);

    /// <summary>Why a password cannot be, as a sentence; null when it can.</summary>
    /// <param name="password">As typed.</param>
    /// <param name="expected">Words that are to be expected from this person, such as their name and company.</param>
    public static string? Refuse(string password, IEnumerable<string> expected)
    {
        if (!IsUnicode(password))
            return "The password holds a character that is not valid.";
        var normal = Normal(password);
        var length = normal.EnumerateRunes().Count();
        if (length < Least)
            return $"A password has at least {Least} characters; this one has {length}. A few words in a row are easy to remember.";
        if (length > Most)
            return $"A password has at most {Most} characters.";
        if (normal.Any(char.IsControl))
            return "A password holds no control characters.";
        var words = expected
            .SelectMany(text => text.Split([' ', '.', '-', '_', '@'], StringSplitOptions.RemoveEmptyEntries).Append(text))
            .Where(word => word.Length > 2)
            .Append("pelto")
            .Distinct(StringComparer.OrdinalIgnoreCase);
        var match = Zxcvbn.Zxcvbn.MatchPassword(normal.Length > Looked ? normal[..Looked] : normal, words);
        return match.Score < LeastScore
            ? "This password is a common one, or easy to guess from common ones, from a sequence or from your name. Choose another."
            : null;
    }

    private static bool IsUnicode(string text)
    {
        try
        {
            _ = text.Normalize(NormalizationForm.FormKC);
            return true;
        }
        catch (ArgumentException)
        {
            return false;
        }
    }
}
