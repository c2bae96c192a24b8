namespace Pelto.Data.Database;

/// <summary>Tells the database's troubles apart.</summary>
public static class DatabaseErrors
{
    /// <summary>
    /// True when a lock could not be had in time, or somebody else changed the same thing of the catalogue in that moment: stepping back
    /// and trying again helps.
    /// </summary>
    public static bool IsLock(Exception error) =>
        error is PostgresException { SqlState: var state } postgres
            ? state is PostgresErrorCodes.LockNotAvailable or PostgresErrorCodes.DeadlockDetected || IsCrossed(postgres)
            : error.InnerException is { } inner && IsLock(inner);

    // Two who grant on one table, or who grant on a view that is dropped: the server has no code for it, and says it in its own language.
    // The function that says it is the same in all.
    private static bool IsCrossed(PostgresException error) =>
        error is { SqlState: PostgresErrorCodes.InternalError, Routine: "simple_heap_update" or "simple_heap_delete" };

    /// <summary>
    /// True for a character that no text can hold, such as NUL or half of one, and for a number, a date or a time beyond what can be kept.
    /// </summary>
    public static bool IsUnreadable(Exception error) =>
        error switch
        {
            PostgresException postgres => postgres.SqlState
                is PostgresErrorCodes.CharacterNotInRepertoire
                    or PostgresErrorCodes.UntranslatableCharacter
                    or PostgresErrorCodes.NumericValueOutOfRange
                    or PostgresErrorCodes.DatetimeFieldOverflow,
            System.Text.EncoderFallbackException => true,
            { InnerException: { } inner } => IsUnreadable(inner),
            _ => false,
        };

    /// <summary>True when the disk of the database is full: what was asked for works again once there is room.</summary>
    public static bool IsFull(Exception error) =>
        error is PostgresException { SqlState: PostgresErrorCodes.DiskFull } || (error.InnerException is { } inner && IsFull(inner));

    /// <summary>True when the server cannot be reached or is going down.</summary>
    public static bool IsDown(Exception error) =>
        error switch
        {
            PostgresException postgres => postgres.SqlState.StartsWith("57P", StringComparison.Ordinal)
                || postgres.SqlState.StartsWith("08", StringComparison.Ordinal),
            NpgsqlException => true,
            { InnerException: { } inner } => IsDown(inner),
            _ => false,
        };
}
