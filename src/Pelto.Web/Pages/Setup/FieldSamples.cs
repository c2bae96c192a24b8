namespace Pelto.Web.Pages;

/// <summary>How a value that is tried reads, or why it is refused.</summary>
/// <param name="Text">In words.</param>
/// <param name="IsRefused">True when people could not enter it.</param>
public sealed record SampleAnswer(string Text, bool IsRefused);

/// <summary>Tries a value on a field that is being defined.</summary>
public sealed class FieldSamples(CurrentRequest request, TargetFinder finder, RecordLists lists)
{
    /// <summary>Reads a value as people would enter it.</summary>
    /// <param name="field">The field as it would be; null where it cannot be.</param>
    /// <param name="text">What is tried; empty for nothing.</param>
    public async Task<SampleAnswer> TryAsync(Field? field, string text)
    {
        if (field?.IsThroughLink == true)
            return new("Nobody types it: it is seen through a link.", IsRefused: false);
        if (field is null || text.Length == 0)
            return new("Type what people may type; it is read by the rules above.", IsRefused: false);
        var parsed = field.Target is null ? field.Kind.Parse(text, request.Locale) : await finder.FindAsync(field, text.Trim());
        var refusals = Refusals(field, parsed).ToList();
        if (refusals.Count > 0)
            return new(string.Join(" ", refusals), IsRefused: true);
        if (await TargetAsync(field, parsed.Value) is { } target)
            return new($"Finds {target}.", IsRefused: false);
        var read = field.Kind.Format(parsed.Value, request.Locale);
        return new($"Reads as {(read.Length > 0 ? read : "nothing")}.", IsRefused: false);
    }

    private static IEnumerable<string> Refusals(Field field, Parsed parsed)
    {
        if (parsed.Refusal is { } refusal)
            return [refusal];
        if (parsed.Value.IsEmpty)
            return [];
        var frame = new RecordState(field.Part.RecordType).FrameAt(null);
        return (field.Rules with { Check = null }).Refusals(field, parsed.Value, frame, static _ => true);
    }

    private async Task<string?> TargetAsync(Field field, Value value) =>
        field.Target is { } type && value.DataType == DataType.Link
            ? (await lists.TargetsAsync(type, [value.Target], request.Viewer)).Values.FirstOrDefault()?.Text
            : null;
}
