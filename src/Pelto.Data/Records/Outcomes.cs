using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>What came of changes that are not on file, as the person who made them may be told it.</summary>
internal static class Outcomes
{
    /// <summary>What a new document takes over from the one before is read there.</summary>
    public static IEnumerable<Field> Copied(RecordState state) => state.Id is null ? Copying.Reads(state.Type) : [];

    /// <summary>With what only the database can tell; one sentence for each place, so what cannot be read is not looked up as well.</summary>
    public static Outcome With(this Outcome outcome, IEnumerable<Message> outside) =>
        outcome with
        {
            Messages = [.. outcome.Messages, .. outside.Where(message => outcome.Messages.All(other => other.At != message.At))],
        };

    /// <summary>Without what is withheld.</summary>
    /// <param name="outcome">What came of them.</param>
    /// <param name="current">The record as it was.</param>
    /// <param name="changes">The changes.</param>
    /// <param name="access">What the person may do with the record.</param>
    public static Outcome Withheld(this Outcome outcome, RecordState current, RecordChanges changes, RecordAccess access)
    {
        access.Tried(current, outcome.State, changes).Withhold(outcome.State);
        return outcome;
    }

    /// <summary>The same, with what the record would see through its links.</summary>
    /// <param name="outcome">What came of them.</param>
    /// <param name="transaction">In which it is looked up.</param>
    /// <param name="targets">Looks up links.</param>
    /// <param name="current">The record as it was.</param>
    /// <param name="changes">The changes.</param>
    /// <param name="access">What the person may do with the record.</param>
    /// <param name="cancel">Stops it.</param>
    public static async Task<Outcome> WithheldAsync(
        this Outcome outcome,
        NpgsqlTransaction transaction,
        Targets targets,
        RecordState current,
        RecordChanges changes,
        RecordAccess access,
        CancellationToken cancel
    )
    {
        await SeeThrough.FillAsync(transaction.Connection!, transaction, outcome.State, cancel);
        await targets.CloseAsync(outcome.State, cancel);
        return outcome.Withheld(current, changes, access);
    }
}
