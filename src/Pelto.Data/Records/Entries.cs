using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text.Json;
using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>Where an entry came from.</summary>
/// <param name="Address">The sender's network address; null when it is not known.</param>
/// <param name="Agent">What the sender's browser calls itself.</param>
public sealed record Sender(IPAddress? Address, string Agent)
{
    /// <summary>
    /// What one sender keeps of the address: all of IPv4, the first 64 bits of IPv6 (RFC 4291, 2.5.4: what follows tells the machines of
    /// one network apart).
    /// </summary>
    public string Network
    {
        get
        {
            if (Address is not { } address)
                return "";
            if (address.IsIPv4MappedToIPv6)
                address = address.MapToIPv4();
            return address.AddressFamily == AddressFamily.InterNetworkV6
                ? new IPAddress([.. address.GetAddressBytes().Take(8), .. new byte[8]]) + "/64"
                : address.ToString();
        }
    }
}

/// <summary>An entry from outside.</summary>
/// <param name="Row">What is kept of it.</param>
/// <param name="Begun">The new record that it would make, with defaults for what it does not say.</param>
/// <param name="Sent">The fields of the header that the sender filled.</param>
public sealed record Entry(EntryRow Row, RecordState Begun, IReadOnlyList<Field> Sent);

/// <summary>How sending in ended.</summary>
/// <param name="Reference">What to quote, once it is here.</param>
/// <param name="Outcome">What is wrong, when it was not taken for what it says.</param>
/// <param name="Refusal">Why it was not taken, whatever it says.</param>
public sealed record Submission(string? Reference, Outcome? Outcome = null, string? Refusal = null);

/// <summary>
/// What people outside send in through public forms. It waits here, outside of all records, until somebody accepts or refuses it.
/// </summary>
public sealed class Entries(NpgsqlDataSource source, IDbContextFactory<PeltoContext> contexts, RecordStore store, TimeProvider clock)
{
    /// <summary>How many one sender can send within an hour.</summary>
    public const int MaxInAnHour = 20;

    /// <summary>How many of a type can wait.</summary>
    public const int MaxWaiting = 1000;

    /// <summary>The most bytes that an entry takes.</summary>
    public const int LargestEntry = 64 * 1024;

    private static readonly TimeSpan RefusedStays = TimeSpan.FromDays(30);

    /// <summary>Takes an entry in, or says why not.</summary>
    /// <param name="form">The form that was sent.</param>
    /// <param name="changes">What was entered.</param>
    /// <param name="outside">Who sent it: see <see cref="Viewer.Outside"/>.</param>
    /// <param name="release">The release of the form.</param>
    /// <param name="sender">Where it came from.</param>
    /// <param name="cancel">Stops it before anything is kept.</param>
    public async Task<Submission> SubmitAsync(
        PublicForm form,
        RecordChanges changes,
        Viewer outside,
        int release,
        Sender sender,
        CancellationToken cancel
    )
    {
        if (form.Definition.Closed)
            return new(null, Refusal: "This form is closed at the moment.");
        var outcome = (await store.TryAsync(form.Type, null, changes, outside, form.Asks, cancel))!;

        // What is wrong in fields that were not sent is for those who accept it.
        outcome = outcome with
        {
            Messages = [.. outcome.Messages.Where(message => message.At.Field is not { } at || form.Asks(at) || changes.Mentions(at))],
        };
        if (!outcome.IsGood)
            return new(null, outcome);
        var record = RecordJson.Write(outcome.State, outside).ToJsonString();
        if (record.Length > LargestEntry)
            return new(null, outcome, "This is more than the form takes. Please say it in fewer words, or with fewer lines.");

        await using var connection = await source.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        // One after the other, so that the limits hold for senders in a hurry too.
        await transaction.Command("SELECT pg_advisory_xact_lock(hashtext($1))", "entry " + form.Type.Code).RunAsync(cancel);
        await using var context = contexts.Within(transaction);
        var now = clock.GetUtcNow();
        var anHourAgo = now.AddHours(-1);
        if (await context.Entries.CountAsync(row => row.Network == sender.Network && row.SentAt > anHourAgo, cancel) >= MaxInAnHour)
        {
            return new(
                null,
                outcome,
                "This form was sent very often from your network within the last hour. "
                    + "Please try again later; what you typed is still here."
            );
        }

        if (await Waiting(context, form.Type).CountAsync(cancel) >= MaxWaiting)
        {
            return new(
                null,
                outcome,
                "More is waiting here than can be looked at just now. " + "Please try again another day; what you typed is still here."
            );
        }

        var reference = $"{RandomNumberGenerator.GetString(ReferenceLetters, 4)}-{RandomNumberGenerator.GetString(ReferenceLetters, 4)}";
        context.Entries.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                Reference = reference,
                RecordType = form.Type.Code,
                Record = record,
                State = EntryState.Waiting,
                SentAt = now,
                Form = form.Definition.Title,
                Release = release,
                Address = sender.Address?.ToString() ?? "",
                Network = sender.Network,
                Agent = sender.Agent.Length > 300 ? sender.Agent[..300] : sender.Agent,
            }
        );
        await context.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return new(reference);
    }

    private const string ReferenceLetters = "ABCDEFGHJKMNPQRSTUVWXYZ23456789";

    /// <summary>How many entries of a type wait.</summary>
    public async Task<long> CountWaitingAsync(RecordType type, Viewer viewer, CancellationToken cancel = default)
    {
        MustDecide(type, viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await Waiting(context, type).LongCountAsync(cancel);
    }

    /// <summary>Entries of a type, those that wait longest first, decided ones newest first.</summary>
    public async Task<IReadOnlyList<Entry>> ReadAsync(
        RecordType type,
        EntryState state,
        Viewer viewer,
        int take = 100,
        CancellationToken cancel = default
    )
    {
        MustDecide(type, viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var rows = context.Entries.AsNoTracking().Where(row => row.RecordType == type.Code && row.State == state);
        rows =
            state == EntryState.Waiting
                ? rows.OrderBy(row => row.SentAt).ThenBy(row => row.Id)
                : rows.OrderByDescending(row => row.DecidedAt).ThenBy(row => row.Id);
        return await BeginAsync(type, await rows.Take(take).ToListAsync(cancel), viewer, cancel);
    }

    /// <summary>One entry of a type, or null.</summary>
    public async Task<Entry?> FindAsync(RecordType type, Guid id, Viewer viewer, CancellationToken cancel = default)
    {
        MustDecide(type, viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var rows = await context.Entries.AsNoTracking().Where(row => row.Id == id && row.RecordType == type.Code).ToListAsync(cancel);
        return (await BeginAsync(type, rows, viewer, cancel)).FirstOrDefault();
    }

    /// <summary>
    /// The entry that a record came from, for those who may see the record; the sender's address only for those who decide on entries. Null
    /// when it was made here.
    /// </summary>
    public async Task<EntryRow?> OriginAsync(RecordState record, Viewer viewer, CancellationToken cancel = default)
    {
        if (record.Id is not { } id || record.Type.Definition is null || !viewer.MayRead(record.Type))
            return null;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var accepted = context.Entries.AsNoTracking().Where(row => row.RecordType == record.Type.Code && row.State == EntryState.Accepted);
        if (await accepted.FirstOrDefaultAsync(entry => entry.RecordId == id, cancel) is not { } row)
            return null;
        if (!viewer.MayCreate(record.Type))
            (row.Address, row.Agent) = ("", "");
        return row;
    }

    /// <summary>
    /// Refuses an entry that waits; false when somebody decided before. Entries that were refused a month ago go for good.
    /// </summary>
    public async Task<bool> RefuseAsync(RecordType type, Guid id, Viewer viewer, CancellationToken cancel = default)
    {
        MustDecide(type, viewer);
        var now = clock.GetUtcNow();
        var aMonthAgo = now - RefusedStays;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Entries.Where(row => row.State == EntryState.Refused && row.DecidedAt < aMonthAgo).ExecuteDeleteAsync(cancel);
        return await Waiting(context, type)
                .Where(row => row.Id == id)
                .ExecuteUpdateAsync(
                    set =>
                        set.SetProperty(row => row.State, EntryState.Refused)
                            .SetProperty(row => row.DecidedBy, viewer.Name)
                            .SetProperty(row => row.DecidedAt, now),
                    cancel
                ) == 1;
    }

    /// <summary>Lets a refused entry wait again; false when it is not there any more.</summary>
    public async Task<bool> UnrefuseAsync(RecordType type, Guid id, Viewer viewer, CancellationToken cancel = default)
    {
        MustDecide(type, viewer);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var refused = context.Entries.Where(row => row.Id == id && row.RecordType == type.Code && row.State == EntryState.Refused);
        return await refused.ExecuteUpdateAsync(
                set =>
                    set.SetProperty(row => row.State, EntryState.Waiting)
                        .SetProperty(row => row.DecidedBy, "")
                        .SetProperty(row => row.DecidedAt, (DateTimeOffset?)null),
                cancel
            ) == 1;
    }

    /// <summary>Puts down, in the transaction that saves it, which record an entry became. False when somebody decided before.</summary>
    internal static async Task<bool> AcceptAsync(
        PeltoContext context,
        Guid entry,
        RecordState record,
        Viewer viewer,
        DateTimeOffset now,
        CancellationToken cancel
    ) =>
        await Waiting(context, record.Type)
            .Where(row => row.Id == entry)
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(row => row.State, EntryState.Accepted)
                        .SetProperty(row => row.RecordId, record.Id)
                        .SetProperty(row => row.DecidedBy, viewer.Name)
                        .SetProperty(row => row.DecidedAt, now),
                cancel
            ) == 1;

    /// <summary>What an entry that waits says; null when none does.</summary>
    internal static async Task<RecordChanges?> SentAsync(PeltoContext context, Guid entry, RecordType type, CancellationToken cancel) =>
        await Waiting(context, type).Where(row => row.Id == entry).Select(row => row.Record).FirstOrDefaultAsync(cancel) is { } record
            ? ChangesIn(record, type)
            : null;

    private static IQueryable<EntryRow> Waiting(PeltoContext context, RecordType type) =>
        context.Entries.Where(row => row.RecordType == type.Code && row.State == EntryState.Waiting);

    // What is not defined any more is left out. Its lines are known by keys of their own, so that no other line is taken for one of them.
    private static RecordChanges ChangesIn(string record, RecordType type)
    {
        using var json = JsonDocument.Parse(record);
        var changes = RecordJson.ReadChanges(json.RootElement, type, []);
        foreach (
            var left in changes.Header.Where(pair => pair.Key.IsChangeable && pair.Value.Value.IsEmpty).Select(pair => pair.Key).ToList()
        )
            changes.Header.Remove(left);
        foreach (var part in changes.Lines.Keys.ToList())
            changes.Lines[part] =
            [
                .. changes.Lines[part].Select((line, at) => line with { Key = FormattableString.Invariant($"sent-{at}") }),
            ];
        return changes;
    }

    private async Task<IReadOnlyList<Entry>> BeginAsync(
        RecordType type,
        IReadOnlyList<EntryRow> rows,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        var entries = rows.Select(row => Begin(type, row, viewer)).ToList();
        await using var connection = await source.OpenConnectionAsync(cancel);
        var targets = new Targets(connection, null, viewer, store.Clock);
        foreach (var begun in entries.Select(entry => entry.Begun))
        {
            await targets.CloseAsync(begun, cancel);
            RecordAccess.At(begun, viewer).Tried(begun, begun, null).Withhold(begun);
        }

        return entries;
    }

    // As if the one who accepts had typed it: what is refused is told when it is saved.
    private Entry Begin(RecordType type, EntryRow row, Viewer viewer)
    {
        var changes = ChangesIn(row.Record, type);
        var begun = Pipeline.Run(store.Fresh(type, viewer), changes, viewer, store.Today).State;
        foreach (var (field, origin) in begun.Origins.Where(pair => pair.Value.IsTyped).ToList())
            begun.Origins[field] = origin with { By = "somebody outside" };
        return new(
            row,
            begun,
            [
                .. changes
                    .Header.Where(pair => !pair.Value.Value.IsEmpty && viewer.LevelAt(pair.Key) >= AccessLevel.Read)
                    .Select(pair => pair.Key),
            ]
        );
    }

    private static void MustDecide(RecordType type, Viewer viewer)
    {
        if (viewer.Form is not null || !viewer.MayCreate(type))
            throw new AccessRefusedException($"You may not decide on entries of {type.Plural.ToLowerInvariant()}.");
    }
}
