using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>Writes a record that was read in the same transaction.</summary>
internal delegate Task<RecordState> WriteRecord(RecordRows rows, RecordState state);

/// <summary>
/// What saving or deleting a document does to others, in the same transaction: the document before is followed up, and stock moves.
/// </summary>
/// <param name="transaction">The save's.</param>
/// <param name="write">Writes a document before.</param>
/// <param name="targets">
/// Says which of the documents before and behind the one who saves may read: others are not named, nor what is open of them.
/// </param>
internal sealed class Consequences(NpgsqlTransaction transaction, WriteRecord write, Targets targets)
{
    private readonly List<Message> messages = [];

    /// <summary>
    /// Carries them out. What comes back keeps the document from being saved; its lines are named by their place in
    /// <paramref name="after"/>.
    /// </summary>
    /// <param name="type">The type.</param>
    /// <param name="before">The record as it was; null for a new one.</param>
    /// <param name="after">The record as it is now; null for one that is gone.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<Message>> ApplyAsync(RecordType type, RecordState? before, RecordState? after, CancellationToken cancel)
    {
        if (
            type.Document is { } document
            && after is not null
            && before is not null
            && document.IsCancelled(StatusOf(after))
            && !document.IsCancelled(StatusOf(before))
        )
            await RefuseWithFollowersAsync(after, cancel);
        foreach (var follow in type.Follows)
        foreach (
            var source in new[] { before, after }
                .Select(state => state?.Header[follow.Link.Slot] ?? default)
                .Where(link => link.DataType == DataType.Link)
                .Select(link => link.Target)
                .Distinct()
                .Order()
                .ToList()
        )
            await FollowUpAsync(follow, source, before, after, cancel);
        if (after is not null)
            RefuseStrays(type, after);
        if (before is not null && after is not null)
            RefuseLess(before, after);
        if (messages.Count == 0 && type.StockMoves is { } moves)
            messages.AddRange(await new StockPosting(transaction, moves).PostAsync(before, after, targets.Viewer, cancel));
        return messages;
    }

    /// <summary>
    /// What would keep the document from being saved, were it right otherwise: so that all that is wrong is told at once. Nothing is
    /// written.
    /// </summary>
    /// <param name="before">The record as it is on file; null for a new one.</param>
    /// <param name="wanted">The record as it was sent.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<Message>> ForeseeAsync(RecordState? before, RecordState wanted, CancellationToken cancel)
    {
        foreach (var follow in wanted.Type.Follows)
        {
            if (
                wanted.Header[follow.Link.Slot] is not { DataType: DataType.Link } link
                || await RecordRows.LoadAsync(transaction, follow.Source, link.Target, Hold.Nothing, cancel) is not { } rows
            )
                continue;
            var source = rows.ToState(link.Target);
            var sums = await SumsAsync(follow, source, cancel);
            foreach (var (key, part) in Parts(follow, link.Target, before))
                sums[key] = sums.GetValueOrDefault(key) - part.Amount;
            foreach (var (key, part) in Parts(follow, link.Target, wanted))
                sums[key] = sums.GetValueOrDefault(key) + part.Amount;
            await RefuseTooMuchAsync(follow, source, Grown(follow, link.Target, before, wanted), sums, wanted, cancel);
        }

        RefuseStrays(wanted.Type, wanted);
        if (before is not null)
            RefuseLess(before, wanted);
        return messages;
    }

    private async Task RefuseTooMuchAsync(
        Follow follow,
        RecordState source,
        Dictionary<long, (decimal Amount, FieldAddress At)> grown,
        Dictionary<long, decimal> sums,
        RecordState? after,
        CancellationToken cancel
    )
    {
        var title = (await targets.ReadableAsync(follow.Source, [source.Id!.Value], cancel)).Contains(source.Id.Value)
            ? source.Title
            : null;
        if (
            grown.Count > 0
            && follow.Source.Document!.IsCancelled(StatusOf(source))
            && StatusOf(after!) is var status
            && !follow.Next.Document!.IsCancelled(status)
        )
            messages.Add(new(new(follow.Next.Header, null, follow.Link), $"{title ?? "The document before"} is cancelled."));
        messages.AddRange(
            grown
                .Where(pair => Followed(follow, source).All(row => row.Key != pair.Key))
                .Select(pair => new Message(
                    pair.Value.At with
                    {
                        Field = null,
                    },
                    $"This line follows no line of {title ?? "the document before"}."
                ))
        );
        foreach (var (key, values) in Followed(follow, source))
        {
            var (sum, upTo) = (sums.GetValueOrDefault(key), Follow.Amount(values[follow.UpTo.Slot]));
            if (grown.TryGetValue(key, out var mine) && sum > upTo)
                messages.Add(new(mine.At, TooMuch(title, upTo - sum + mine.Amount)));
        }
    }

    private static Value StatusOf(RecordState state) => state.Header[state.Type.Document!.Status.Slot];

    private async Task RefuseWithFollowersAsync(RecordState state, CancellationToken cancel)
    {
        foreach (var follow in state.Type.Next)
        {
            var document = follow.Next.Document!;
            var following = await transaction
                .Command(
                    $"SELECT id, {Name(follow.Next.Identifier)} FROM {Sql.Base(follow.Next.Header)} WHERE "
                        + $"{Name(follow.Link)} = $1 AND {Name(document.Status)} <> $2 ORDER BY id",
                    state.Id!.Value,
                    document.Description.Cancelled
                )
                .ListAsync(row => (Id: row.GetInt64(0), Number: row.IsDBNull(1) ? "" : row.GetString(1)), cancel);
            if (following.Count == 0)
                continue;
            var named = await targets.ReadableAsync(follow.Next, [.. following.Select(one => one.Id)], cancel);
            var number = following.FirstOrDefault(one => named.Contains(one.Id)).Number ?? "something that you may not see";
            messages.Add(
                new(
                    new(state.Type.Header, null, state.Type.Document!.Status),
                    $"{state.Title} cannot be cancelled: {number} follows it. Cancel that first."
                )
            );
        }
    }

    private async Task FollowUpAsync(Follow follow, long sourceId, RecordState? before, RecordState? after, CancellationToken cancel)
    {
        if (await RecordRows.LoadAsync(transaction, follow.Source, sourceId, Hold.ToSave, cancel) is not { } rows)
            return;
        var source = rows.ToState(sourceId);
        var wasDone = IsDone(follow, source);
        var grown = Grown(follow, sourceId, before, after);
        var document = follow.Source.Document!;
        var sums = await SumsAsync(follow, source, cancel);
        await RefuseTooMuchAsync(follow, source, grown, sums, after, cancel);
        foreach (var (key, values) in Followed(follow, source))
        {
            var sum = sums.GetValueOrDefault(key);
            values[follow.Sum.Slot] = sum == 0 ? Value.Empty : Value.From(sum);
        }

        if (messages.Count > 0)
            return;
        if (follow.Description.Closes && IsDone(follow, source) != wasDone)
        {
            if (!wasDone && document.IsOpen(StatusOf(source)))
                source.Header[document.Status.Slot] = Value.From(document.Description.Closed);
            else if (wasDone && document.IsClosed(StatusOf(source)))
                source.Header[document.Status.Slot] = Value.From(document.Description.Open);
        }

        // With what its formulas reach through links: what is stored of it would be emptied otherwise.
        var related = new RelatedRows(transaction.Connection!, transaction, Core.Formulas.Clock.Utc);
        related.ContextFor(source);
        await related.RunAsync(
            source.Type,
            () =>
            {
                Pipeline.Fill(source);
                return source;
            },
            cancel
        );
        await write(rows, source);
    }

    private static string TooMuch(string? title, decimal open) =>
        title is null ? "This is more than is open in the document before."
        : open <= 0 ? $"Nothing of this is open in {title} any longer."
        : $"Only {Numbers.Format(open / 1.0000000000000000000000000000m)} of this {(open == 1 ? "is" : "are")} still open in {title}.";

    // What is followed up of a document: its header under 0, or its lines under their ids. Nothing follows a line that is only sent yet.
    private static IEnumerable<(long Key, Value[] Values)> Followed(Follow follow, RecordState source) =>
        follow.Lines is { } lines
            ? source.LinesOf(lines.From).Where(line => line.Id is not null).Select(line => (line.Id!.Value, line.Values))
            : [(0, source.Header)];

    private static bool IsDone(Follow follow, RecordState source) =>
        Followed(follow, source).Any() && Followed(follow, source).All(row => follow.Open(row.Values) == 0);

    // Where this document takes more of the one before than it did.
    private static Dictionary<long, (decimal Amount, FieldAddress At)> Grown(
        Follow follow,
        long sourceId,
        RecordState? before,
        RecordState? after
    )
    {
        var (was, now) = (Parts(follow, sourceId, before), Parts(follow, sourceId, after));
        return now.Where(pair => pair.Value.Amount > (was.TryGetValue(pair.Key, out var old) ? old.Amount : 0)).ToDictionary();
    }

    // What this document takes of the one before, by the key of what it takes, and where it says so.
    private static Dictionary<long, (decimal Amount, FieldAddress At)> Parts(Follow follow, long sourceId, RecordState? state)
    {
        var parts = new Dictionary<long, (decimal Amount, FieldAddress At)>();
        if (
            state is null
            || state.Header[follow.Link.Slot] is not { DataType: DataType.Link } link
            || link.Target != sourceId
            || follow.Next.Document!.IsCancelled(StatusOf(state))
        )
            return parts;
        if (follow.Lines is not { } lines)
        {
            parts[0] = (Follow.Amount(state.Header[follow.Measure.Slot]), new(follow.Next.Header, null, follow.Measure));
            return parts;
        }

        foreach (var line in state.LinesOf(lines.To).Where(line => line.Values[lines.Reference.Slot].DataType == DataType.Number))
        {
            var key = (long)line.Values[lines.Reference.Slot].Number;
            parts[key] = (
                Follow.Amount(line.Values[follow.Measure.Slot]) + (parts.TryGetValue(key, out var more) ? more.Amount : 0),
                new(lines.To, line.Key, follow.Measure)
            );
        }

        return parts;
    }

    // What has followed already cannot be taken back by asking for less.
    private void RefuseLess(RecordState before, RecordState after)
    {
        foreach (var follow in after.Type.Next)
        {
            var was = Followed(follow, before).ToDictionary(row => row.Key, row => Follow.Amount(row.Values[follow.UpTo.Slot]));
            foreach (var (key, values) in Followed(follow, after))
            {
                var (sum, upTo) = (Follow.Amount(values[follow.Sum.Slot]), Follow.Amount(values[follow.UpTo.Slot]));
                if (sum > upTo && was.TryGetValue(key, out var earlier) && upTo < earlier)
                    messages.Add(
                        new(
                            new(
                                follow.UpTo.Part,
                                follow.Lines is null ? null : key.ToString(System.Globalization.CultureInfo.InvariantCulture),
                                follow.UpTo
                            ),
                            targets.Viewer.ReadsWhereRead(follow.Sum)
                                ? $"{follow.Sum.Label} is {Numbers.Format(sum / 1.0000000000000000000000000000m)} already; {follow.UpTo.Label} cannot be less."
                                : $"More has followed already; {follow.UpTo.Label} cannot be less."
                        )
                    );
            }
        }
    }

    // A line can only follow a line of the document that the header follows.
    private void RefuseStrays(RecordType type, RecordState after)
    {
        foreach (var follow in type.Follows)
        {
            if (follow.Lines is not { } lines || after.Header[follow.Link.Slot].DataType == DataType.Link)
                continue;
            foreach (var line in after.LinesOf(lines.To).Where(line => !line.Values[lines.Reference.Slot].IsEmpty))
                messages.Add(
                    new(
                        new(lines.To, line.Key, null),
                        $"A line follows a {lines.From.Label.ToLowerInvariant()}, "
                            + $"but the {follow.Link.Label.ToLowerInvariant()} is not filled in."
                    )
                );
        }
    }

    private async Task<Dictionary<long, decimal>> SumsAsync(Follow follow, RecordState source, CancellationToken cancel)
    {
        var document = follow.Next.Document!;
        var header = Sql.Base(follow.Next.Header);
        var sums = follow.Lines is { } lines
            ? transaction.Command(
                $"SELECT l.{Name(lines.Reference)}, sum(l.{Name(follow.Measure)}) FROM {Sql.Base(lines.To)} l JOIN {header} h "
                    + $"ON h.id = l.parent WHERE l.{Name(lines.Reference)} = ANY($1) AND h.{Name(document.Status)} <> $2 GROUP BY 1",
                Followed(follow, source).Select(row => row.Key).ToArray(),
                document.Description.Cancelled
            )
            : transaction.Command(
                $"SELECT 0::bigint, sum({Name(follow.Measure)}) "
                    + $"FROM {header} WHERE {Name(follow.Link)} = $1 AND {Name(document.Status)} <> $2 HAVING count(*) > 0",
                source.Id!.Value,
                document.Description.Cancelled
            );
        return (await sums.ListAsync(row => (Row: row.GetInt64(0), Sum: row.IsDBNull(1) ? 0 : row.GetDecimal(1)), cancel)).ToDictionary(
            one => one.Row,
            one => one.Sum
        );
    }

    private static string Name(Field field) => Sql.Column(field);
}
