using Pelto.Core.Formulas;

namespace Pelto.Core.Rules;

/// <summary>
/// Which records a link offers: a condition over each candidate, whose fields stand under their codes, and the record at hand, as
/// <c>record.customer</c>.
/// </summary>
/// <param name="Condition">The condition.</param>
/// <param name="Message">What people read when a record does not fit; null for Pelto's own sentence.</param>
public sealed record Narrowing(Formula Condition, string? Message)
{
    /// <summary>The fields of the record at hand that decide.</summary>
    public IReadOnlyList<Field> Watches { get; } = [.. Condition.Watches.OrderBy(field => field.Part.IsLines).ThenBy(field => field.Slot)];

    /// <summary>
    /// The first field that must be filled before anything can be offered, or null. A condition that asks with ISBLANK has an answer for an
    /// empty one too.
    /// </summary>
    /// <param name="header">The values of the record's header.</param>
    /// <param name="line">Those of the line at hand; null where there is none.</param>
    public Field? Missing(Value[] header, Value[]? line) =>
        Watches.FirstOrDefault(field => !Condition.MayBeEmpty.Contains(field) && (field.Part.IsLines ? line! : header)[field.Slot].IsEmpty);

    /// <summary>The sentence for a record that does not fit.</summary>
    /// <param name="target">What people call that record.</param>
    public string Refuse(string target) =>
        !string.IsNullOrWhiteSpace(Message) ? Message
        : Watches.Count == 0 ? $"{target} is not among those that can be chosen here."
        : $"{target} does not go with {string.Join(" and ", Watches.Select(field => field.Label))} as filled in here. Choose another, or change that.";
}
