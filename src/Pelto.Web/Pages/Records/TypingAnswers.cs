namespace Pelto.Web.Pages;

/// <summary>What a form is told on every pause in typing: what computed fields hold, what was filled in, what is shown, and what is wrong.</summary>
public sealed class TypingAnswers(CurrentRequest request, RecordForms forms, RecordLists lists)
{
    /// <summary>The answer, as <c>record.js</c> reads it.</summary>
    /// <param name="run">What was tried.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<object> OfAsync(EditRun run, CancellationToken cancel)
    {
        var state = run.Outcome.State;
        var values = await ComputedAsync(state, cancel);
        var refusals = await ScratchAsync(run, values);
        var told = RecordForms
            .Told(run.Outcome, run.Posted, run.Posted.IsJudged)
            .Where(message => request.Viewer.LevelAt(message.At.Field!) > AccessLevel.None)
            .Select(message => (object)new { at = message.At.ToString(), text = message.Sentence });
        return new
        {
            values,
            filled = await FilledAsync(run),
            shown = Shown(state),
            screen = run.Type.Screens.For(request.Viewer, state).Key,
            messages = told.Concat(refusals),
        };
    }

    // What is calculated or seen through a link, by the name of its place.
    private async Task<Dictionary<string, object>> ComputedAsync(RecordState state, CancellationToken cancel)
    {
        var values = new Dictionary<string, object>();
        var computed = state
            .Type.FillOrder.Where(field => !field.IsChangeable)
            .Concat(state.Type.Parts.SelectMany(part => part.FieldsThroughLinks));
        foreach (var field in computed.Where(field => request.Viewer.LevelAt(field) >= AccessLevel.Read))
        {
            var rows = RowsOf(field, state).Select(line => (Line: line?.Key, Value: (line?.Values ?? state.Header)[field.Slot])).ToList();
            var links = rows.Where(row => row.Value.DataType == DataType.Link).Select(row => row.Value.Target).Distinct();
            var targets = field.Target is null ? null : await lists.TargetsAsync(field.Target, [.. links], request.Viewer, cancel);
            foreach (var (line, value) in rows.Where(row => state.Access?.LevelAt(field, row.Line) is not < AccessLevel.Read))
            {
                var text =
                    value.DataType == DataType.Link
                        ? targets!.GetValueOrDefault(value.Target)?.Text ?? ""
                        : field.Kind.Format(value, request.Locale);
                values[new FieldAddress(field.Part, line, field).ToString()] = new { text, failed = value.IsError };
            }
        }

        return values;
    }

    // What scratch fields are calculated to goes with the rest; what was typed in others and cannot be read is refused.
    private async Task<IReadOnlyList<object>> ScratchAsync(EditRun run, Dictionary<string, object> values)
    {
        if (run.Type.Screens.Scratch.Count == 0)
            return [];
        var refusals = new List<object>();
        var form = await forms.OfAsync(run.Current, run.Outcome, run.Posted, isJudged: false);
        foreach (var (code, made) in run.Type.Screens.Scratch)
        {
            var name = FormReader.ScratchPrefix + code;
            var (text, failed, refusal) = form.ScratchOf(made);
            if (!string.IsNullOrWhiteSpace(made.Formula))
                values[name] = new { text, failed };
            if (refusal is not null && run.Posted.Texts.ContainsKey(name))
                refusals.Add(new { at = name, text = refusal });
        }

        return refusals;
    }

    // What fills inputs while one types, and what is said of it; a person's own typing stays.
    private async Task<Dictionary<string, object>> FilledAsync(EditRun run)
    {
        var (filled, state) = (new Dictionary<string, object>(), run.Outcome.State);
        var fields = state.Type.FillOrder.Where(field => !field.IsComputed && request.Viewer.ReadsWhereRead(field)).ToList();
        if (fields.Count == 0)
            return filled;
        var form = await forms.WhileTypingAsync(run.Current, state, run.Posted);
        foreach (var field in fields)
        foreach (var line in RowsOf(field, state))
            if (form.At(new(field, 1), line) is { Filled: { } note } view)
                filled[view.Name] = Written(view, note);
        return filled;
    }

    private static object Written(FieldView view, FilledNote note) =>
        new
        {
            id = view.Id,
            value = InputOf(view),
            text = view.InWords,
            unit = view.Unit,
            note = note.Text,
            again = note.MayFill,
            off = note.IsOff,
            byHand = view.By == FormReader.ByHand,
        };

    // Which of the fields that are shown under a condition are shown now.
    private Dictionary<string, bool> Shown(RecordState state) =>
        (
            from field in state.Type.Parts.SelectMany(part => part.Fields)
            where field.Rules.ShownWhen is not null && request.Viewer.LevelAt(field) >= AccessLevel.Read
            from line in RowsOf(field, state)
            select (field, line)
        ).ToDictionary(
            one => new FieldAddress(one.field.Part, one.line?.Key, one.field).ToString(),
            one => request.Viewer.IsShown(one.field, state.FrameAt(one.line))
        );

    // The lines on which a field stands; the record itself, once, for one of the header.
    private static IEnumerable<LineState?> RowsOf(Field field, RecordState state) =>
        field.Part.IsLines ? state.LinesOf(field.Part) : Enumerable.Repeat<LineState?>(null, 1);

    // As the input holds it, and as people read it where there is none: a screen may have it locked.
    private static string InputOf(FieldView view) =>
        view.Value.DataType is DataType.Link or DataType.YesNo || (view.Value.DataType == DataType.Text && view.Field.Kind.IsChoice)
            ? view.Field.Kind.Input(view.Value)
            : view.Text;
}
