namespace Pelto.Web.Components;

/// <summary>The languages that labels can be written in, besides the one that they are defined in.</summary>
public static class LabelLanguages
{
    /// <summary>All of them, by their two letters of ISO 639-1, in the order of their names.</summary>
    public static IReadOnlyList<(string Code, string Name)> All { get; } =
    [
        .. Locale
            .Languages.Where(code => code.Length > 0)
            .Select(code => code[..2])
            .Distinct()
            .Select(code => (code, CultureInfo.GetCultureInfo(code).EnglishName))
            .OrderBy(pair => pair.EnglishName, StringComparer.Ordinal),
    ];

    /// <summary>True for one of them.</summary>
    public static bool Knows(string? code) => All.Any(known => known.Code == code);

    /// <summary>What a language is called; its code when it is none of those.</summary>
    public static string NameOf(string code) => All.FirstOrDefault(known => known.Code == code) is { Name: { } name } ? name : code;
}
