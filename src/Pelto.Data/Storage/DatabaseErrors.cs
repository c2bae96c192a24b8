using Npgsql;

namespace Pelto.Data.Storage;

/// <summary>Tells the database's troubles apart.</summary>
public static class DatabaseErrors
{
    /// <summary>True when a lock could not be had in time: stepping back and trying again helps.</summary>
    public static bool IsLock(PostgresException error) => error.SqlState is PostgresErrorCodes.LockNotAvailable or PostgresErrorCodes.DeadlockDetected;

    /// <summary>True when the server cannot be reached or is going down.</summary>
    public static bool IsDown(Exception error) => error switch
    {
        PostgresException postgres => postgres.SqlState.StartsWith("57P", StringComparison.Ordinal) || postgres.SqlState.StartsWith("08", StringComparison.Ordinal),
        NpgsqlException => true,
        { InnerException: { } inner } => IsDown(inner),
        _ => false,
    };
}
