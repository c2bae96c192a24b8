namespace Pelto.Data.Database;

/// <summary>What all connections have in common, whichever role they are of.</summary>
internal static class ConnectionSettings
{
    // A list with live fields is a long statement over few rows: to compile it takes PostgreSQL seconds, to run it a fraction of one.
    private const string NotCompiled = "-c jit=off";

    /// <summary>The settings of a pool.</summary>
    /// <param name="connection">The connection string that the installation was given.</param>
    /// <param name="name">What the connections are called in the database.</param>
    /// <param name="most">How many there are at most.</param>
    public static NpgsqlConnectionStringBuilder From(string connection, string name, int most)
    {
        var settings = new NpgsqlConnectionStringBuilder(connection) { MaxPoolSize = most, ApplicationName = name };
        settings.Options = string.IsNullOrWhiteSpace(settings.Options) ? NotCompiled : $"{NotCompiled} {settings.Options}";
        return settings;
    }
}
