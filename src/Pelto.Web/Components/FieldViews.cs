using Pelto.Core.Records;

namespace Pelto.Web.Components;

/// <summary>Makes of each field on a form what is drawn there.</summary>
/// <param name="form">The form.</param>
internal sealed class FieldViews(RecordForm form)
{
    private const string NotTheirs = "not yours to see";

    // Asked once for each column, however many lines there are.
    private readonly Dictionary<Field, bool> columns = [];
    private Dictionary<string, int>? turns;

    /// <summary>One field at its place.</summary>
    /// <param name="place">The place.</param>
    /// <param name="line">The line on which it stands; null for one of the header.</param>
    public FieldView At(LayoutPlace place, LineState? line)
    {
        var (field, viewer, kind) = (place.Field, form.Viewer, place.Field.Kind);
        var address = new FieldAddress(field.Part, line?.Key, field).ToString();
        var name = place.IsAgain ? $"{place.Id}~{address}" : address;
        var value = ValuesAt(line)[field.Slot];
        var target = TargetOf(field, value);
        var level = LevelAt(field, line);
        var clash = form.Clashes.GetValueOrDefault(name);
        var mayType = form.IsWritable && level == AccessLevel.Write && DocumentRules.MayType(form.OnFile, field);
        var isAgainOnly = place.IsAgain && (kind.IsSeveral || kind.IsFormatted || kind.StaysWithRecord);
        return new()
        {
            Cell = Cell.Given(field, value, level, form.State.Access?.EndingAt(field, line?.Key)),
            Name = name,
            Of = address,
            Place = place,
            Width = place.Width,
            Locale = viewer.Locale,
            Record = form.State.Id,
            LineId = line?.Id,
            Text = form.Texts.GetValueOrDefault(address) ?? kind.Input(value, viewer.Locale),
            Unit = form.Texts.GetValueOrDefault(name + FormReader.UnitText)
                ?? (value.DataType is DataType.Money or DataType.Quantity ? value.Unit : ""),
            LinkText = form.Texts.GetValueOrDefault(name + FormReader.LinkText)
                ?? (kind.IsOneChoice ? kind.Format(value, viewer.Locale) : TextOf(target, line)),
            Target = target,
            Targets = kind.IsSeveralLinks
                ? [.. ChosenAt(field, name, value).Select(id => TargetAt(field, id) ?? new(id, "", NotTheirs))]
                : [],
            IsOutside = viewer.Form is not null,
            MayMake = viewer.Form is null && field.Target is { } made && viewer.MayCreate(made),
            IsRequired = mayType && (field.Required || place.IsRequired) && field.IsTyped,
            IsWritable = mayType && !place.IsLocked && !isAgainOnly,
            Messages = [.. form.Messages[name]],
            Clash = clash,
            IsOnlyBySaving = form.OnlyBySaving.Contains(name),
            TheirText = clash is null ? "" : TheirTextOf(clash, field, line),
            IsDraft = field.Id == form.DraftField,
            IsInLine = line is not null,
            IsShown = IsShown(field, line),
            Filled = place.IsAgain || level < AccessLevel.Read ? null : FilledNote.For(form, field, line),
            Tab = TabOf(place),
            By = form.Texts.GetValueOrDefault(name + FormReader.ByText) ?? (IsTypedOver(field, line) ? FormReader.ByHand : ""),
        };
    }

    /// <summary>True when a column of lines stands there.</summary>
    /// <param name="column">The column.</param>
    /// <param name="blank">A new line, which decides where there are none.</param>
    public bool ShowsColumn(Field column, LineState blank)
    {
        if (column.Rules.ShownWhen is null)
            return true;
        if (columns.TryGetValue(column, out var known))
            return known;
        var lines = form.State.LinesOf(column.Part);
        return columns[column] = lines.Count > 0 ? lines.Exists(line => IsShown(column, line)) : IsShown(column, blank);
    }

    private Value[] ValuesAt(LineState? line) => line?.Values ?? form.State.Header;

    // What is new is judged as it is entered, all else as it is on file.
    private AccessLevel LevelAt(Field field, LineState? line) =>
        form.Viewer.LevelAt(field, form.OnFile.Access is null || line is { Id: null } ? form.State : form.OnFile, line);

    // What is filled and was typed over in what is not on file yet.
    private bool IsTypedOver(Field field, LineState? line) =>
        field.IsChangeable
        && (line is null ? form.State.Id : line.Id) is null
        && (line?.Origins ?? form.State.Origins).GetValueOrDefault(field) is { IsTyped: true };

    // Where Tab comes to a place, where a layer says so: its turn, or that Tab passes by.
    private string? TabOf(LayoutPlace place)
    {
        var tabs = form.Layout.Tabs;
        if (form.Viewer.Form is not null || ReferenceEquals(tabs, TabOrder.AsRead))
            return null;
        if (tabs.Skipped.Contains(place.Id))
            return "skip";
        turns ??= tabs.StopsOf(form.Layout)
            .Select((id, turn) => (id, turn))
            .ToDictionary(pair => pair.id, pair => pair.turn, StringComparer.Ordinal);
        return turns.TryGetValue(place.Id, out var at) ? at.ToString(CultureInfo.InvariantCulture) : null;
    }

    // What is wrong there is shown in any case.
    private bool IsShown(Field field, LineState? line)
    {
        if (field.Rules.ShownWhen is null)
            return true;
        var name = new FieldAddress(field.Part, line?.Key, field).ToString();
        return form.Messages[name].Any() || form.Clashes.ContainsKey(name) || form.Viewer.IsShown(field, form.State.FrameAt(line));
    }

    // What was chosen and refused is shown all the same.
    private IReadOnlyList<long> ChosenAt(Field field, string name, Value value) =>
        (form.Texts.TryGetValue(name, out var chosen) ? field.Kind.Parse(chosen).Value : value).Targets;

    private string TheirTextOf(Clash clash, Field field, LineState? line) =>
        field.Kind.IsSeveralLinks ? string.Join("; ", clash.Theirs.Targets.Select(id => TargetAt(field, id)?.Text))
        : field.Kind.IsOneLink ? TextOf(TargetOf(field, clash.Theirs), line)
        : field.Kind.Format(clash.Theirs, form.Viewer.Locale);

    // A line is narrow, and the target's name mostly stands beside it already: there, links show what identifies the target.
    private static string TextOf(Target? target, LineState? line) => (line is null ? target?.Text : target?.Identifier) ?? "";

    private Target? TargetOf(Field field, Value value) =>
        value.DataType == DataType.Link && field.Target is not null ? TargetAt(field, value.Target) : null;

    private Target? TargetAt(Field field, long id) => form.Targets.GetValueOrDefault((field.Target!.Code, id));
}
