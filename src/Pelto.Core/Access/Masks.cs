namespace Pelto.Core.Access;

/// <summary>
/// What stands for a masked value: always the same, so that it tells nothing; behind it the last characters, where the administrator lets
/// them be seen.
/// </summary>
public static class Masks
{
    /// <summary>The pattern.</summary>
    public const string Pattern = "•••••";

    /// <summary>How many characters an ending has.</summary>
    public const int EndingLength = 4;

    /// <summary>A shorter value shows no ending: too little of it would be left unseen.</summary>
    public const int LeastForEnding = 8;

    /// <summary>The pattern, with an ending where there is one.</summary>
    public static string With(string? ending) => ending is null ? Pattern : $"{Pattern} {ending}";

    /// <summary>The last characters of a value of a text, where its guard lets them be seen; null where not.</summary>
    public static string? EndingOf(Field field, Value value) =>
        LeavesEnding(field) && value.DataType == DataType.Text && value.Text.Length >= LeastForEnding ? value.Text[^EndingLength..] : null;

    /// <summary>True for a text whose guard lets the last characters be seen where it is masked.</summary>
    public static bool LeavesEnding(Field field) =>
        field.Kind.DataType == DataType.Text && field.Part.RecordType.Guarding.GuardOf(field) is { Ending: true };
}
