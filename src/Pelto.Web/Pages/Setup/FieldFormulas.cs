using Pelto.Core.Formulas;

namespace Pelto.Web.Pages;

/// <summary>A condition on the record that is shown.</summary>
/// <param name="Name">What it decides.</param>
/// <param name="Sentence">What it says, in words.</param>
/// <param name="Result">What it gives there; null where there is no line to try it on.</param>
/// <param name="Steps">Its parts with their values there.</param>
/// <param name="Count">On how many records it holds, of how many; null when the database cannot tell yet.</param>
public sealed record ConditionProof(
    string Name,
    string Sentence,
    Value? Result,
    IReadOnlyList<FormulaStep> Steps,
    (long Holds, long Looked)? Count
);

/// <summary>What a field's formula does.</summary>
/// <param name="Steps">Its parts at work on the record that is shown.</param>
/// <param name="OnAll">What it does to the records on file; null where the database cannot tell yet.</param>
public sealed record FormulaAtWork(IReadOnlyList<FormulaStep> Steps, FormulaProof? OnAll);

/// <summary>Shows what the formula and the conditions of a sound definition do: step by step on one record, by count on all.</summary>
public sealed class FieldFormulas(CurrentRequest request, FormulaProofs proofs)
{
    private const int LongestText = 60;
    private const int Decimals = 6;

    /// <summary>The formula of a field; null for one that has none.</summary>
    /// <param name="field">The field as it would be.</param>
    /// <param name="shown">The record that is shown, whole.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<FormulaAtWork?> OfAsync(Field field, RecordState shown, CancellationToken cancel)
    {
        if (field.Formula is not { } formula)
            return null;
        var line = FirstLine(field, shown);
        var steps = field.Part.IsLines && line is null ? [] : formula.Steps(shown.FrameAt(line)).ToList();
        var live = request.Catalogue.FindField(field.Id);
        var comparable = live?.Kind.DataType == field.Kind.DataType ? live : null;
        return new(steps, await proofs.OfAsync(field, comparable, request.Viewer, cancel));
    }

    /// <summary>Each condition of a field.</summary>
    /// <param name="field">The field as it would be.</param>
    /// <param name="shown">The record that is shown, whole.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<IReadOnlyList<ConditionProof>> ConditionsAsync(Field field, RecordState shown, CancellationToken cancel)
    {
        var line = FirstLine(field, shown);
        var proved = new List<ConditionProof>();
        var rules = field.Rules;
        foreach (
            var (name, condition) in new[]
            {
                ("Required where", rules.RequiredWhen),
                ("Shown where", rules.ShownWhen),
                ("Check", rules.Check),
            }
        )
        {
            if (condition is null)
                continue;
            var hasNone = (field.Part.IsLines && line is null) || !request.Viewer.MayBeTold(field, condition);
            var frame = hasNone ? null : shown.FrameAt(line);
            var count = await proofs.CountAsync(condition, field.Part, request.Viewer, cancel);
            proved.Add(
                new(
                    name,
                    condition.Sentence,
                    frame is null ? null : condition.Evaluate(frame),
                    frame is null ? [] : [.. condition.Steps(frame)],
                    count
                )
            );
        }

        return proved;
    }

    /// <summary>A value of any type, as people read it.</summary>
    public static string Written(Value value, Locale locale) =>
        value.DataType switch
        {
            _ when value.IsEmpty => "empty",
            _ when value.IsError => value.Reason,
            DataType.Number => Numbers.Format(Numbers.Shortest(Numbers.Round(value.Number, Decimals)), locale: locale),
            DataType.Date => Times.Format(value.Date, locale),
            DataType.Time => Times.Format(value.Time, locale),
            DataType.Link => "a record",
            DataType.Text => value.Text.Length > LongestText ? value.Text[..LongestText] + "…" : value.Text,
            _ => value.ToString(),
        };

    private static LineState? FirstLine(Field field, RecordState shown) =>
        field.Part.IsLines ? shown.LinesOf(field.Part).FirstOrDefault() : null;
}
