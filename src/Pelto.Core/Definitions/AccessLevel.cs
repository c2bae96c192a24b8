namespace Pelto.Core.Definitions;

/// <summary>What somebody may do with a field; each level includes those before it.</summary>
public enum AccessLevel
{
    /// <summary>It does not exist for them.</summary>
    None,

    /// <summary>They see that it exists, not what it contains.</summary>
    Masked,

    /// <summary>They see it.</summary>
    Read,

    /// <summary>They change it.</summary>
    Write,
}

/// <summary>Levels as definitions write them and people read them.</summary>
public static class AccessLevels
{
    /// <summary>All levels as definitions write them, the lowest first.</summary>
    public static IReadOnlyList<string> Words { get; } = ["none", "masked", "read", "write"];

    /// <summary>A level as definitions write it.</summary>
    public static string Word(this AccessLevel level) => Words[(int)level];

    /// <summary>Reads a level; null for any other word.</summary>
    public static AccessLevel? Read(string? word) => Words.IndexOf(word) is var at and >= 0 ? (AccessLevel)at : null;

    private static int IndexOf(this IReadOnlyList<string> words, string? word)
    {
        for (var i = 0; i < words.Count; i++)
            if (words[i] == word)
                return i;
        return -1;
    }
}
