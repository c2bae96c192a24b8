using Pelto.Core.Catalog;

namespace Pelto.Core.Formulas;

/// <summary>Something that can stand where somebody is typing in a formula.</summary>
/// <param name="Text">What is put in.</param>
/// <param name="Label">What people call it.</param>
/// <param name="About">Its kind, or what the function does.</param>
/// <param name="GoesOn">True when a point and a field follow: a link, or lines.</param>
public sealed record Completion(string Text, string Label, string About, bool GoesOn = false);

/// <summary>What can stand where somebody is typing: fields, ways through links, lines, functions.</summary>
public static class Completions
{
    private const int Most = 40;

    /// <summary>The names that fit what was typed up to a place, and where the name begins that they take the place of.</summary>
    /// <param name="text">The formula so far.</param>
    /// <param name="at">Where the cursor stands.</param>
    /// <param name="part">Where names are looked up.</param>
    /// <param name="atHand">For the condition of a link: the part in which the link stands.</param>
    /// <param name="isShown">Which fields whoever types is shown; null for all.</param>
    public static (int From, IReadOnlyList<Completion> Found) Of(string text, int at, Part part, Part? atHand = null, Func<Field, bool>? isShown = null)
    {
        isShown ??= static _ => true;
        at = Math.Clamp(at, 0, text.Length);
        if (text[..at].Count(static c => c == '"') % 2 == 1) return (at, []);
        var from = at;
        while (from > 0 && (char.IsLetterOrDigit(text[from - 1]) || text[from - 1] is '_' or '.')) from--;
        var path = text[from..at].Split('.');
        var typed = path[^1];
        var found = path.Length == 1 ? Begin(part, atHand, isShown, typed.Length > 0) : After([.. path[..^1]], part, atHand, isShown);
        var fitting = found.Where(one => Fits(one, typed)).OrderByDescending(one => one.Text.StartsWith(typed, StringComparison.OrdinalIgnoreCase)).Take(Most);
        return (at - typed.Length, [.. fitting]);
    }

    private static bool Fits(Completion one, string typed) =>
        one.Text.Contains(typed, StringComparison.OrdinalIgnoreCase) || one.Label.Split(' ').Any(word => word.StartsWith(typed, StringComparison.OrdinalIgnoreCase));

    private static IEnumerable<Completion> Begin(Part part, Part? atHand, Func<Field, bool> isShown, bool withFunctions)
    {
        if (atHand is not null) yield return new(Binder.RecordName, $"The {atHand.RecordType.Label.ToLowerInvariant()} at hand", "record", GoesOn: true);
        if (atHand is { IsLines: true }) yield return new(Binder.LineName, "The line at hand", "line", GoesOn: true);
        foreach (var field in Readable(part).Where(isShown)) yield return Named(field);
        if (part.IsLines) foreach (var field in Readable(part.RecordType.Header).Where(isShown).Where(field => part.Find(field.Code) is null)) yield return Named(field);
        foreach (var lines in part.RecordType.LineParts) yield return new(lines.Code, lines.Plural, "all lines", GoesOn: true);
        if (atHand is null)
            foreach (var link in Linking(part.RecordType).Where(isShown)) yield return new(Way(link), $"{link.Part.Plural} by {link.Label}", "all that link here", GoesOn: true);
        if (!withFunctions) yield break;
        foreach (var function in Functions.ByName.Values) yield return new($"{function.Name}(", function.Signature, function.Summary);
    }

    private static IEnumerable<Completion> After(List<string> path, Part part, Part? atHand, Func<Field, bool> isShown)
    {
        var linking = Linking(part.RecordType).FirstOrDefault(link => path.Count >= Way(link).Split('.').Length && string.Join('.', path.Take(Way(link).Split('.').Length)) == Way(link));
        if (atHand is null && linking is not null && part.Find(path[0]) is null && part.RecordType.Header.Find(path[0]) is null)
        {
            var reached = linking.Part;
            foreach (var step in path.Skip(Way(linking).Split('.').Length)) reached = reached?.Find(step)?.Target?.Header;
            return reached is null ? [] : Readable(reached).Where(isShown).Select(Named);
        }

        var at = path[0] switch
        {
            Binder.RecordName when atHand is not null => atHand.RecordType.Header,
            Binder.LineName when atHand is { IsLines: true } => atHand,
            var first when part.RecordType.LineParts.FirstOrDefault(lines => lines.Code == first) is { } lines => lines,
            var first => (part.Find(first) ?? part.RecordType.Header.Find(first))?.Target?.Header,
        };
        foreach (var step in path.Skip(1)) at = at?.Find(step)?.Target?.Header;
        return at is null ? [] : Readable(at).Where(isShown).Select(Named);
    }

    private static IEnumerable<Field> Linking(RecordType type) => type.PointedBy.Where(static link => link.Kind is Values.LinkKind);

    private static string Way(Field link) => link.Part.IsLines ? $"{link.Part.RecordType.Code}.{link.Part.Code}.{link.Code}" : $"{link.Part.RecordType.Code}.{link.Code}";

    private static IEnumerable<Field> Readable(Part part) => part.Fields.Where(static field => field is { IsSeen: false, Kind: not (Values.LinksKind or Values.SecretKind) });

    private static Completion Named(Field field) => new(field.Code, field.Label, field.KindInWords, GoesOn: field.Target is not null);
}
