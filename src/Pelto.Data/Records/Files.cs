using Npgsql;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Data.Records;

/// <summary>A file as it is kept.</summary>
public sealed record KeptFile(Guid Id, string Name, string MediaType, byte[] Content);

/// <summary>Files that records refer to. Bringing one keeps it for a day; a saved record keeps it for good.</summary>
public sealed class Files(NpgsqlDataSource source, RecordStore store, TimeProvider clock)
{
    private static readonly TimeSpan Waiting = TimeSpan.FromDays(1);

    /// <summary>How many bytes one person may have brought that stand in no record yet.</summary>
    public static long MostWaiting { get; set; } = 200L * 1024 * 1024;

    /// <summary>How many bytes one person may bring in a day.</summary>
    public static long MostInADay { get; set; } = 2L * 1024 * 1024 * 1024;

    /// <summary>
    /// Takes a file in, for a field that the person may write. Pictures are told by their content, whatever their name says. Gives the
    /// file, or why it is not taken.
    /// </summary>
    /// <param name="name">Its name.</param>
    /// <param name="content">What it holds.</param>
    /// <param name="field">The field that it is for.</param>
    /// <param name="viewer">Who brings it.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<(KeptFile? File, string? Refusal)> BringAsync(string name, byte[] content, Field? field, Viewer viewer, CancellationToken cancel = default)
    {
        if (field?.Kind.IsFile != true || viewer.LevelAt(field) < AccessLevel.Write)
            return (null, "Say for which field it is: one that takes files, and that you may change.");
        await using (var command = source.CreateCommand("SELECT coalesce(sum(octet_length(content)) FILTER (WHERE NOT kept), 0)::bigint, coalesce(sum(octet_length(content)), 0)::bigint FROM pelto.file WHERE uploaded_by = $1 AND uploaded_at > $2"))
        {
            command.Parameters.Add(new() { Value = viewer.Id });
            command.Parameters.Add(new() { Value = clock.GetUtcNow() - Waiting });
            await using var reader = await command.ExecuteReaderAsync(cancel);
            await reader.ReadAsync(cancel);
            if (reader.GetInt64(0) + content.Length > MostWaiting) return (null, "You brought very many files that stand in no record yet. Save the records that they are for, or try again tomorrow.");
            if (reader.GetInt64(1) + content.Length > MostInADay)
                return (null, "That is more than one person brings in a day. Try again tomorrow.");
        }

        return (await PutAsync(name, content, viewer, cancel), null);
    }

    /// <summary>Takes a file in.</summary>
    internal async Task<KeptFile> PutAsync(string name, byte[] content, Viewer viewer, CancellationToken cancel = default)
    {
        var file = new KeptFile(Guid.CreateVersion7(), name, FileRules.PictureType(content) ?? "application/octet-stream", content);
        await using var batch = source.CreateBatch();
        batch.BatchCommands.Add(Command("DELETE FROM pelto.file WHERE NOT kept AND uploaded_at < $1", clock.GetUtcNow() - Waiting));
        batch.BatchCommands.Add(Command("INSERT INTO pelto.file (id, name, media_type, content, uploaded_by, uploaded_at, kept) VALUES ($1, $2, $3, $4, $5, $6, false)", file.Id, name, file.MediaType, content, viewer.Id, clock.GetUtcNow()));
        await batch.ExecuteNonQueryAsync(cancel);
        return file;
    }

    /// <summary>A file that this person brought and has not saved with a record yet.</summary>
    public async Task<KeptFile?> FindOwnAsync(Guid id, Viewer viewer, CancellationToken cancel = default) =>
        await FindAsync(id, cancel) is { } found && found.Owner == viewer.Id ? found.File : null;

    /// <summary>The file in a field of a record, for those who may read that field.</summary>
    public async Task<KeptFile?> FindAsync(RecordType type, long record, Field field, long? line, Viewer viewer, CancellationToken cancel = default)
    {
        if (viewer.LevelAt(field) == AccessLevel.None) return null;
        if (viewer.LevelAt(field) < AccessLevel.Read) throw new AccessRefusedException($"You may not see {field.Label}.");
        if (await store.FindAsync(type, record, viewer, cancel) is not { } state) return null;
        return state.ValueAt(field, line) is { Type: ValueForm.File } kept ? (await FindAsync(kept.FileId, cancel))?.File : null;
    }

    private async Task<(KeptFile File, Guid Owner)?> FindAsync(Guid id, CancellationToken cancel)
    {
        await using var command = source.CreateCommand("SELECT name, media_type, content, uploaded_by FROM pelto.file WHERE id = $1");
        command.Parameters.Add(new() { Value = id });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel) ? (new(id, reader.GetString(0), reader.GetString(1), reader.GetFieldValue<byte[]>(2)), reader.GetGuid(3)) : null;
    }

    private static NpgsqlBatchCommand Command(string sql, params object[] values)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var value in values) command.Parameters.Add(new() { Value = value });
        return command;
    }
}
