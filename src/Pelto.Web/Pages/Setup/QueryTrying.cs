using Pelto.Core.Formulas;
using Pelto.Core.Queries;
using Pelto.Data.Queries;

namespace Pelto.Web.Pages;

/// <summary>What became of a query that was tried.</summary>
/// <param name="On">The record that its parameters were taken from; null for none.</param>
/// <param name="Parameters">What they were, by name.</param>
/// <param name="Trial">What it gave; null when a parameter is wrong.</param>
public sealed record QueryTried(string? On, IReadOnlyList<(string Name, string Text, bool IsWrong)> Parameters, QueryTrial? Trial);

/// <summary>Tries a query on a real record, with the parameters that its page says.</summary>
public sealed class QueryTrying(QueryRunner runner, FormulaTrials trials, RecordLists lists)
{
    /// <summary>Asks it once, for somebody who may read all that it reads.</summary>
    /// <param name="query">The query.</param>
    /// <param name="part">The part from whose records the parameters are taken; null for none.</param>
    /// <param name="input">Which record, and the formulas of the parameters.</param>
    /// <param name="viewer">Who tries it.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<QueryTried> TryAsync(QueryDefinition query, Part? part, QueryInput input, Viewer viewer, CancellationToken cancel)
    {
        var record = part is null ? null : await RecordAsync(part.RecordType, input.Record.Trim(), viewer, cancel);
        var (asked, arguments) = (new List<(string Name, string Text, bool IsWrong)>(), new List<Value>());
        foreach (var parameter in query.Parameters)
        {
            var (value, wrong) = await ArgumentAsync(parameter, input.With.GetValueOrDefault(parameter.Name), part, record, viewer, cancel);
            arguments.Add(value);
            asked.Add((parameter.Name, wrong ?? (value.IsEmpty ? "empty" : value.ToString()), wrong is not null));
        }

        return new(
            record?.Title,
            asked,
            asked.TrueForAll(static one => !one.IsWrong) ? await runner.TryAsync(query, arguments, cancel) : null
        );
    }

    // The one of a number, or else the newest.
    private async Task<RecordState?> RecordAsync(RecordType type, string number, Viewer viewer, CancellationToken cancel)
    {
        long? id = number.Length > 0 ? await lists.FindAsync(type, number, viewer, cancel) : null;
        if (number.Length == 0)
        {
            RecordLists.TryOrder(type, null, viewer, out var order);
            id = (await lists.ReadAsync(new(type, order, 1) { Shown = [] }, viewer, cancel)).Rows.FirstOrDefault()?.Id;
        }

        return id is { } known ? await trials.RecordAsync(type, known, new(), viewer, cancel) : null;
    }

    private async Task<(Value Value, string? Wrong)> ArgumentAsync(
        QueryParameter parameter,
        string? formulaOf,
        Part? part,
        RecordState? record,
        Viewer viewer,
        CancellationToken cancel
    )
    {
        if (
            (
                formulaOf is { Length: > 0 }
                    ? formulaOf
                    : QueryBinder.ArgumentFromRecord(parameter)
                        ?? (part?.Find(parameter.Name) ?? part?.RecordType.Header.Find(parameter.Name))?.Code
            )
            is not { } text
        )
            return (Value.Empty, null);
        var wanted = QueryBinder.ParameterKinds.First(kind => kind.Kind == parameter.Kind).Form;
        Value value;
        if (part is null || record is null)
        {
            var problems = new List<FormulaProblem>();
            if (part is not null)
                return (Value.Empty, "There is no such record.");
            if (Formula.Bind(text, null, problems) is not { } formula)
                return (Value.Empty, problems[0].Message);
            value = formula.Evaluate(new([], null, []));
        }
        else
        {
            var trial = await trials.WithRelatedAsync(
                record,
                text,
                part,
                part.IsLines ? record.LinesOf(part).FirstOrDefault() : null,
                viewer,
                cancel
            );
            if ((trial.Refusal ?? trial.Problems.FirstOrDefault()?.Message) is { } refusal)
                return (Value.Empty, refusal);
            value = trial.Value;
        }

        if (value.IsError)
            return (Value.Empty, value.Reason);
        if (wanted == DataType.Link && value.DataType == DataType.Number)
            value = Value.LinkTo((long)value.Number);
        return value.IsEmpty || value.DataType == wanted
            ? (value, null)
            : (
                Value.Empty,
                $"This gives {value.DataType}, and {QueryBinder.ParameterKinds.First(kind => kind.Kind == parameter.Kind).Label.ToLowerInvariant()} is expected."
            );
    }
}
