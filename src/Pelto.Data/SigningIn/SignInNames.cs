using System.Text;

namespace Pelto.Data.SigningIn;

/// <summary>
/// Names to sign in by, as they are compared: once, here, so that a name that is looked up and one whose tries are counted are never two.
/// </summary>
/// <remarks>
/// After PRECIS, profile UsernameCaseMapped (RFC 8265, 3.3.1 and 3.3.2): wide and narrow letters become ordinary ones, capitals become
/// small, and the text is composed (NFC).
/// </remarks>
public static class SignInNames
{
    private const int Most = 120;

    /// <summary>The name as it is kept and compared. What no name can be is compared as it is.</summary>
    public static string Normal(string name)
    {
        var text = name.Trim();
        if (text.Length > Most)
            text = text[..Most];
        try
        {
            var wide = new StringBuilder(text.Length);
            foreach (var rune in text.EnumerateRunes())
                wide.Append(IsWideOrNarrow(rune) ? rune.ToString().Normalize(NormalizationForm.FormKC) : rune.ToString());

            // Some letters are capitals only once they are composed, such as the sign for kelvin.
            return wide.ToString().Normalize(NormalizationForm.FormC).ToLowerInvariant().Normalize(NormalizationForm.FormC);
        }
        catch (ArgumentException)
        {
            return text;
        }
    }

    // The block of halfwidth and fullwidth forms, and the ideographic blank.
    private static bool IsWideOrNarrow(Rune rune) => rune.Value is >= 0xFF01 and <= 0xFFEE or 0x3000;
}
