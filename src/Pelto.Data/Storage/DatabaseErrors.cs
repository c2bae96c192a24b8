using Npgsql;

namespace Pelto.Data.Storage;

/// <summary>Tells the database's troubles apart.</summary>
public static class DatabaseErrors
{
    /// <summary>True when a lock could not be had in time: stepping back and trying again helps.</summary>
    public static bool IsLock(PostgresException error) => error.SqlState is PostgresErrorCodes.LockNotAvailable or PostgresErrorCodes.DeadlockDetected;

    /// <summary>True for a character that no text can hold, such as NUL or half of one, and for a number, a date or a time beyond what can be kept.</summary>
    public static bool IsUnreadable(Exception error) => error switch
    {
        PostgresException postgres => postgres.SqlState is PostgresErrorCodes.CharacterNotInRepertoire or PostgresErrorCodes.UntranslatableCharacter or PostgresErrorCodes.NumericValueOutOfRange or PostgresErrorCodes.DatetimeFieldOverflow,
        System.Text.EncoderFallbackException => true,
        { InnerException: { } inner } => IsUnreadable(inner),
        _ => false,
    };

    /// <summary>True when the server cannot be reached or is going down.</summary>
    public static bool IsDown(Exception error) => error switch
    {
        PostgresException postgres => postgres.SqlState.StartsWith("57P", StringComparison.Ordinal) || postgres.SqlState.StartsWith("08", StringComparison.Ordinal),
        NpgsqlException => true,
        { InnerException: { } inner } => IsDown(inner),
        _ => false,
    };
}
