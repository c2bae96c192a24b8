namespace Pelto.Core.Values;

/// <summary>
/// The few column types that values are kept in. Size and range live in CHECKs, which can be swapped while people work; a type cannot.
/// </summary>
public enum ColumnType
{
    /// <summary><c>text</c>.</summary>
    Text,

    /// <summary><c>bigint</c>.</summary>
    Integer,

    /// <summary><c>numeric</c> without precision.</summary>
    Numeric,

    /// <summary><c>date</c>.</summary>
    Date,

    /// <summary><c>boolean</c>.</summary>
    Boolean,

    /// <summary><c>time</c>.</summary>
    Time,

    /// <summary><c>timestamptz</c>.</summary>
    Moment,

    /// <summary><c>text[]</c>.</summary>
    TextArray,

    /// <summary><c>bigint[]</c>.</summary>
    IntegerArray,

    /// <summary><c>uuid</c>.</summary>
    Uuid,
}

/// <summary>One of the columns that a kind keeps its values in. Most have one; money has an amount and a currency.</summary>
/// <param name="Suffix">Added to the field's column name; empty for the first.</param>
/// <param name="Type">Its type.</param>
public sealed record KindColumn(string Suffix, ColumnType Type);

/// <summary>Names a column of a field in SQL, quoted, by its suffix.</summary>
public delegate string ColumnNames(string suffix);

/// <summary>A rule that the database keeps for a column.</summary>
/// <param name="Name">What the rule is about, such as <c>length</c>; part of the constraint's name.</param>
/// <param name="Sql">The condition, over quoted columns.</param>
public sealed record ColumnCheck(string Name, string Sql);
