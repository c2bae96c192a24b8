namespace Pelto.Web.Pages;

/// <summary>What a definition does: on a real record, on all records by count, and on a value that is tried.</summary>
public sealed record FieldProof
{
    /// <summary>What was checked.</summary>
    public required CheckedField Checked { get; init; }

    /// <summary>The field as it would be; null where it cannot be.</summary>
    public Field? Field => Checked.Field;

    /// <summary>What follows from the definition.</summary>
    public IReadOnlyList<string> Effects { get; init; } = [];

    /// <summary>What a change of kind, or a smaller size, makes of the values on file; null when neither is asked for.</summary>
    public ValueEffects? OnFile { get; init; }

    /// <summary>How the tried value reads.</summary>
    public required SampleAnswer Sample { get; init; }

    /// <summary>The record that it is shown on; null while it cannot be shown.</summary>
    public FieldPreview? Preview { get; init; }

    /// <summary>The form that shows it there.</summary>
    public RecordForm? Form { get; init; }

    /// <summary>The section in which it stands, shortened to what stands near it.</summary>
    public IReadOnlyList<LayoutSection> Sections { get; init; } = [];

    /// <summary>What its formula does.</summary>
    public FormulaAtWork? Formula { get; init; }

    /// <summary>Its conditions.</summary>
    public IReadOnlyList<ConditionProof> Conditions { get; init; } = [];

    /// <summary>What a link would offer on real records.</summary>
    public IReadOnlyList<OfferProof> Offered { get; init; } = [];
}

/// <summary>Proves a definition on what is on file, while somebody writes it.</summary>
public sealed class FieldProofs(
    CurrentRequest request,
    FieldEffects effects,
    FieldSamples samples,
    FieldPreviews previews,
    FieldFormulas formulas
)
{
    /// <summary>Proves what was checked.</summary>
    /// <param name="found">What was checked.</param>
    /// <param name="input">What stands in the inputs; the record that is found takes its proper name there.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<FieldProof> ProveAsync(CheckedField found, FieldInput input, CancellationToken cancel)
    {
        var proof = new FieldProof { Checked = found, Sample = await samples.TryAsync(found.Field, input.Sample) };
        if (found.Field is not { } field)
            return proof with { Effects = [WithoutIt(found)] };
        var live = request.Catalogue.FindField(field.Id);
        proof = proof with
        {
            Effects = await EffectsAsync(found, field, live),
            OnFile = live is null ? null : await effects.OnFileAsync(live, field, request.Viewer, cancel),
            Sections = previews.SectionsOf(field),
        };
        if (proof.Sections.Count == 0 || found.Problems.Any(problem => problem.Property is not ("label" or "code" or "choices")))
            return proof;

        var preview = await previews.OpenAsync(field, input.Record.Trim(), cancel);
        if (input.Record.Trim().Length > 0 && preview is { Refusal: null, Record: { } asked })
            input.Record = asked.Title;
        return proof with
        {
            Preview = preview,
            Formula = await formulas.OfAsync(field, preview.Shown, cancel),
            Conditions = await formulas.ConditionsAsync(field, preview.Shown, cancel),
            Offered = await previews.OffersAsync(field, preview, cancel),
            Form = await previews.DrawAsync(field, preview),
        };
    }

    private async Task<IReadOnlyList<string>> EffectsAsync(CheckedField found, Field field, Field? live)
    {
        var before = found.Subject.Live is null ? null : live;
        var sentences = await effects.OfAsync(field, before, found.Catalogue, request.Viewer, request.Views);
        return [.. sentences.Where(sentence => sentence.Length > 0)];
    }

    private static string WithoutIt(CheckedField found) =>
        !found.Subject.Known.Retired
            ? "Nothing yet."
            : "It is retired: it is on no screen, in no list "
                + "and not in the programming interface. What was entered is kept, and comes back with it.";
}
