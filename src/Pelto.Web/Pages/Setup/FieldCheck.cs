using Pelto.Core.Formulas;

namespace Pelto.Web.Pages;

/// <summary>A field of the draft, or one that may come into it.</summary>
/// <param name="Id">Its lasting id.</param>
/// <param name="Draft">The draft.</param>
/// <param name="Catalogue">The draft, put together.</param>
/// <param name="Live">The field as it is live; null for one that nobody has yet.</param>
public sealed record FieldSubject(string Id, Draft Draft, Catalogue Catalogue, FieldDefinition? Live)
{
    /// <summary>The field as the draft has it.</summary>
    public FieldDefinition Known => Draft.Site.Find(Id) ?? new() { Id = Id };
}

/// <summary>A definition as it stands in the inputs, put into the draft to see what is wrong with it.</summary>
/// <param name="Subject">The field.</param>
/// <param name="Catalogue">The draft with it; one without a label has got one, so that it can be shown.</param>
/// <param name="Problems">What is wrong, by property.</param>
/// <param name="FormulaProblem">The first thing that is wrong in the formula, at its place in the input.</param>
/// <param name="FormulaSentence">What the formula does, in words; null while it makes no sense.</param>
public sealed record CheckedField(
    FieldSubject Subject,
    Catalogue Catalogue,
    IReadOnlyList<Problem> Problems,
    FormulaProblem? FormulaProblem,
    string? FormulaSentence
)
{
    /// <summary>The field as it would be; null where it cannot be.</summary>
    public Field? Field => Catalogue.FindField(Subject.Id);

    /// <summary>What is wrong and not only not filled in yet, which before somebody asks is no mistake.</summary>
    public IEnumerable<Problem> Mistakes(FieldInput input) => Problems.Where(problem => !IsOnlyMissing(problem.Property, input));

    private static bool IsOnlyMissing(string property, FieldInput input) =>
        property switch
        {
            "label" or "code" => string.IsNullOrWhiteSpace(input.Label),
            "choices" => input.Choices.Length == 0,
            "pattern" => input.Pattern.Length == 0,
            "target" => input.Target.Length == 0,
            "path" => input.Path.Length == 0,
            "formula" => input.Formula.Length == 0,
            _ => false,
        };
}

/// <summary>Checks what stands in the inputs of a field, without looking at any record.</summary>
public sealed class FieldCheck(CurrentRequest request, Drafts drafts, Catalogues catalogues)
{
    /// <summary>A field of the draft, or one that may come into it.</summary>
    public async Task<FieldSubject> ReadAsync(string id, CancellationToken cancel)
    {
        var draft = await drafts.ReadAsync(cancel);
        return new(id, draft, catalogues.Build(draft.Site), request.Catalogue.Site.Find(id));
    }

    /// <summary>Puts the definition into the draft, and keeps nothing.</summary>
    /// <param name="subject">The field.</param>
    /// <param name="input">What stands in the inputs.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<CheckedField> CheckAsync(FieldSubject subject, FieldInput input, CancellationToken cancel)
    {
        var problems = new List<Problem>();
        var choices = new FieldChoices(input, subject.Id, subject.Catalogue, request.Views);
        var definition = input.ToField(subject.Known, choices.TakenCodes, problems);
        if (subject.Live is { } live)
            definition = definition with { Code = live.Code, RecordType = live.RecordType, Part = live.Part };
        var catalogue = catalogues.Build(await drafts.WithColumnsAsync(With(subject, input, definition), cancel));
        problems.AddRange(catalogue.Problems.Where(problem => problem.Element == subject.Id));
        var (problem, sentence) = ReadFormula(catalogue, definition, input);
        if (definition.Label.Length == 0)
            catalogue = catalogues.Build(With(subject, input, definition with { Label = "New field", Code = "new_field" }));
        return new(subject, catalogue, problems, problem, sentence);
    }

    private static SiteDefinition With(FieldSubject subject, FieldInput input, FieldDefinition definition) =>
        subject.Draft.Site.With(definition).Placing(subject.Id, input.ToPlacement(subject.Id));

    private static (FormulaProblem? Problem, string? Sentence) ReadFormula(
        Catalogue catalogue,
        FieldDefinition definition,
        FieldInput input
    )
    {
        if (definition.Formula is not { } text || catalogue.Find(definition.RecordType)?.FindPart(definition.Part) is not { } part)
            return (null, null);
        var found = new List<FormulaProblem>();
        var sentence = Formula.Bind(text, part, found)?.Sentence;

        // Inputs keep the spaces before it, which the definition does not.
        var before = input.Formula.Length - input.Formula.TrimStart().Length;
        return (found.Count == 0 ? null : found[0] with { At = found[0].At with { From = found[0].At.From + before } }, sentence);
    }
}
