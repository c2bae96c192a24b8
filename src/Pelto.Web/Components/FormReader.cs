using System.Text.Json;
using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>A record's form as it came back from a browser.</summary>
/// <param name="Changes">What the person wants.</param>
/// <param name="Texts">What stands in each input, by its name, so that nothing typed is lost even when it makes no sense.</param>
/// <param name="Release">The release under which the form was drawn.</param>
/// <param name="IsJudged">True when somebody asked to save it before, and it was refused.</param>
/// <param name="Asleep">The lines whose inputs are not drawn, each as its part and key: <c>lines.17</c>.</param>
public sealed record PostedForm(
    RecordChanges Changes,
    IReadOnlyDictionary<string, string> Texts,
    int Release,
    bool IsJudged,
    IReadOnlySet<string> Asleep
);

/// <summary>Reads a record's form. Inputs are named by <see cref="FieldAddress"/>; what stands in no input stays as it is.</summary>
public sealed class FormReader(TargetFinder finder, RecordStore store, CurrentRequest request)
{
    /// <summary>Stands beside a link's input and holds what is written there.</summary>
    public const string LinkText = ".text";

    /// <summary>Stands beside an amount's input and holds its currency or unit.</summary>
    public const string UnitText = ".unit";

    /// <summary>Stands beside a secret's input and says that it is to be emptied.</summary>
    public const string ClearMark = ".clear";

    /// <summary>Stands beside the input of what is filled and may be changed, and says who fills it.</summary>
    public const string ByText = ".by";

    /// <summary>Says that somebody typed it.</summary>
    public const string ByHand = "hand";

    /// <summary>Says that it is to be filled again.</summary>
    public const string ByFilling = "again";

    /// <summary>
    /// Stands before the name of an input whose field a condition has taken off the screen: what was typed there is not saved.
    /// </summary>
    public const string KeptPrefix = "kept~";

    /// <summary>Stands before the code in the name of a scratch field's input.</summary>
    public const string ScratchPrefix = "scratch~";

    /// <summary>Holds the names of inputs whose fields stood on no screen.</summary>
    public const string UnseenInput = "unseen";

    /// <summary>Holds the record as the person opened it.</summary>
    public const string OpenedInput = "opened";

    /// <summary>Holds the release under which the form was drawn.</summary>
    public const string ReleaseInput = "release";

    /// <summary>Stands in a form that somebody asked to save and that was refused.</summary>
    public const string JudgedInput = "judged";

    /// <summary>Holds the keys of lines, in order; named after the part.</summary>
    public const string OrderInput = ".order";

    /// <summary>Holds the lines whose inputs are not drawn.</summary>
    public const string AsleepInput = "asleep";

    /// <summary>Holds the codes of the parts whose lines the form shows.</summary>
    public const string PartsInput = "parts";

    /// <summary>Holds the entry from outside that a new record accepts.</summary>
    public const string EntryInput = "entry";

    /// <summary>The entry from outside that a form accepts.</summary>
    public static Guid? EntryOf(IFormCollection form) => Guid.TryParse(form[EntryInput].ToString(), out var entry) ? entry : null;

    /// <summary>Reads the form.</summary>
    /// <param name="form">What was posted.</param>
    /// <param name="type">The record type.</param>
    /// <param name="current">The record as it is now, or a new one.</param>
    /// <param name="keepsBlank">True to keep new lines that nobody touched yet: when the form is only drawn anew.</param>
    public async Task<PostedForm> ReadAsync(IFormCollection form, RecordType type, RecordState current, bool keepsBlank)
    {
        form = WithCodesOf(type, form);
        if (keepsBlank)
            form = WithSetAside(form);
        var changes = new RecordChanges
        {
            IsFromScreen = request.Viewer.Form is null,
            Opened = Opened(form, type, current),
            Entry = current.Id is null ? EntryOf(form) : null,
        };
        var texts = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var field in type.Header.Fields.Where(field => field.IsTyped))
            if (
                IsByHand(form, new(type.Header, null, field), changes, texts)
                && await ReadAsync(form, new(type.Header, null, field), texts) is { } entered
            )
                changes.Header[field] = entered;
        ReadScratch(form, type, changes, texts);
        foreach (var part in type.LineParts.Where(part => form[PartsInput].Contains(part.Code)))
            changes.Lines[part] = await ReadLinesAsync(form, part, changes, texts, keepsBlank);
        _ = int.TryParse(form[ReleaseInput], NumberStyles.None, CultureInfo.InvariantCulture, out var release);
        return new(
            changes,
            texts,
            release,
            form.ContainsKey(JudgedInput),
            form[AsleepInput].OfType<string>().ToHashSet(StringComparer.Ordinal)
        );
    }

    // What makes no sense is empty for formulas, and given back as typed.
    private void ReadScratch(IFormCollection form, RecordType type, RecordChanges changes, Dictionary<string, string> texts)
    {
        foreach (var (code, made) in type.Screens.Scratch.Where(pair => string.IsNullOrWhiteSpace(pair.Value.Formula)))
        {
            if (!form.TryGetValue(ScratchPrefix + code, out var text))
                continue;
            texts[ScratchPrefix + code] = text.ToString();
            if (ScratchFields.KindOf(made).Parse(text.ToString(), request.Locale) is { Refusal: null } parsed)
                changes.Scratch[code] = parsed.Value;
        }
    }

    // A form that was drawn under another version of the host names some inputs by the codes of that one.
    private static IFormCollection WithCodesOf(RecordType type, IFormCollection form)
    {
        var others = (
            from part in type.Parts
            from field in part.Fields
            where field.Content is FieldDescription { OtherCodes.Count: > 0 }
            from code in ((FieldDescription)field.Content).OtherCodes
            where part.Find(code) == field
            select (Part: part.Code, Other: code, field.Code)
        ).ToList();
        if (others.Count == 0)
            return form;
        return new FormCollection(
            form.Select(input =>
                    KeyValuePair.Create(
                        others
                            .Select(other => Renamed(input.Key, other.Part, other.Other, other.Code))
                            .FirstOrDefault(name => name is not null && !form.ContainsKey(name))
                            ?? input.Key,
                        input.Value
                    )
                )
                .DistinctBy(input => input.Key)
                .ToDictionary()
        );
    }

    // Part and code, or for lines part, key and code; then what stands beside the input.
    private static string? Renamed(string input, string part, string other, string code)
    {
        var names = input.Split('.');
        var at = part == Part.HeaderCode ? 1 : 2;
        var stored = names[0].StartsWith(KeptPrefix, StringComparison.Ordinal) ? names[0][KeptPrefix.Length..] : names[0];
        if (stored != part || names.Length <= at || names[at] != other)
            return null;
        names[at] = code;
        return string.Join('.', names);
    }

    // While it is only drawn anew, what a condition took off the screen comes back with it; it is not saved.
    private static IFormCollection WithSetAside(IFormCollection form) =>
        form.Keys.Any(name => name.StartsWith(KeptPrefix, StringComparison.Ordinal))
            ? new FormCollection(
                form.Where(input => !input.Key.StartsWith(KeptPrefix, StringComparison.Ordinal))
                    .Concat(
                        form.Where(input =>
                                input.Key.StartsWith(KeptPrefix, StringComparison.Ordinal)
                                && !form.ContainsKey(input.Key[KeptPrefix.Length..])
                            )
                            .Select(input => KeyValuePair.Create(input.Key[KeptPrefix.Length..], input.Value))
                    )
                    .ToDictionary()
            )
            : form;

    private static RecordState Opened(IFormCollection form, RecordType type, RecordState current)
    {
        try
        {
            using var json = JsonDocument.Parse(form[OpenedInput].ToString());
            return RecordJson.Read(json.RootElement, type, current);
        }
        catch (Exception wrong) when (wrong is JsonException or KeyNotFoundException or InvalidOperationException or FormatException)
        {
            return current;
        }
    }

    private async Task<List<EnteredLine>> ReadLinesAsync(
        IFormCollection form,
        Part part,
        RecordChanges changes,
        Dictionary<string, string> texts,
        bool keepsBlank
    )
    {
        var lines = new List<EnteredLine>();
        foreach (var key in form[part.Code + OrderInput].OfType<string>().Distinct(StringComparer.Ordinal))
        {
            var values = new Dictionary<Field, Parsed>();
            foreach (var field in part.Fields.Where(field => field.IsTyped))
                if (
                    IsByHand(form, new(part, key, field), changes, texts)
                    && await ReadAsync(form, new(part, key, field), texts) is { } entered
                )
                    values[field] = entered;
            long? id = long.TryParse(key, NumberStyles.None, CultureInfo.InvariantCulture, out var stored) ? stored : null;
            if (id is not null || keepsBlank || !IsBlank(values))
                lines.Add(new(key, id, values));
        }

        return lines;
    }

    // What stands in the input of something that is filled is entered only when a person put it there.
    private static bool IsByHand(IFormCollection form, FieldAddress address, RecordChanges changes, Dictionary<string, string> texts)
    {
        var name = address + ByText;
        if (!address.Field!.IsChangeable || !form.TryGetValue(name, out var by))
            return true;
        texts[name] = by.ToString();
        if (by == ByFilling)
            changes.FilledAgain.Add(address);
        return by == ByHand;
    }

    // A new line that nobody touched is no line when a record is saved.
    private bool IsBlank(Dictionary<Field, Parsed> values) =>
        values.All(pair =>
            pair.Value.Refusal is null && (pair.Value.Value.IsEmpty || pair.Value.Value == pair.Key.StartsWith(store.Today))
        );

    private async Task<Parsed?> ReadAsync(IFormCollection form, FieldAddress address, Dictionary<string, string> texts)
    {
        var name = address.ToString();
        if (!form.TryGetValue(name, out var posted))
            return null;
        var field = address.Field!;
        var text = field.Kind.IsSeveral ? string.Join(';', posted.Where(code => !string.IsNullOrEmpty(code))) : posted.ToString();
        texts[name] = text;
        if (field.Kind.IsSeveralLinks)
            return await ReadSeveralAsync(form, field, name, text, texts);
        if (field.Kind.IsSecret)
        {
            // An empty input says: as it was. What was typed is not given back.
            texts.Remove(name);
            return text.Length > 0 ? field.Kind.Parse(text)
                : form[name + ClearMark] == "yes" ? Value.Empty
                : null;
        }

        if (form.TryGetValue(name + UnitText, out var unit))
        {
            texts[name + UnitText] = unit.ToString();

            // A unit that is typed beside the number counts, whatever stands in the list of units.
            return field.Kind.Parse(string.IsNullOrWhiteSpace(text) || Numbers.NamesUnit(text) ? text : $"{text} {unit}", request.Locale);
        }

        if (!form.TryGetValue(name + LinkText, out var beside))
            return field.Kind.Parse(text, request.Locale);
        var written = beside.ToString().Trim();
        texts[name + LinkText] = written;
        if (written.Length == 0)
            return Value.Empty;
        return text.Length > 0 ? field.Kind.Parse(text)
            : field.Kind.IsOneLink ? await finder.FindAsync(field, written)
            : field.Kind.Parse(written);
    }

    // Who knows one more's number types it and goes on, without waiting for the list.
    private async Task<Parsed> ReadSeveralAsync(
        IFormCollection form,
        Field field,
        string name,
        string text,
        Dictionary<string, string> texts
    )
    {
        var more = form[name + LinkText].ToString().Trim();
        if (more.Length == 0)
            return field.Kind.Parse(text);
        texts[name + LinkText] = more;
        var found = await finder.FindAsync(field, more);
        return found.Refusal is null ? field.Kind.Parse($"{text};{found.Value.Target.ToString(CultureInfo.InvariantCulture)}") : found;
    }
}
