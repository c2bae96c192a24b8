namespace Pelto.Data.Records;

/// <summary>A document in a chain.</summary>
/// <param name="Type">Its type.</param>
/// <param name="Id">Its id.</param>
/// <param name="Number">What people call it.</param>
/// <param name="Status">How it stands.</param>
/// <param name="Depth">How many documents came before it.</param>
public sealed record ChainStep(RecordType Type, long Id, string Number, Value Status, int Depth)
{
    /// <summary>How it stands, in words.</summary>
    public string StatusInWords => Type.Document!.Status.Kind.Format(Status);
}

/// <summary>The documents that follow one another: from the first, through this one, to the last.</summary>
public sealed class Chains(NpgsqlDataSource source, TimeProvider clock)
{
    private const int Deepest = 8;
    private const int MaxOfOneType = 20;

    /// <summary>
    /// The chain that a document stands in, the first first; nothing for a record that stands alone, and nothing that the viewer may not
    /// see.
    /// </summary>
    public async Task<IReadOnlyList<ChainStep>> ReadAsync(RecordState state, Viewer viewer, CancellationToken cancel = default)
    {
        if (state.Type.Document is null || state.Id is not { } id)
            return [];
        var first = new ChainStep(state.Type, id, state.Title, state.Header[state.Type.Document.Status.Slot], 0);
        for (var i = 0; i < Deepest && await BeforeAsync(first, viewer, cancel) is { } before; i++)
            first = before;
        var chain = new List<ChainStep>();
        await AppendAsync(chain, first, viewer, cancel);
        return chain.Count > 1 ? chain : [];
    }

    private async Task<ChainStep?> BeforeAsync(ChainStep step, Viewer viewer, CancellationToken cancel)
    {
        foreach (var follow in step.Type.Follows.Where(follow => viewer.MayRead(follow.Source)))
        {
            var steps = await FindAsync(
                follow.Source,
                $"JOIN {Sql.Base(step.Type.Header)} n ON n.{Sql.Column(follow.Link)} = d.id WHERE n.id = $1",
                step.Id,
                0,
                viewer,
                cancel
            );
            if (steps is [var before])
                return before;
        }

        return null;
    }

    private async Task AppendAsync(List<ChainStep> chain, ChainStep step, Viewer viewer, CancellationToken cancel)
    {
        chain.Add(step);
        if (step.Depth >= Deepest)
            return;
        foreach (var follow in step.Type.Next.Where(follow => viewer.MayRead(follow.Next)))
        foreach (
            var next in await FindAsync(follow.Next, $"WHERE d.{Sql.Column(follow.Link)} = $1", step.Id, step.Depth + 1, viewer, cancel)
        )
            await AppendAsync(chain, next, viewer, cancel);
    }

    private async Task<List<ChainStep>> FindAsync(
        RecordType type,
        string where,
        long id,
        int depth,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        await using var command = source.CreateCommand();
        command.Parameters.Add(new() { Value = id });
        var status = type.Document!.Status;
        var said = viewer.ReadsWhereRead(status) ? $"d.{Sql.Column(status)}" : "NULL::text";
        command.CommandText = Invariant(
            $"SELECT d.id, d.{Sql.Column(type.Identifier)}, {said} FROM {Sql.Base(type.Header)} d {where}{RowAccess.And(type, viewer, "d.id", command.Add, Core.Formulas.Clock.From(clock))} ORDER BY d.id LIMIT {MaxOfOneType}"
        );
        var steps = new List<ChainStep>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            steps.Add(
                new(type, reader.GetInt64(0), reader.GetString(1), Value.From(reader.IsDBNull(2) ? null : reader.GetString(2)), depth)
            );
        return steps;
    }
}
