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
    public static (int From, IReadOnlyList<Completion> Found) For(
        string text,
        int at,
        Part part,
        Part? atHand = null,
        Func<Field, bool>? isShown = null
    )
    {
        isShown ??= static _ => true;
        at = Math.Clamp(at, 0, text.Length);
        if (text[..at].Count(static c => c == '"') % 2 == 1)
            return (at, []);
        var from = at;
        while (from > 0 && (char.IsLetterOrDigit(text[from - 1]) || text[from - 1] is '_' or '.'))
            from--;
        var path = text[from..at].Split('.');
        var typed = path[^1];
        var found = path.Length == 1 ? Begin(part, atHand, isShown, typed.Length > 0) : After([.. path[..^1]], part, atHand, isShown);
        var fitting = found
            .Where(one => Fits(one, typed))
            .OrderByDescending(one => one.Text.StartsWith(typed, StringComparison.OrdinalIgnoreCase))
            .Take(Most);
        return (at - typed.Length, [.. fitting]);
    }

    private static bool Fits(Completion one, string typed) =>
        one.Text.Contains(typed, StringComparison.OrdinalIgnoreCase)
        || one.Label.Split(' ').Any(word => word.StartsWith(typed, StringComparison.OrdinalIgnoreCase));

    private static IEnumerable<Completion> Begin(Part part, Part? atHand, Func<Field, bool> isShown, bool withFunctions)
    {
        if (atHand is not null)
            yield return new(Binder.RecordName, $"The {atHand.RecordType.Label.ToLowerInvariant()} at hand", "record", GoesOn: true);
        if (atHand is { IsLines: true })
            yield return new(Binder.LineName, "The line at hand", "line", GoesOn: true);
        foreach (var field in Readable(part).Where(isShown))
            yield return Named(field);
        if (part.IsLines)
            foreach (var field in Readable(part.RecordType.Header).Where(isShown).Where(field => part.Find(field.Code) is null))
                yield return Named(field);
        foreach (var lines in part.RecordType.LineParts)
            yield return new(lines.Code, lines.Plural, "all lines", GoesOn: true);
        if (atHand is null)
            foreach (var way in Ways(part.RecordType, isShown))
                yield return way;
        if (!withFunctions)
            yield break;
        foreach (var function in Functions.ByName.Values)
            yield return new($"{function.Name}(", function.Signature, function.Summary);
    }

    // What stands behind a way: the fields of where it leads; and where that is one record, what points to it as well.
    private static IEnumerable<Completion> After(List<string> path, Part part, Part? atHand, Func<Field, bool> isShown)
    {
        var (at, step, isOver) = Begun(path, part, atHand, isShown);
        while (at is not null && step < path.Count)
        {
            if (at.Find(path[step]) is { Target: { } target } link)
            {
                (at, step) = (target.Header, step + 1);
                isOver |= link.Kind.IsSeveralLinks;
            }
            else if (!isOver && atHand is null && LinkPaths.At(at.RecordType, path, step) is { } way && isShown(way.Link))
                (at, step, isOver) = (way.Rows, way.After, true);
            else
                at = null;
        }

        if (at is null)
            return [];
        var found = Readable(at, isOver).Where(isShown).Select(Named);
        if (isOver && !at.IsLines && EndsInLink(path, at))
            found = found.Concat(
                at.RecordType.LineParts.Select(static lines => new Completion(lines.Code, lines.Plural, "their lines", GoesOn: true))
            );
        return isOver || atHand is not null || at.IsLines ? found : found.Concat(Ways(at.RecordType, isShown));
    }

    // Where the first name leads, how many of the names that takes, and whether it goes over many rows.
    private static (Part? At, int Step, bool IsOver) Begun(List<string> path, Part part, Part? atHand, Func<Field, bool> isShown) =>
        path[0] switch
        {
            Binder.RecordName when atHand is not null => (atHand.RecordType.Header, 1, false),
            Binder.LineName when atHand is { IsLines: true } => (atHand, 1, false),
            var first when part.RecordType.LineParts.FirstOrDefault(lines => lines.Code == first) is { } lines => (lines, 1, true),
            var first when (part.Find(first) ?? part.RecordType.Header.Find(first)) is { } own => (
                own.Target?.Header,
                1,
                own.Kind.IsSeveralLinks
            ),
            _ when atHand is null && LinkPaths.At(part.RecordType, path, 0) is { } way && isShown(way.Link) => (way.Rows, way.After, true),
            _ => (null, 0, false),
        };

    // Lines are named right behind the link of their header.
    private static bool EndsInLink(List<string> path, Part at) =>
        path.Count > 1 && path[^2] == at.RecordType.Code && at.Find(path[^1]) is { Kind.IsOneLink: true };

    private static IEnumerable<Completion> Ways(RecordType type, Func<Field, bool> isShown) =>
        LinkPaths
            .To(type)
            .Where(isShown)
            .Select(link => new Completion(
                string.Join('.', LinkPaths.From(link)),
                $"{link.Part.Plural} by {link.Label}",
                "all that link here",
                GoesOn: true
            ));

    // Several links are gone over, which cannot be done for each of many rows.
    private static IEnumerable<Field> Readable(Part part, bool isOver = false) =>
        part.Fields.Where(field => field is { IsThroughLink: false, Kind.IsSecret: false } && !(isOver && field.Kind.IsSeveralLinks));

    private static Completion Named(Field field) => new(field.Code, field.Label, field.KindInWords, GoesOn: field.Target is not null);
}
