namespace Pelto.Data.Records;

/// <summary>A file as it is kept.</summary>
public sealed record StoredFile(Guid Id, string Name, string MediaType, byte[] Content);

/// <summary>Files that records refer to. Bringing one keeps it for a day; a saved record keeps it for good.</summary>
public sealed class Files(IDbContextFactory<PeltoContext> contexts, RecordStore store, TimeProvider clock)
{
    private static readonly TimeSpan Waiting = TimeSpan.FromDays(1);

    /// <summary>How many bytes one person may have brought that stand in no record yet.</summary>
    public static long MaxWaiting { get; set; } = 200L * 1024 * 1024;

    /// <summary>How many bytes one person may bring in a day.</summary>
    public static long MaxInADay { get; set; } = 2L * 1024 * 1024 * 1024;

    /// <summary>
    /// Takes a file in, for a field that the person may write. Pictures are told by their content, whatever their name says. Gives the
    /// file, or why it is not taken.
    /// </summary>
    /// <param name="name">Its name.</param>
    /// <param name="content">What it holds.</param>
    /// <param name="field">The field that it is for.</param>
    /// <param name="viewer">Who brings it.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<(StoredFile? File, string? Refusal)> BringAsync(
        string name,
        byte[] content,
        Field? field,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (field?.Kind.IsFile != true || viewer.LevelAt(field) < AccessLevel.Write)
            return (null, "Say for which field it is: one that takes files, and that you may change.");
        await using (var context = await contexts.CreateDbContextAsync(cancel))
        {
            var since = clock.GetUtcNow() - Waiting;
            var brought = await context
                .Files.Where(row => row.UploadedBy == viewer.Id && row.UploadedAt > since)
                .GroupBy(row => row.Stored)
                .Select(files => new { Kept = files.Key, Bytes = files.Sum(row => (long)row.Content.Length) })
                .ToListAsync(cancel);
            if (brought.Where(files => !files.Kept).Sum(files => files.Bytes) + content.Length > MaxWaiting)
            {
                return (
                    null,
                    "You have uploaded very many files that are in no record yet. "
                        + "Save the records that they are for, or try again tomorrow."
                );
            }

            if (brought.Sum(files => files.Bytes) + content.Length > MaxInADay)
                return (null, "That is more than one person may upload in a day. Try again tomorrow.");
        }

        return (await PutAsync(name, content, viewer, cancel), null);
    }

    /// <summary>Takes a file in.</summary>
    internal async Task<StoredFile> PutAsync(string name, byte[] content, Viewer viewer, CancellationToken cancel = default)
    {
        var file = new StoredFile(Guid.CreateVersion7(), name, FileRules.PictureType(content) ?? "application/octet-stream", content);
        var now = clock.GetUtcNow();
        var aDayAgo = now - Waiting;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Files.Where(row => !row.Stored && row.UploadedAt < aDayAgo).ExecuteDeleteAsync(cancel);
        context.Files.Add(
            new()
            {
                Id = file.Id,
                Name = name,
                MediaType = file.MediaType,
                Content = content,
                UploadedBy = viewer.Id,
                UploadedAt = now,
            }
        );
        await context.SaveChangesAsync(cancel);
        return file;
    }

    /// <summary>A file that this person brought and has not saved with a record yet.</summary>
    public async Task<StoredFile?> FindOwnAsync(Guid id, Viewer viewer, CancellationToken cancel = default) =>
        await FindAsync(id, cancel) is { } found && found.Owner == viewer.Id ? found.File : null;

    /// <summary>The file in a field of a record, for those who may read that field.</summary>
    public async Task<StoredFile?> FindAsync(
        RecordType type,
        long record,
        Field field,
        long? line,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (viewer.LevelAt(field) == AccessLevel.None)
            return null;
        if (viewer.LevelAt(field) < AccessLevel.Read)
            throw new AccessRefusedException($"You may not see {field.Label}.");
        if (await store.FindAsync(type, record, viewer, cancel) is not { } state)
            return null;
        return state.ValueAt(field, line) is { DataType: DataType.File } stored ? (await FindAsync(stored.FileId, cancel))?.File : null;
    }

    private async Task<(StoredFile File, Guid Owner)?> FindAsync(Guid id, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Files.AsNoTracking().FirstOrDefaultAsync(row => row.Id == id, cancel) is { } row
            ? (new(id, row.Name, row.MediaType, row.Content), row.UploadedBy)
            : null;
    }
}
