using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.SigningIn;

/// <summary>
/// Who is signed in, in which browser. Looked up with each request, so that ending a session, or taking a role, counts at once on every
/// node.
/// </summary>
public sealed class Sessions(IDbContextFactory<PeltoContext> contexts, NpgsqlDataSource source, AuditTrail audit, TimeProvider clock)
{
    /// <summary>How long a session lasts in which nothing is done (NIST SP 800-63B-4, level 2: at most an hour).</summary>
    public static TimeSpan Idle { get; set; } = TimeSpan.FromMinutes(60);

    /// <summary>How long a session lasts at most (the same: at most a day).</summary>
    public static TimeSpan Longest { get; set; } = TimeSpan.FromHours(12);

    /// <summary>How long it counts that somebody showed who they are, for what asks for that.</summary>
    public static TimeSpan Confirmed { get; set; } = TimeSpan.FromMinutes(15);

    private static readonly TimeSpan Mark = TimeSpan.FromMinutes(1);

    /// <summary>Begins a session, and clears away those of this person that have ended by themselves.</summary>
    public async Task<Guid> BeginAsync(Viewer person, string agent, string how, CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var (idle, began) = (now - Idle, now - Longest);
        await context
            .Sessions.Where(row => row.PersonId == person.Id && (row.SeenAt < idle || row.BeganAt < began))
            .ExecuteDeleteAsync(cancel);
        var session = new SessionRow
        {
            Id = Guid.NewGuid(),
            PersonId = person.Id,
            BeganAt = now,
            SeenAt = now,
            ConfirmedAt = now,
            Address = person.From,
            Agent = agent.Length > 200 ? agent[..200] : agent,
        };
        context.Sessions.Add(session);
        await audit.CommitAsync(context, person, new(AuditKinds.SignIn, person.Id.ToString(), $"Signed in {how}"), cancel);
        return session.Id;
    }

    /// <summary>
    /// The person whose session this is, when they last showed who they are, and whether a second factor is demanded that they have not;
    /// null when it has ended.
    /// </summary>
    /// <param name="id">Its id.</param>
    /// <param name="isUse">True when somebody does something, rather than that a page listens.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<(Viewer Viewer, DateTimeOffset ConfirmedAt, bool LacksFactor)?> FindAsync(
        Guid id,
        bool isUse,
        CancellationToken cancel = default
    )
    {
        var now = clock.GetUtcNow();
        await using var command = source.CreateCommand(
            $"""
            SELECT {ViewerRows.Columns}, s.seen_at, s.confirmed_at, p.totp_key IS NULL,
                coalesce((SELECT value FROM pelto.setting WHERE name = $4), $5),
                EXISTS (SELECT FROM pelto.setting WHERE name = $6 AND value = 'yes')
            FROM pelto.session s JOIN pelto.person p ON p.id = s.person_id {ViewerRows.Joined}
            WHERE s.id = $1 AND NOT p.disabled AND s.seen_at > $2 AND s.began_at > $3
            """
        );
        foreach (
            var value in new object[]
            {
                id,
                now - Idle,
                now - Longest,
                FactorDemand.Setting,
                FactorDemand.Administrators,
                DemoSetting.Setting,
            }
        )
            command.Parameters.Add(new() { Value = value });
        DateTimeOffset seen,
            confirmed;
        Viewer viewer;
        bool missing;
        await using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            if (!await reader.ReadAsync(cancel))
                return null;
            (viewer, seen, confirmed) = (
                ViewerRows.Read(reader),
                reader.GetFieldValue<DateTimeOffset>(ViewerRows.Count),
                reader.GetFieldValue<DateTimeOffset>(ViewerRows.Count + 1)
            );
            var isDemo = reader.GetBoolean(ViewerRows.Count + 4);
            missing =
                !isDemo && reader.GetBoolean(ViewerRows.Count + 2) && FactorDemand.IsOf(viewer, reader.GetString(ViewerRows.Count + 3));
            viewer = viewer with { MustConfirm = !isDemo && !IsConfirmed(confirmed) };
        }

        if (isUse && now - seen > Mark)
        {
            await using var context = await contexts.CreateDbContextAsync(cancel);
            await context.Sessions.Where(row => row.Id == id).ExecuteUpdateAsync(set => set.SetProperty(row => row.SeenAt, now), cancel);
        }

        return (viewer, confirmed, missing);
    }

    /// <summary>Puts down that somebody showed again who they are.</summary>
    public async Task ConfirmAsync(Guid id, CancellationToken cancel = default)
    {
        var now = clock.GetUtcNow();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await context.Sessions.Where(row => row.Id == id).ExecuteUpdateAsync(set => set.SetProperty(row => row.ConfirmedAt, now), cancel);
    }

    /// <summary>True when somebody showed lately enough who they are.</summary>
    public bool IsConfirmed(DateTimeOffset at) => clock.GetUtcNow() - at < Confirmed;

    /// <summary>The sessions of a person that have not ended, the one used last first.</summary>
    public async Task<IReadOnlyList<SessionRow>> OfAsync(Guid person, CancellationToken cancel = default)
    {
        var (idle, began) = (clock.GetUtcNow() - Idle, clock.GetUtcNow() - Longest);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
            .Sessions.AsNoTracking()
            .Where(row => row.PersonId == person && row.SeenAt > idle && row.BeganAt > began)
            .OrderByDescending(row => row.SeenAt)
            .ToListAsync(cancel);
    }

    /// <summary>Ends sessions of a person, and gives how many.</summary>
    /// <param name="person">Whose.</param>
    /// <param name="which">Which one; null for all.</param>
    /// <param name="except">One that goes on all the same.</param>
    /// <param name="by">Who ends them.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<int> EndAsync(Viewer person, Guid? which, Guid? except, Viewer by, CancellationToken cancel = default)
    {
        // To sign out, or to end one session of one's own, asks nothing.
        if (which is null || by.Id != person.Id)
            Allowing.MustBeSure(by);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);

        // All others: programs are signed in as well, and browsers that count as known.
        var tokens = which is null ? await context.Tokens.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel) : 0;
        if (which is null)
            await context
                .Users.Where(row => row.Id == person.Id)
                .ExecuteUpdateAsync(set => set.SetProperty(row => row.SecurityStamp, Guid.NewGuid().ToString()), cancel);
        var ended = await context
            .Sessions.Where(row => row.PersonId == person.Id && (which == null || row.Id == which) && (except == null || row.Id != except))
            .ExecuteDeleteAsync(cancel);
        if (ended + tokens > 0)
            await audit.WriteAsync(
                context,
                by,
                [
                    new(
                        AuditKinds.SignIn,
                        person.Id.ToString(),
                        by.Id == person.Id && which is not null
                            ? "Signed out"
                            : $"Ended {ended} {(ended == 1 ? "session" : "sessions")}{(tokens == 0 ? "" : $" and {tokens} {(tokens == 1 ? "token" : "tokens")}")} of {person.Name}"
                    ),
                ],
                cancel
            );
        await transaction.CommitAsync(cancel);
        return ended;
    }
}
