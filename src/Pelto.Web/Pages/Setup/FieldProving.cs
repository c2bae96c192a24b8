using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Values;
using Pelto.Data.Records;
using Pelto.Web.Components;

namespace Pelto.Web.Pages;

/// <summary>A condition on the record that is shown.</summary>
/// <param name="Name">What it decides.</param>
/// <param name="Sentence">What it says, in words.</param>
/// <param name="Result">What it gives there; null where there is no line to try it on.</param>
/// <param name="Steps">Its parts with their values there.</param>
/// <param name="Count">On how many records it holds, of how many; null when the database cannot tell yet.</param>
public sealed record ConditionProof(string Name, string Sentence, Value? Result, IReadOnlyList<FormulaStep> Steps, (long Holds, long Looked)? Count);

/// <content>What the field page proves: the definition on a real record, on all records by count, and on a value that is tried.</content>
public sealed partial class FieldModel
{
    /// <summary>True while something is only not filled in yet, which is no mistake, and keeps it from being shown.</summary>
    public bool IsUnfinished { get; private set; }

    private async Task ProveAsync(bool isAsked)
    {
        var problems = new List<Problem>();
        var definition = Input.ToField(Known, Taken(), problems);
        if (Live is { } live) definition = definition with { Code = live.Code, RecordType = live.RecordType, Part = live.Part };
        var site = await drafts.SettleAsync(draft.Site.With(definition).Placing(fieldId, Input.ToPlacement(fieldId)), HttpContext.RequestAborted);
        var proved = catalogues.Build(site);
        problems.AddRange(proved.Problems.Where(problem => problem.Element == fieldId));
        ReadFormula(proved, definition);

        // Before somebody asks, what is only not filled in yet is no mistake.
        Problems = isAsked ? problems : [.. problems.Where(problem => !(problem.Property is "label" or "code" && definition.Label.Length == 0) && !(problem.Property == "choices" && Input.Choices.Length == 0) && !(problem.Property == "pattern" && Input.Pattern.Length == 0) && !(problem.Property == "target" && Input.Target.Length == 0) && !(problem.Property == "path" && Input.Path.Length == 0) && !(problem.Property == "formula" && Input.Formula.Length == 0))];
        IsUnfinished = problems.Count > Problems.Count;
        if (definition.Label.Length == 0) proved = catalogues.Build(draft.Site.With(definition with { Label = "New field", Code = "new_field" }).Placing(fieldId, Input.ToPlacement(fieldId)));
        await TrySampleAsync(proved.FindField(fieldId));
        await ShowAsync(proved, problems);
    }

    private void ReadFormula(Catalogue proved, FieldDefinition definition)
    {
        if (definition.Formula is not { } text || proved.Find(definition.RecordType)?.FindPart(definition.Part) is not { } part) return;
        var found = new List<FormulaProblem>();
        FormulaSentence = Formula.Bind(text, part, found)?.Sentence;

        // Inputs keep the spaces before it, which the definition does not.
        var before = Input.Formula.Length - Input.Formula.TrimStart().Length;
        FormulaProblem = found.Count == 0 ? null : found[0] with { At = found[0].At with { From = found[0].At.From + before } };
    }

    // While what is defined is sound: on the record that is shown step by step, and on all records by count.
    private async Task ProveFormulaAsync(Field field, RecordState shown)
    {
        if (field.Formula is not { } formula) return;
        ProvedField = field;
        var line = field.Part.IsLines ? shown.LinesOf(field.Part).FirstOrDefault() : null;
        if (!field.Part.IsLines || line is not null) FormulaSteps = [.. formula.Steps(shown.FrameAt(line))];
        var live = request.Catalogue.FindField(field.Id);
        FormulaProof = await formulaProofs.OfAsync(field, live?.Kind.Holds == field.Kind.Holds ? live : null, request.Viewer, HttpContext.RequestAborted);
    }

    // Each condition on the record that is shown, step by step, and on how many it holds.
    private async Task ProveConditionsAsync(Field field, RecordState shown)
    {
        var line = field.Part.IsLines ? shown.LinesOf(field.Part).FirstOrDefault() : null;
        var proved = new List<ConditionProof>();
        foreach (var (name, condition) in new[] { ("Needed where", field.Rules.RequiredWhen), ("Shown where", field.Rules.ShownWhen), ("Check", field.Rules.Check) })
        {
            if (condition is null) continue;
            var frame = (field.Part.IsLines && line is null) || !request.Viewer.MayBeTold(field, condition) ? null : shown.FrameAt(line);
            proved.Add(new(name, condition.Sentence, frame is null ? null : condition.Evaluate(frame), frame is null ? [] : [.. condition.Steps(frame)], await formulaProofs.CountAsync(condition, field.Part, request.Viewer, HttpContext.RequestAborted)));
        }

        Conditions = proved;
    }

    private async Task TrySampleAsync(Field? field)
    {
        if (field is null || field.IsSeen || Input.Sample.Length == 0)
        {
            SampleAnswer = field?.IsSeen == true ? "Nobody types it: it is seen." : "Type what people may type; it is read by the rules above.";
            return;
        }

        var parsed = field.Target is null ? field.Kind.Parse(Input.Sample, request.Locale) : await finder.FindAsync(field, Input.Sample.Trim());
        var empty = new RecordState(field.Part.RecordType);
        var refusals = parsed.Refusal is { } refusal ? [refusal] : parsed.Value.IsEmpty ? [] : (field.Rules with { Check = null }).Refusals(field, parsed.Value, empty.FrameAt(null), static _ => true).ToList();
        SampleRefused = refusals.Count > 0;
        var target = field.Target is not null && parsed.Value.Type == ValueForm.Link ? (await lists.TargetsAsync(field.Target, [parsed.Value.Target], request.Viewer)).Values.FirstOrDefault()?.Text : null;
        SampleAnswer = SampleRefused ? string.Join(" ", refusals) : target is not null ? $"Finds {target}." : $"Reads as {(field.Kind.Format(parsed.Value, request.Locale) is { Length: > 0 } text ? text : "nothing")}.";
    }

    private async Task ShowAsync(Catalogue proved, List<Problem> problems)
    {
        if (proved.FindField(fieldId) is not { } field)
        {
            Effects = Known.Retired ? ["It is retired: it stands on no screen, in no list and not in the programming interface. What was entered is kept, and comes back with it."] : ["Nothing yet."];
            return;
        }

        var type = field.Part.RecordType;
        Effects = [.. (await effects.OfAsync(field, Live is null ? null : request.Catalogue.FindField(fieldId), proved, request.Viewer, request.Views)).Where(sentence => sentence.Length > 0)];
        if (request.Catalogue.FindField(fieldId) is { } live)
            OnFile = await effects.OnFileAsync(live, field, request.Viewer, HttpContext.RequestAborted);
        ProofSections = [.. type.Screen.Layout.Sections.Where(section => section.Places.Any(place => place.Field == field)).Select(section => Near(section, field))];
        if (ProofSections.Count == 0 || problems.Exists(problem => problem.Property is not ("label" or "code" or "choices"))) return;

        var filled = request.Catalogue.Find(type.Code);
        var record = filled is null ? null : await RecordAsync(filled);
        var shown = new RecordState(type) { Id = record?.Id };
        if (record is not null) record.CopyTo(shown);
        ProofTitle = record?.Title ?? "no record on file yet";
        await InDraft.SeeAsync(store, shown, request.Viewer, HttpContext.RequestAborted);
        await ProveFormulaAsync(field, shown);
        await ProveConditionsAsync(field, shown);
        Shorten(shown);
        var form = await forms.OfAsync(shown);
        if (field.Narrowing is not null && filled is not null) Offered = await offers.OfAsync(field, filled, record, static (shown, record) => record.CopyTo(shown), request.Viewer, HttpContext.RequestAborted);
        Proof = new() { Release = form.Release, State = shown, Opened = form.Opened, Viewer = form.Viewer, Targets = form.Targets, DraftField = fieldId, IsPreview = true, OnFile = shown };
    }

    private async Task<RecordState?> RecordAsync(RecordType type)
    {
        if (Input.Record.Trim() is { Length: > 0 } number)
        {
            var id = await lists.FindAsync(type, number, request.Viewer, HttpContext.RequestAborted) ?? (long.TryParse(number, out var known) ? known : null);
            if (id is { } found && await store.FindAsync(type, found, request.Viewer) is { } asked)
            {
                Input.Record = asked.Title;
                return asked;
            }

            NoRecord = $"There is no {type.Label.ToLowerInvariant()} {number}: it is shown on the newest.";
        }

        RecordLists.TryOrder(type, null, request.Viewer, out var order);
        var page = await lists.ReadAsync(new(type, order, 1) { Shown = [] }, request.Viewer);
        return page.Rows.Count == 0 ? null : await store.FindAsync(type, page.Rows[0].Id, request.Viewer);
    }

    // Beside the definition there is room for few fields: those around the one that it is about.
    private LayoutSection Near(LayoutSection section, Field field)
    {
        var places = section.Places.Where(place => place.Field == field || request.Views.Sees(place.Field)).ToList();
        var most = section.Lines is null ? 9 : 4;
        var at = places.FindIndex(place => place.Field == field);
        return section with { Items = [.. places.Skip(Math.Clamp(at - (most / 2), 0, Math.Max(0, places.Count - most))).Take(most)] };
    }

    // Beside the definition there is room for few lines; what is worked out over all of them is by now.
    private static void Shorten(RecordState shown)
    {
        foreach (var lines in shown.Lines.Where(lines => lines.Count > 3)) lines.RemoveRange(3, lines.Count - 3);
    }
}
