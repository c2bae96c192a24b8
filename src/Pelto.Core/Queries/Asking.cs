using Pelto.Core.Formulas;

namespace Pelto.Core.Queries;

/// <summary>The query of a field.</summary>
public static class AskingOfField
{
    extension(Field it)
    {
        /// <summary>The query that fills it, with what it is asked; null where none does.</summary>
        public Asking? Asking
        {
            get => it.Bound<Asking>();
            internal set => it.Bind(value);
        }
    }
}

/// <summary>A field's query, bound: what it is asked with and what the field takes of the answer.</summary>
/// <param name="query">The query.</param>
/// <param name="arguments">What its parameters are, in their order in the definition.</param>
/// <param name="columns">The places of the columns that the field takes, in the order of its kind's.</param>
/// <param name="reads">All fields that the query reads.</param>
/// <param name="when">When it is asked.</param>
public sealed class Asking(
    QueryDefinition query,
    IReadOnlyList<Formula> arguments,
    IReadOnlyList<int> columns,
    IReadOnlyList<Field> reads,
    QueryWhen when
)
{
    /// <summary>The query.</summary>
    public QueryDefinition Query => query;

    /// <summary>What its parameters are, in their order in the definition.</summary>
    public IReadOnlyList<Formula> Arguments => arguments;

    /// <summary>All fields that the query itself reads.</summary>
    public IReadOnlyList<Field> Reads => reads;

    /// <summary>When it is asked.</summary>
    public QueryWhen When => when;

    /// <summary>What a field becomes by an answer; null where it stays as it is; an error with its reason where the form says so.</summary>
    public Value? Take(Field field, QueryAnswer answer)
    {
        if (answer.Failure is { } failure)
            return Value.Failed(failure);
        if (answer.Rows.Count == 0)
            return query.None switch
            {
                NoRow.Empty => Value.Empty,
                NoRow.Keep => null,
                _ => Value.NotAvailable($"{query.Label} found nothing."),
            };
        if (answer.Rows.Count > 1 && query.Many != ManyRows.First)
            return query.Many == ManyRows.Empty ? Value.Empty : Value.Failed($"{query.Label} found several rows where one is expected.");
        return TakeRow(field, answer.Rows[0]);
    }

    /// <summary>What a field takes of one row.</summary>
    public Value TakeRow(Field field, object?[] row)
    {
        var stored = new object?[columns.Count];
        for (var at = 0; at < stored.Length; at++)
            stored[at] = Turned(row[columns[at]], field.Columns[at].Type);
        var value = field.Kind.Fit(field.Kind.FromColumns(stored));
        return !value.IsEmpty && !value.IsError && field.Kind.Refuse(value) is { } refusal ? Value.Failed(refusal) : value;
    }

    private static object? Turned(object? given, ColumnType type) =>
        (given, type) switch
        {
            (null or DBNull, _) => null,
            (decimal number, ColumnType.Integer) => (long)decimal.Round(number),
            (long number, ColumnType.Numeric) => (decimal)number,
            _ => given,
        };
}
