using Pelto.Core.Formulas;

namespace Pelto.Core.Rules;

/// <summary>The rules of a field.</summary>
public static class RulesOfField
{
    extension(Field it)
    {
        /// <summary>The rules that values keep besides those of their kind.</summary>
        public FieldRules Rules
        {
            get => it.Bound<FieldRules>() ?? FieldRules.None;
            internal set => it.Bind(value);
        }

        /// <summary>For links: which records are offered; null for all.</summary>
        public Narrowing? Narrowing
        {
            get => it.Bound<Narrowing>();
            internal set => it.Bind(value);
        }
    }
}

/// <summary>The rules that an administrator gave a field, ready to be checked.</summary>
public sealed record FieldRules
{
    /// <summary>No rules.</summary>
    public static FieldRules None { get; } = new();

    /// <summary>The least that is taken; empty for none.</summary>
    public Value Minimum { get; init; }

    /// <summary>The greatest that is taken; empty for none.</summary>
    public Value Maximum { get; init; }

    /// <summary>A regular expression that the whole text must fit, or null.</summary>
    public string? Pattern { get; init; }

    /// <summary>What people read when it does not fit.</summary>
    public string? PatternMessage { get; init; }

    /// <summary>A condition under which a value is needed, or null.</summary>
    public Formula? RequiredWhen { get; init; }

    /// <summary>The condition under which the field is shown; null for always.</summary>
    public Formula? ShownWhen { get; init; }

    /// <summary>True when the field is shown in this frame.</summary>
    public bool IsShown(Frame frame) => ShownWhen is null || ShownWhen.Evaluate(frame) is { DataType: DataType.YesNo, Yes: true };

    /// <summary>A condition that must hold, or null.</summary>
    public Formula? Check { get; init; }

    /// <summary>What people read when it does not hold.</summary>
    public string? CheckMessage { get; init; }

    /// <summary>All that these rules have against a value that is not empty and that fits its kind.</summary>
    /// <param name="field">The field.</param>
    /// <param name="value">The value.</param>
    /// <param name="frame">What conditions read.</param>
    /// <param name="isAsked">Says whether a condition is asked of the person whose value it is.</param>
    public IEnumerable<string> Refusals(Field field, Value value, Frame frame, Func<Formula, bool> isAsked)
    {
        if (IsBeyond(field.Kind, value, Minimum, -1))
            yield return $"{field.Label} is at least {field.Kind.Format(Minimum)}.";
        if (IsBeyond(field.Kind, value, Maximum, 1))
            yield return $"{field.Label} is at most {field.Kind.Format(Maximum)}.";
        if (Pattern is { } pattern && value.DataType == DataType.Text && !Patterns.Fits(value.Text, pattern))
            yield return string.IsNullOrWhiteSpace(PatternMessage)
                ? $"{field.Label} does not have the required form: {Patterns.InWords(pattern) ?? pattern}."
                : PatternMessage;
        if (
            Check is { } check
            && isAsked(check)
            && check.Evaluate(frame) is { } answer
            && (answer.IsError || (answer.DataType == DataType.YesNo && !answer.Yes))
        )
            yield return answer.IsError ? $"{field.Label} cannot be checked: {answer.Reason}"
            : string.IsNullOrWhiteSpace(CheckMessage) ? $"{field.Label} is not valid. This must hold: {check.Sentence}"
            : CheckMessage;
    }

    /// <summary>True when a value is beyond a bound; amounts of different currencies have no order, so nothing is beyond then.</summary>
    public static bool IsBeyond(FieldKind kind, Value value, Value bound, int direction)
    {
        if (bound.IsEmpty || value.IsEmpty || value.DataType != bound.DataType)
            return false;
        if (value.DataType == DataType.Money && value.Unit != bound.Unit)
            return false;
        return kind.OrderKey(value) is IComparable one
            && kind.OrderKey(bound) is { } other
            && Math.Sign(
                one is string text ? string.Compare(text, (string)other, StringComparison.OrdinalIgnoreCase) : one.CompareTo(other)
            ) == direction;
    }
}
