using Pelto.Core.Formulas;

namespace Pelto.Core.Records;

/// <summary>Makes the document that follows another: what is still open of it, ready to be looked at and saved.</summary>
public static class NextDocument
{
    /// <summary>The new document, not saved. Its lines are those of which something is open.</summary>
    public static RecordState Make(Follow follow, RecordState source, Clock clock)
    {
        var next = Pipeline.Fresh(follow.Next, clock.Today);
        next.Origins.Clear();
        next.Context = new(
            (part, id) =>
                part == source.Type.Header
                    ? id == source.Id
                        ? source.Header
                        : null
                    : part.RecordType == source.Type
                        ? source.LinesOf(part).Find(line => line.Id == id)?.Values
                        : null,
            clock
        );
        foreach (var (to, from) in follow.Copies)
            next.Header[to.Slot] = source.Header[from.Slot];
        foreach (var (to, value) in follow.Sets)
            next.Header[to.Slot] = value;
        next.Header[follow.Link.Slot] = Value.LinkTo(source.Id!.Value);
        if (follow.Lines is not { } lines)
        {
            next.Header[follow.Measure.Slot] = Value.From(follow.Open(source.Header));
        }
        else
        {
            foreach (var before in source.LinesOf(lines.From).Where(line => follow.Open(line.Values) > 0))
            {
                var line = Pipeline.FreshLine(lines.To, $"next{before.Id}", clock.Today);
                foreach (var (to, from) in lines.Copies)
                    line.Values[to.Slot] = before.Values[from.Slot];
                line.Values[lines.Reference.Slot] = Value.From((decimal)before.Id!.Value);
                line.Values[follow.Measure.Slot] = Value.From(follow.Open(before.Values));
                next.LinesOf(lines.To).Add(line);
            }
        }

        Pipeline.Fill(next);
        return next;
    }

    /// <summary>Why nothing can be made from this document now, or null when something can.</summary>
    public static string? Refuse(Follow follow, RecordState source)
    {
        var document = follow.Source.Document!;
        var status = source.Header[document.Status.Slot];
        if (document.IsCancelled(status))
            return $"{source.Title} is cancelled.";
        var isOpen = follow.Lines is { } lines
            ? source.LinesOf(lines.From).Exists(line => follow.Open(line.Values) > 0)
            : follow.Open(source.Header) > 0;
        return isOpen ? null : $"Nothing of {source.Title} is open.";
    }
}
