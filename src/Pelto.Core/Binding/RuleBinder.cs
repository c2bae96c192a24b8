using Pelto.Core.Formulas;

namespace Pelto.Core.Binding;

/// <summary>Makes the rules of a field ready, once all fields are known, and says what is wrong with them.</summary>
internal sealed class RuleBinder(List<Problem> problems)
{
    private const int MaxFinds = 4;

    public void Bind(Field field)
    {
        var content = field.Content;
        if (!string.IsNullOrWhiteSpace(content.Offers))
            BindOffers(field);
        if (content.Finds is { Count: > 0 })
            BindFinds(field, content.Finds);
        if (content is { Minimum: null, Maximum: null, Pattern: null, RequiredWhen: null, ShownWhen: null, Check: null, Unique: false })
            return;
        var id = field.Definition?.Id ?? field.Id;
        var (minimum, maximum) = (Bound(field, id, "minimum", content.Minimum), Bound(field, id, "maximum", content.Maximum));
        if (FieldRules.IsBeyond(field.Kind, minimum, maximum, 1))
            Refuse(id, "maximum", "The maximum is less than the minimum: no value would be accepted.");
        var rules = new FieldRules
        {
            Minimum = minimum,
            Maximum = maximum,
            Pattern = Pattern(field, id),
            PatternMessage = content.PatternMessage,
            RequiredWhen = Condition(field, id, "requiredWhen", content.RequiredWhen),
            ShownWhen = Shown(field, id, content.ShownWhen),
            Check = Condition(field, id, "check", content.Check),
            CheckMessage = content.CheckMessage,
        };
        if (content.Unique && !field.Kind.IsCompared)
            Refuse(id, "unique", $"Values of the kind {field.Kind.Label.ToLowerInvariant()} cannot be told apart; it cannot be unique.");
        if (field.StartsWith(new DateOnly(2000, 1, 1)) is { IsEmpty: false } start)
        {
            if (content.Unique)
                Refuse(id, "defaultValue", "A default would be the same in every new record, and this field is unique.");
            if (FieldRules.IsBeyond(field.Kind, start, minimum, -1) || FieldRules.IsBeyond(field.Kind, start, maximum, 1))
                Refuse(id, "defaultValue", "Its own rules refuse this default: it is not between the minimum and the maximum.");
        }

        field.Rules = rules;
    }

    private void BindOffers(Field field)
    {
        var id = field.Definition?.Id ?? field.Id;
        if (!field.Kind.IsLink)
            Refuse(id, "offers", "Only links offer records.");
        if (field.Target is not { } target)
            return;
        var found = new List<FormulaProblem>();
        var condition = Formula.Bind(field.Content.Offers!, target.Header, found, field.Part);
        foreach (var problem in found)
            Refuse(id, "offers", $"At character {problem.At.From + 1}: {problem.Message}");
        if (condition is not null && condition.DataType != DataType.YesNo)
            Refuse(
                id,
                "offers",
                $"A condition gives yes or no, such as {target.Header.Fields[0].Code} = "
                    + $"record.{field.Part.RecordType.Header.Fields[0].Code}."
            );
        else if (condition?.Watches.Contains(field) == true)
            Refuse(id, "offers", "It cannot depend on what is chosen in this very field.");
        else if (condition is not null)
            field.Narrowing = new(condition, field.Content.OffersMessage);
    }

    private void BindFinds(Field field, IReadOnlyList<string> codes)
    {
        var id = field.Definition?.Id ?? field.Id;
        if (!field.Kind.IsLink)
            Refuse(id, "finds", "Only links find records.");
        if (field.Target is not { } target)
            return;
        if (codes.Count > MaxFinds)
            Refuse(id, "finds", $"At most {MaxFinds} fields stand beside number and name.");
        var found = new List<Field>();
        foreach (var code in codes)
        {
            if (target.Header.Find(code) is not { } column)
            {
                var nearest = Nearest.To(code, target.Header.Fields.Select(candidate => candidate.Code));
                Refuse(id, "finds", $"{target.Plural} have no field “{code}”.{(nearest is null ? "" : $" Did you mean {nearest}?")}");
            }
            else if (column == target.Identifier || column == target.Name)
                Refuse(id, "finds", $"{column.Label} stands there in any case.");
            else if (column is { IsStored: false } or { Kind.IsShort: false })
                Refuse(id, "finds", $"{column.Label} does not fit beside a number and a name.");
            else if (found.Contains(column))
                Refuse(id, "finds", $"{column.Label} stands there twice.");
            else
                found.Add(column);
        }

        field.Finds = found;
    }

    private Value Bound(Field field, string id, string property, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return Value.Empty;
        if (!field.Kind.IsOrdered || field.Kind.IsChoice)
        {
            Refuse(id, property, $"Values of the kind {field.Kind.Label.ToLowerInvariant()} have no minimum and no maximum.");
            return Value.Empty;
        }

        var parsed = field.Kind.Parse(text);
        if (parsed.Refusal is { } refusal)
            Refuse(id, property, refusal);
        return parsed.Refusal is null ? parsed.Value : Value.Empty;
    }

    private string? Pattern(Field field, string id)
    {
        if (string.IsNullOrEmpty(field.Content.Pattern))
            return null;
        if (field.Kind.DataType != DataType.Text || field.Kind.IsChoice)
            Refuse(id, "pattern", "Only texts can be held to a pattern.");
        else if (Patterns.Refuse(field.Content.Pattern) is { } refusal)
            Refuse(id, "pattern", refusal);
        else if (!field.Kind.KeepsPattern)
            return field.Content.Pattern;
        return null;
    }

    private Formula? Shown(Field field, string id, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return null;
        var condition = Condition(field, id, "shownWhen", text);
        if (condition?.Reads.Contains(field) == true)
            Refuse(id, "shownWhen", "Whether it is shown cannot depend on what it holds itself.");
        return condition;
    }

    private Formula? Condition(Field field, string id, string property, string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return null;
        var found = new List<FormulaProblem>();
        var formula = Formula.Bind(text, field.Part, found);
        foreach (var problem in found)
            Refuse(id, property, $"At character {problem.At.From + 1}: {problem.Message}");
        if (formula is not null && formula.DataType != DataType.YesNo)
            Refuse(id, property, "A condition gives yes or no, such as quantity > 10.");
        return formula?.DataType == DataType.YesNo ? formula : null;
    }

    private void Refuse(string id, string property, string sentence)
    {
        if (!problems.Exists(problem => problem.Element == id && problem.Property == property && problem.Sentence == sentence))
            problems.Add(new(id, property, sentence));
    }
}
