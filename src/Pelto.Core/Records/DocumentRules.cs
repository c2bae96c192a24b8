namespace Pelto.Core.Records;

/// <summary>What may still be done with a document that is confirmed: it can be cancelled, and nothing else.</summary>
public static class DocumentRules
{
    /// <summary>True when people may type in this field of this record, as far as its being a document goes.</summary>
    public static bool MayType(RecordState record, Field field) =>
        !record.IsLocked || (field == record.Type.Document!.Status && record.Type.Document.IsClosed(record.Header[field.Slot]));

    /// <summary>Why the record cannot be deleted, or null when it can, as far as its being a document goes.</summary>
    public static string? RefuseDeletion(RecordState record) =>
        !record.IsLocked ? null : $"{record.Title} stays: once {LabelOfClosed(record).ToLowerInvariant()}, it can only be cancelled.";

    /// <summary>What changes do to a locked document that they may not.</summary>
    /// <param name="current">The record as it is on file.</param>
    /// <param name="wanted">The record as it is to be.</param>
    public static IEnumerable<Message> Check(RecordState current, RecordState wanted)
    {
        if (!current.IsLocked)
            yield break;
        var document = current.Type.Document!;
        var sentence =
            $"{current.Title} is {LabelOf(current).ToLowerInvariant()}: "
            + $"{(document.IsCancelled(current.Header[document.Status.Slot]) ? "it stays as it is." : "it can only be cancelled.")}";
        foreach (
            var field in current.Type.Header.Fields.Where(field => field.IsTyped && wanted.Header[field.Slot] != current.Header[field.Slot])
        )
        {
            if (
                field == document.Status
                && document.IsClosed(current.Header[field.Slot])
                && document.IsCancelled(wanted.Header[field.Slot])
            )
                continue;
            yield return new(new(field.Part, null, field), sentence);
        }

        foreach (var part in current.Type.LineParts)
        {
            var (before, after) = (current.LinesOf(part), wanted.LinesOf(part));
            if (
                before.Count != after.Count
                || before
                    .Zip(after)
                    .Any(pair =>
                        pair.First.Key != pair.Second.Key
                        || part.Fields.Any(field => field.IsTyped && pair.First.Values[field.Slot] != pair.Second.Values[field.Slot])
                    )
            )
                yield return new(new(part, null, null), sentence);
        }
    }

    private static string LabelOf(RecordState record) =>
        record.Type.Document!.Status.Kind.Format(record.Header[record.Type.Document.Status.Slot]);

    private static string LabelOfClosed(RecordState record) =>
        record.Type.Document!.Status.Kind.Format(Value.From(record.Type.Document.Description.Closed));
}
