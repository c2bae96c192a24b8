using Pelto.Core.Auditing;
using Pelto.Data.Auditing;
using static Pelto.Data.Allowing;

namespace Pelto.Data.Records;

/// <summary>Shows secrets to those who may see them, and puts down that they did.</summary>
public sealed class SecretShowing(NpgsqlDataSource source, RecordStore store, Secrets secrets, AuditTrail audit)
{
    /// <summary>Shows a secret, and puts down that it was shown. Null when there is none, or when it cannot be read any more.</summary>
    public async Task<string?> RevealAsync(
        RecordType type,
        long id,
        Field field,
        long? line,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        MustRead(type, viewer);
        if (viewer.LevelAt(field) == AccessLevel.None)
            return null;
        if (viewer.LevelAt(field) < AccessLevel.Read)
            throw new AccessRefusedException($"You may not see {field.Label}.");
        if (await store.FindAsync(type, id, viewer, cancel) is not { } state)
            return null;
        var at = line is null ? null : state.Lines.SelectMany(lines => lines).FirstOrDefault(row => row.Id == line);
        if (viewer.LevelAt(field, state, at) < AccessLevel.Read)
            throw new AccessRefusedException($"You may not see {field.Label} of {state.Title}.");
        if (state.ValueAt(field, line) is not { DataType: DataType.Secret } stored)
            return null;
        var note = new AuditNote(AuditKinds.Showing, field.Id, $"Showed {field.Label} of {state.Title}")
        {
            RecordType = type.Code,
            Record = id,
            Line = line,
        };
        await audit.WriteAsync(source, viewer, note, cancel);
        return secrets.Open(stored.Stored, field.Id);
    }
}
