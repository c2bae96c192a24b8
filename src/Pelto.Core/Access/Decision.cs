using Pelto.Core.Formulas;

namespace Pelto.Core.Access;

/// <summary>Whether somebody may do something: for sure, never, or as the conditions of grants decide at each record.</summary>
public abstract class Decision
{
    /// <summary>At every record.</summary>
    public static Decision Sure { get; } = new Fixed(true);

    /// <summary>At no record.</summary>
    public static Decision Never { get; } = new Fixed(false);

    /// <summary>Where a condition holds; one that gives no answer does not.</summary>
    public static Decision Where(Formula condition) => new Conditional(condition, true);

    /// <summary>Where a condition does not hold; one that gives no answer keeps it away.</summary>
    public static Decision Unless(Formula condition) => new Conditional(condition, false);

    /// <summary>True when it is so at every record.</summary>
    public bool IsSure => this is Fixed { Holding: true };

    /// <summary>True when it may be so at some record.</summary>
    public bool IsPossible => this is not Fixed { Holding: false };

    /// <summary>True when the record decides.</summary>
    public bool IsConditional => this is not Fixed;

    /// <summary>Decides for a record, or one of its lines.</summary>
    /// <param name="frame">What conditions read of the record, and of who looks.</param>
    public abstract bool Holds(Frame frame);

    /// <summary>The same for two decisions that ask the same of the same fields.</summary>
    public abstract string Key { get; }

    /// <summary>The same as a condition in SQL that is never NULL.</summary>
    /// <param name="names">How fields, values and who looks are named there.</param>
    public abstract string ToSql(SqlNames names);

    /// <summary>Both must hold.</summary>
    public Decision And(Decision other) =>
        !IsPossible || other.IsSure || Key == other.Key ? this
        : !other.IsPossible || IsSure ? other
        : new Joined(this, other, IsAll: true);

    /// <summary>One of both must hold.</summary>
    public Decision Or(Decision other) =>
        IsSure || !other.IsPossible || Key == other.Key ? this
        : other.IsSure || !IsPossible ? other
        : new Joined(this, other, IsAll: false);

    private sealed class Fixed(bool holds) : Decision
    {
        public bool Holding => holds;

        public override string Key => holds ? "1" : "0";

        public override bool Holds(Frame frame) => holds;

        public override string ToSql(SqlNames names) => holds ? "true" : "false";
    }

    private sealed class Conditional(Formula condition, bool wanted) : Decision
    {
        // The same text can mean a field of the header here and one of the lines there.
        public override string Key { get; } =
            $"{(wanted ? "" : "NOT ")}({condition.Text} of "
            + $"{string.Join(' ', condition.Reads.Select(read => read.Id).Order(StringComparer.Ordinal))})";

        public override bool Holds(Frame frame) => condition.Evaluate(frame) is { DataType: DataType.YesNo } answer && answer.Yes == wanted;

        public override string ToSql(SqlNames names) =>
            $"coalesce({(wanted ? "" : "NOT ")}({condition.ToSql(names).Unfailing.Text}), false)";
    }

    private sealed class Joined(Decision one, Decision other, bool IsAll) : Decision
    {
        public override string Key { get; } = $"({one.Key} {(IsAll ? "AND" : "OR")} {other.Key})";

        public override bool Holds(Frame frame) => IsAll ? one.Holds(frame) && other.Holds(frame) : one.Holds(frame) || other.Holds(frame);

        public override string ToSql(SqlNames names) => $"({one.ToSql(names)} {(IsAll ? "AND" : "OR")} {other.ToSql(names)})";
    }
}
