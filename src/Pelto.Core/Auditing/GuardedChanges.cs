using System.Text.Json;
using Pelto.Core.Access;

namespace Pelto.Core.Auditing;

/// <summary>What a save changed of fields that are marked as guarded, themselves or with their record type.</summary>
public static class GuardedChanges
{
    /// <summary>What is written for a secret, which is on record only as being there.</summary>
    public const string SecretText = "(secret)";

    /// <summary>The stored fields of a record type whose changes are on record.</summary>
    public static IReadOnlyList<Field> FieldsOf(RecordType type)
    {
        if (type.Guarding.IsPlain)
            return [];
        var all = type.Guarding.GuardOf(type) is not null;
        return
        [
            .. type
                .Parts.SelectMany(part => part.Fields)
                .Where(field => field is { IsStored: true, IsThroughLink: false } && (all || type.Guarding.GuardOf(field) is not null)),
        ];
    }

    /// <summary>All that differs, header first.</summary>
    /// <param name="before">The record as it was; null when it is new.</param>
    /// <param name="after">The record as it is on file now; null when it is gone.</param>
    public static IEnumerable<AuditNote> Between(RecordState? before, RecordState? after)
    {
        var (type, id, title) = ((after ?? before)!.Type, (after ?? before)!.Id, (after ?? before)!.Title);
        foreach (var field in FieldsOf(type))
        {
            if (!field.Part.IsLines)
            {
                if (Note(field, before?.Header, after?.Header, null) is { } note)
                    yield return note;
                continue;
            }

            var (were, are) = (LinesOf(before, field.Part), LinesOf(after, field.Part));
            foreach (var line in were.Keys.Union(are.Keys))
                if (Note(field, were.GetValueOrDefault(line), are.GetValueOrDefault(line), line) is { } note)
                    yield return note;
        }

        AuditNote? Note(Field field, Value[]? were, Value[]? are, long? line)
        {
            var (old, now) = (were is null ? Value.Empty : were[field.Slot], are is null ? Value.Empty : are[field.Slot]);
            if (old.Equals(now))
                return null;
            var done =
                old.IsEmpty ? "Filled"
                : now.IsEmpty ? "Emptied"
                : "Changed";
            return new(AuditKinds.Value, field.Id, $"{done} {field.Label} of {(line is null ? "" : "a line of ")}{title}")
            {
                Before = Text(field, old),
                After = Text(field, now),
                RecordType = type.Code,
                Record = id,
                Line = line,
            };
        }
    }

    /// <summary>
    /// A value as it is put on record: as programs read it, so that it is found and compared whatever somebody's conventions are; links by
    /// their ids, secrets not at all; null for nothing.
    /// </summary>
    public static string? Text(Field field, Value value) =>
        value.IsEmpty ? null
        : field.Kind.IsSecret ? SecretText
        : field.Kind.ToJson(value) is { } json
            ? json.GetValueKind() == JsonValueKind.String ? json.GetValue<string>()
                : json.ToJsonString()
        : null;

    private static Dictionary<long, Value[]> LinesOf(RecordState? state, Part part) =>
        state?.LinesOf(part).Where(line => line.Id is not null).ToDictionary(line => line.Id!.Value, line => line.Values) ?? [];
}
