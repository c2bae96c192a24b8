using Pelto.Core.Queries;
using Pelto.Data.Queries;

namespace Pelto.Data.Records;

/// <summary>What queries offer to choose from while a record is entered.</summary>
public sealed class QueryOffers(QueryRunner queries)
{
    /// <summary>
    /// What a field's query offers to choose from, for a record as it stands in a form; and why there is nothing, where something went
    /// wrong.
    /// </summary>
    public async Task<(IReadOnlyList<Value> Offered, string? Failure)> OfAsync(
        Field field,
        RecordState state,
        LineState? line,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (field.Asking is not { When: QueryWhen.Offer } asking || viewer.LevelAt(field) < AccessLevel.Write)
            return ([], null);
        if (!asking.Arguments.All(viewer.MayKnow) || asking.Reads.Any(read => viewer.SureAt(read) < AccessLevel.Read))
            return ([], null);
        var arguments = asking.Arguments.Select(argument => argument.Evaluate(state.FrameAt(line))).ToList();
        if (arguments.Exists(argument => argument.IsEmpty || argument.IsError))
            return ([], null);
        var answer = await queries.AskAsync(asking.Query, arguments, cancel, QueryRunner.MaxOffered);
        var offered = answer.Rows.Select(row => asking.TakeRow(field, row)).Where(value => !value.IsEmpty && !value.IsError).Distinct();
        return ([.. offered], answer.Failure);
    }
}
