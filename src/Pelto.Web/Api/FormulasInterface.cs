using System.Text.Json;
using System.Text.Json.Nodes;
using Pelto.Core.Formulas;
using Pelto.Core.Records;

namespace Pelto.Web.Api;

/// <summary>Formulas: trying one on a record, on values that are sent, or on nothing; and which functions there are.</summary>
internal static class FormulasInterface
{
    public static IResult Functions() =>
        Results.Json(
            new
            {
                functions = Core.Formulas.Functions.ByName.Values.Select(function => new
                {
                    name = function.Name,
                    group = function.Group.ToString().ToLowerInvariant(),
                    signature = function.Signature,
                    summary = function.Summary,
                    example = function.Example.Length > 0 ? function.Example : null,
                }),
            }
        );

    public static async Task<IResult> TryAsync(
        HttpContext context,
        CurrentRequest request,
        RecordStore store,
        RecordLists lists,
        FormulaTrials trials,
        CancellationToken cancel
    )
    {
        var (asked, refusal) = await ReadAsync(context, cancel);
        if (asked is null)
            return refusal!;
        if (!TryText(asked, "text", out var text) || text is not { Length: <= Formula.LongestText })
            return Wrong($"text must be a formula of at most {Formula.LongestText} characters.");
        if (!TryText(asked, "recordType", out var code) || !TryText(asked, "part", out var partCode))
            return Wrong("recordType and part are codes.");
        if (code is null)
        {
            if (asked["recordId"] is not null || partCode is not null || asked["values"] is not null || asked["lines"] is not null)
                return Wrong("Say in recordType which kind of record the formula is about.");
            return Answer(text, null, null, null, store.Clock, trials);
        }

        if (request.Find(code) is not { } type)
            return AddressedType.NotFound(code);
        if (type.FindPart(partCode ?? Part.HeaderCode) is not { } part)
            return Wrong(
                $"{type.Label} has no part “{partCode}”. It has: {string.Join(", ", type.Parts.Select(candidate => candidate.Code))}."
            );
        if (asked["recordId"] is { } sent && (sent is not JsonValue number || !number.TryGetValue<long>(out _)))
            return Wrong("recordId is a whole number.");
        var id = asked["recordId"]?.GetValue<long>();
        var body = new JsonObject();
        foreach (var name in new[] { "values", "lines" })
            if (asked[name] is { } given)
                body[name] = given.DeepClone();
        RecordChanges changes;
        try
        {
            (changes, refusal) = await RecordBodies.ChangesAsync(body, type, request, lists, cancel);
        }
        catch (Exception wrong) when (wrong is JsonException or ArgumentException or InvalidOperationException)
        {
            return Wrong($"The body is not JSON that can be read: {wrong.Message}");
        }

        if (refusal is not null)
            return refusal;
        var unfit = changes
            .Header.Select(one => (At: new FieldAddress(type.Header, null, one.Key), one.Value))
            .Concat(
                changes.Lines.SelectMany(lines =>
                    lines.Value.SelectMany(row => row.Values.Select(one => (At: new FieldAddress(lines.Key, row.Key, one.Key), one.Value)))
                )
            )
            .Where(one => one.Value.Refusal is not null)
            .Select(one => (RecordJson.Pointer(one.At, changes), one.Value.Refusal!))
            .ToList();
        if (unfit.Count > 0)
            return Problems.For(StatusCodes.Status422UnprocessableEntity, unfit[0].Item2, unfit);
        if (await trials.RecordAsync(type, id, changes, request.Viewer, cancel) is not { } record)
            return RecordsInterface.NoRecord(type, id!.Value);
        var line = part.IsLines ? record.LinesOf(part).FirstOrDefault() : null;
        if (part.IsLines && line is null)
            return Wrong($"Send one of the {part.Plural.ToLowerInvariant()} in lines: the formula is about the first.");
        return await trials.WithRelatedAsync(record, text, part, line, request.Viewer, cancel) is var trial && trial.Refusal is { } guarded
            ? Problems.For(StatusCodes.Status403Forbidden, guarded)
            : Answer(trial);
    }

    private static IResult Answer(string text, Part? part, RecordState? record, LineState? line, Clock clock, FormulaTrials trials) =>
        Answer(trials.Run(text, part, record, line, clock));

    private static IResult Answer(FormulaTrial trial) =>
        Results.Json(
            new JsonObject
            {
                ["kind"] = trial.Formula is null
                    ? null
                    : KindOf(trial.Value.IsEmpty || trial.Value.IsError ? trial.Formula.DataType : trial.Value.DataType),
                ["value"] = Written(trial.Value),
                ["problems"] = new JsonArray([
                    .. trial.Problems.Select(problem => new JsonObject
                    {
                        ["from"] = problem.At.From,
                        ["length"] = problem.At.Length,
                        ["message"] = problem.Message,
                    }),
                ]),
                ["error"] = trial.Value.IsError ? trial.Value.Reason : null,
                ["sql"] = trial.Sql,
            }
        );

    private static string KindOf(DataType form) =>
        form switch
        {
            DataType.YesNo => "yes_no",
            DataType.Moment => "date_time",
            DataType.Several => "choices",
            var other => other.ToString().ToLowerInvariant(),
        };

    private static JsonNode? Written(Value value) =>
        value.DataType switch
        {
            DataType.Number => JsonValue.Create(Numbers.Shortest(value.Number)),
            DataType.Text => value.Text,
            DataType.YesNo => value.Yes,
            DataType.Date or DataType.Time or DataType.Moment => value.ToString(),
            DataType.Link => value.Target,
            DataType.Money => new JsonObject { ["amount"] = Numbers.Shortest(value.Amount), ["currency"] = value.Unit },
            DataType.Quantity => new JsonObject { ["amount"] = Numbers.Shortest(value.Amount), ["unit"] = value.Unit },
            DataType.Several => new JsonArray([.. value.Codes.Select(code => JsonValue.Create(code))]),
            _ => null,
        };

    private static async Task<(JsonObject? Asked, IResult? Refusal)> ReadAsync(HttpContext context, CancellationToken cancel)
    {
        try
        {
            return await Bodies.NodeAsync(context, cancel) is JsonObject asked
                ? (asked, null)
                : (null, Wrong("An object with text is expected here."));
        }
        catch (Exception wrong) when (wrong is JsonException or ArgumentException or InvalidOperationException)
        {
            return (null, Wrong($"The body is not JSON that can be read: {wrong.Message}"));
        }
    }

    private static bool TryText(JsonObject asked, string name, out string? text)
    {
        text = null;
        return asked[name] is not { } node || (node is JsonValue value && value.TryGetValue(out text));
    }

    private static IResult Wrong(string sentence) => Problems.For(StatusCodes.Status400BadRequest, sentence);
}
