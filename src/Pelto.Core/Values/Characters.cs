namespace Pelto.Core.Values;

/// <summary>Characters as people and PostgreSQL count them: code points of Unicode.</summary>
public static class Characters
{
    /// <summary>How many there are, not halves of them.</summary>
    public static int Count(string text) => text.EnumerateRunes().Count();

    /// <summary>True when no half of a pair stands alone.</summary>
    public static bool AreWhole(string text)
    {
        for (var i = 0; i < text.Length; i++)
        {
            if (!char.IsSurrogate(text[i]))
                continue;
            if (!char.IsSurrogatePair(text, i))
                return false;
            i++;
        }

        return true;
    }
}
