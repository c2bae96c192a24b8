namespace Pelto.Core.Values;

/// <summary>What files may be, and what they are by their first bytes.</summary>
public static class FileRules
{
    /// <summary>The largest file that is taken, in bytes.</summary>
    public const int LargestSize = 20 * 1024 * 1024;

    /// <summary>True for what can be a file's name.</summary>
    public static bool IsName(string name) =>
        name.Length is > 0 and <= 200 && !name.Any(char.IsControl) && name.IndexOfAny(['/', '\\']) < 0;

    /// <summary>
    /// The media type of a picture that browsers show and that cannot hold script, told by its first bytes; null for anything else.
    /// </summary>
    public static string? PictureType(ReadOnlySpan<byte> content) =>
        (content.Length > 8 && content[0] == 0x89 && content[1..8].SequenceEqual("PNG\r\n\x1a\n"u8)) ? "image/png"
        : content.Length > 3 && content[0] == 0xff && content[1] == 0xd8 && content[2] == 0xff ? "image/jpeg"
        : content.StartsWith("GIF87a"u8) || content.StartsWith("GIF89a"u8) ? "image/gif"
        : content.Length > 12 && content.StartsWith("RIFF"u8) && content[8..12].SequenceEqual("WEBP"u8) ? "image/webp"
        : null;
}
