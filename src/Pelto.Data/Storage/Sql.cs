namespace Pelto.Data.Storage;

/// <summary>Names in SQL. Values never go into text: they are parameters.</summary>
internal static class Sql
{
    /// <summary>The schema of the host's tables.</summary>
    public const string Erp = "erp";

    /// <summary>The schema of what the site adds.</summary>
    public const string Added = "added";

    /// <summary>A quoted name.</summary>
    public static string Name(string name) => $"\"{name.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";

    /// <summary>A quoted name in a schema.</summary>
    public static string Table(string schema, string name) => $"{schema}.{Name(name)}";
}
