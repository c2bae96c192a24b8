using Pelto.Data.Expressions;

namespace Pelto.Data.Records;

/// <summary>A link that is being filled: which records it offers depends on the record and the line in which it stands.</summary>
/// <param name="Field">The link.</param>
/// <param name="Record">The record as it is being entered.</param>
/// <param name="Line">The line, for a link in lines.</param>
/// <param name="Narrowings">What each record that is offered keeps to.</param>
public sealed record Offer(Field Field, RecordState Record, LineState? Line, IReadOnlyList<Narrowing> Narrowings)
{
    /// <summary>What somebody is offered: what goes with the record, and outside, of that, what was released.</summary>
    public static Offer To(Viewer viewer, Field link, RecordState record, LineState? line) =>
        new(link, record, line, [.. new[] { link.Narrowing, viewer.Form?.ReleasedBy(link) }.OfType<Narrowing>()]);

    /// <summary>All that was released to people outside, whatever it goes with.</summary>
    public static Offer Released(Viewer viewer, Field link) =>
        new(link, new(link.Part.RecordType), null, [.. new[] { viewer.Form?.ReleasedBy(link) }.OfType<Narrowing>()]);

    /// <summary>
    /// True when this viewer may have it: where they may know what its condition reads; outside, only with what was released among its
    /// conditions.
    /// </summary>
    public bool IsFor(Viewer viewer) =>
        viewer.MayChoose(Field)
        && viewer.MayBeOffered(Field)
        && (viewer.Form?.ReleasedBy(Field) is not { } released || Narrowings.Contains(released));

    /// <summary>The first field that must be filled before anything is offered, or null.</summary>
    public Field? Missing =>
        Narrowings.Select(narrowing => narrowing.Missing(Record.Header, Line?.Values)).FirstOrDefault(missing => missing is not null);

    /// <summary>The fields of the record at hand that decide.</summary>
    public IEnumerable<Field> Watches => Narrowings.SelectMany(narrowing => narrowing.Watches).Distinct();
}

/// <summary>What a link offers, as SQL over its target's row <c>h</c> and what is added beside it, <c>a</c>.</summary>
internal sealed class OfferSql
{
    private readonly RecordType target;
    private readonly QueryRow row = new(named: "offered");

    /// <summary>Writes it.</summary>
    /// <param name="offer">The link, or null for one that offers everything.</param>
    /// <param name="target">What it points to.</param>
    /// <param name="parameter">Adds a parameter and gives its name.</param>
    public OfferSql(Offer? offer, RecordType target, Func<ColumnType, object?, string> parameter)
    {
        this.target = target;
        var names = new FormulaNames(row, parameter);
        Conditions =
            offer is null ? []
            : offer.Missing is not null ? ["false"]
            : [.. offer.Narrowings.SelectMany(narrowing => narrowing.Condition.ToConditions(names, offer.Record.FrameAt(offer.Line)))];
    }

    /// <summary>What holds for each record that is offered.</summary>
    public IReadOnlyList<string> Conditions { get; }

    /// <summary>True when they need the row of what is added.</summary>
    public bool NeedsAdded => row.NeedsAdded;

    /// <summary>The same behind WHERE conditions that are there already.</summary>
    public string And => string.Concat(Conditions.Select(condition => $" AND ({condition})"));

    /// <summary>What joins what the conditions read: the row of what is added, and live fields.</summary>
    public string Join => JoinWith(NeedsAdded);

    /// <summary>What calculates the live fields that the conditions read.</summary>
    public string Live => row.Joins;

    /// <summary>What joins all that the conditions read.</summary>
    /// <param name="added">True to join the row of what is added in any case.</param>
    public string JoinWith(bool added) =>
        (added || NeedsAdded ? $" LEFT JOIN {Sql.AddedTable(target.Header)} a ON a.id = h.id" : "") + Live;

    /// <summary>The ids, of those given, that the link offers.</summary>
    public static async Task<HashSet<long>> FittingAsync(
        NpgsqlConnection connection,
        NpgsqlTransaction? transaction,
        Offer offer,
        long[] ids,
        CancellationToken cancel
    )
    {
        var target = offer.Field.Target!;
        await using var command = new NpgsqlCommand { Connection = connection, Transaction = transaction };
        command.Parameters.Add(new() { Value = ids });
        var sql = new OfferSql(offer, target, command.Add);
        command.CommandText = $"SELECT h.id FROM {Sql.Base(target.Header)} h{sql.Join} WHERE h.id = ANY($1){sql.And}";
        var fitting = new HashSet<long>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            fitting.Add(reader.GetInt64(0));
        return fitting;
    }
}
