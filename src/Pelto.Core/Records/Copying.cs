using Pelto.Core.Access;

namespace Pelto.Core.Records;

/// <summary>
/// What a new document takes over from the one before, or a record from what was sent in from outside, that its maker may not see: it is
/// copied here, so that it is not lost by their work. All else they see, and may change, before it is saved.
/// </summary>
public static class Copying
{
    /// <summary>Copies it, where the document before is at hand, or what was sent.</summary>
    public static void Run(RecordState state, RecordChanges changes, RecordAccess access)
    {
        if (state.Id is not null)
            return;
        if (changes.Sent is { } sent)
            foreach (var part in state.Type.Parts)
            foreach (
                var (line, values) in part.IsLines
                    ? state.LinesOf(part).Select(line => ((string?)line.Key, line.Values))
                    : [(null, state.Header)]
            )
            foreach (var field in part.Fields.Where(field => IsLeft(field, line)))
                if (sent.Entered(field, line) is { Refusal: null } said)
                    values[field.Slot] = said.Value;
        foreach (var follow in state.Type.Follows)
        {
            if (state.Header[follow.Link.Slot] is not { DataType: DataType.Link } before)
                continue;
            Copy(follow.Copies, null, state.Header, () => state.Context?.FindRelated(follow.Source.Header, before.Target));
            if (follow.Lines is not { } lines)
                continue;
            foreach (var line in state.LinesOf(lines.To))
                if (line.Values[lines.Reference.Slot] is { DataType: DataType.Number } row)
                    Copy(lines.Copies, line.Key, line.Values, () => state.Context?.FindRelated(lines.From, (long)row.Number));
        }

        void Copy(IReadOnlyList<(Field To, Field From)> copies, string? line, Value[] values, Func<Value[]?> source)
        {
            foreach (var (to, from) in copies.Where(copy => IsLeft(copy.To, line)))
                if (source() is { } before)
                    values[to.Slot] = before[from.Slot];
        }

        // Neither shown to them nor entered by them. Of a link it may be its target that they do not see.
        bool IsLeft(Field to, string? line) =>
            to.IsTyped
            && changes.Entered(to, line) is null
            && (
                access.LevelAt(to, line) < AccessLevel.Read
                || (to.Target is { } target && !access.Viewer.AccessAt(target).For(target).Read.IsSure)
            );
    }

    /// <summary>What it reads of documents before, besides what formulas read.</summary>
    public static IEnumerable<Field> Reads(RecordType type) =>
        type.Follows.SelectMany(follow => follow.Copies.Concat(follow.Lines?.Copies ?? [])).Select(copy => copy.From);
}
