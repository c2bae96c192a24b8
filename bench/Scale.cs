namespace Pelto.Bench;

/// <summary>Whether a benchmark measures, or only shows on little data that it still works: so it runs with the tests.</summary>
internal static class Scale
{
    /// <summary>True to run on little data. Set before anything else.</summary>
    public static bool IsSmall { get; set; }

    /// <summary>How many of something there are.</summary>
    public static int Of(int full, int small) => IsSmall ? small : full;
}
