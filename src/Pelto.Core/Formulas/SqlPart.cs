using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Formulas;

/// <summary>A part of a formula as SQL: what it gives, NULL for empty, and when it gives no value but an error.</summary>
/// <param name="Text">The value.</param>
/// <param name="Fails">A condition, never NULL, under which it is an error; null when it cannot be.</param>
public readonly record struct SqlPart(string Text, string? Fails = null)
{
    /// <summary>Yes or no, where empty counts as no.</summary>
    public string Holds => $"coalesce({Text}, false)";

    /// <summary>A condition under which any of these fails; null when none can.</summary>
    public static string? Any(params IEnumerable<string?> fails) => fails.OfType<string>().ToList() is { Count: > 0 } some ? $"({string.Join(" OR ", some)})" : null;
}

/// <summary>How fields and values are named in SQL.</summary>
public abstract class SqlNames
{
    /// <summary>The column of a field of the record that the formula is about.</summary>
    public abstract string Column(Field field);

    /// <summary>A field of the record with this id, as a subquery.</summary>
    public abstract string Through(string id, Field field);

    /// <summary>A field over the lines of the record that the formula is about, as a subquery with this aggregate.</summary>
    public abstract string Over(Field field, string aggregate);

    /// <summary>A value, as a parameter.</summary>
    public abstract string Of(Value value, ColumnType type);
}
