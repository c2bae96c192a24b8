using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Records;

/// <summary>What a new document takes over from the one before, or a record from what was sent in from outside, that its maker may not see: it is copied here, so that it is not lost by their work. All else they see, and may change, before it is saved.</summary>
public static class Copying
{
    /// <summary>Copies it, where the document before is at hand.</summary>
    public static void Run(RecordState state, RecordChanges changes, RecordAccess access)
    {
        if (state.Id is not null) return;
        foreach (var (field, sent) in changes.Sent.Where(pair => pair.Key.IsTyped && access.LevelAt(pair.Key, null) < AccessLevel.Read && changes.Entered(pair.Key, null) is null)) state.Header[field.Slot] = sent.Value;
        foreach (var follow in state.Type.Follows)
        {
            if (state.Header[follow.Link.Slot] is not { Type: ValueForm.Link } before) continue;
            Copy(follow.Copies, null, state.Header, () => state.Around?.Reach(follow.Source.Header, before.Target));
            if (follow.Lines is not { } lines) continue;
            foreach (var line in state.LinesOf(lines.To))
                if (line.Values[lines.Reference.Slot] is { Type: ValueForm.Number } row) Copy(lines.Copies, line.Key, line.Values, () => state.Around?.Reach(lines.From, (long)row.Number));
        }

        void Copy(IReadOnlyList<(Field To, Field From)> copies, string? line, Value[] values, Func<Value[]?> source)
        {
            foreach (var (to, from) in copies.Where(copy => copy.To.IsTyped && IsUnseen(copy.To, line) && changes.Entered(copy.To, line) is null))
                if (source() is { } before) values[to.Slot] = before[from.Slot];
        }

        // Of a link it may be its target that they do not see.
        bool IsUnseen(Field to, string? line) => access.LevelAt(to, line) < AccessLevel.Read || (to.Target is { } target && !access.Viewer.StandingAt(target).Of(target).Read.IsSure);
    }

    /// <summary>What it reads of documents before, besides what formulas read.</summary>
    public static IEnumerable<Field> Reads(RecordType type) => type.Follows.SelectMany(follow => follow.Copies.Concat(follow.Lines?.Copies ?? [])).Select(copy => copy.From);
}
