using Pelto.Core.Fills;
using Pelto.Core.Formulas;
using Pelto.Core.Queries;

namespace Pelto.Web.Components;

/// <summary>
/// What a record says of a value that was filled and may be changed: where it came from, who typed over it, what it would be now.
/// </summary>
/// <param name="Text">The sentences; empty when there is nothing to say.</param>
/// <param name="MayFill">True when it would be something else now, and can be filled again.</param>
/// <param name="IsOff">True when it is not what fills it.</param>
public sealed record FilledNote(string Text, bool MayFill, bool IsOff)
{
    /// <summary>The note on a field at its place; null for one that nothing fills, or that nobody could change.</summary>
    /// <param name="form">The form.</param>
    /// <param name="field">The field.</param>
    /// <param name="line">The line, for a field of lines.</param>
    public static FilledNote? For(RecordForm form, Field field, LineState? line)
    {
        if (field is not { IsFilled: true, IsComputed: false } || form.Viewer.Form is not null)
            return null;
        var value = (line?.Values ?? form.State.Header)[field.Slot];
        var origin = (line?.Origins ?? form.State.Origins).GetValueOrDefault(field);
        var (known, from) = Filling.Given(field, form.State, line);

        // What it would be is told to those only who may see what it is read from.
        var mayKnow =
            (field.Formula is not { } formula || form.Viewer.MayKnow(formula))
            && field.CarriedFrom.All(carried => form.Viewer.SureAt(carried.From) >= AccessLevel.Read);
        var given = known is { } told && mayKnow ? told : value;
        var would =
            given.IsError ? given.Reason
            : given.IsEmpty ? ""
            : field.Kind.IsLink ? "another"
            : field.Kind.Format(given, form.Viewer.Locale);
        var differs = !given.IsError && value != given;
        if (origin is { IsTyped: true })
            return new(
                $"Typed over by {origin.By}{On(form, origin)}.{(differs && would.Length > 0 ? $" Otherwise {would}." : given.IsError ? $" {would}" : "")}",
                field.IsChangeable && (field.Asking is not null || !given.IsError),
                true
            );

        if (field.Asking is { } late && origin is { IsAwaited: true } or { IsUnanswered: true })
            return new(
                origin.IsAwaited
                    ? $"{late.Query.Label} takes longer than a save may wait: "
                        + $"it is asked in the background{On(form, origin)}, and fills the field once it answers."
                    : $"{late.Query.Label} gave no answer when it was asked in the background{On(form, origin)}.",
                field.IsChangeable,
                true
            );
        if (field.Asking is { } asking)
            return new(
                given.IsError ? given.Reason
                    : origin is null || value.IsEmpty ? ""
                    : $"From {asking.Query.Label}{On(form, origin)}.",
                field.IsChangeable,
                given.IsError
            );
        var source = Source(form, field, origin?.From ?? from);
        if (given.IsError && value.IsEmpty)
            return new(would, false, true);
        var isKnown = origin is not null || field.Mode == FillMode.Chosen;
        if (!differs || !isKnown)
            return new(source is null || value.IsEmpty ? "" : $"From {source}{(origin is null ? "" : On(form, origin))}.", false, false);
        if (given.IsEmpty && source is null)
            return new("", false, false);
        return new(
            $"{(source is null ? "" : $"From {source}{(origin is null ? "" : On(form, origin))}. ")}{(source is null ? "Filled now, it would be" : "There it is now")} {(would.Length == 0 ? "empty" : would)}.",
            field.IsChangeable,
            true
        );
    }

    // Of a record that is not on file yet, everybody knows when.
    private static string On(RecordForm form, Origin origin) =>
        form.State.Id is null ? "" : $", {Times.Stamp(new(DateTime.SpecifyKind(origin.At, DateTimeKind.Utc)), form.Viewer.Locale)}";

    // The link that it came through, which stands on the same record; the document before goes first.
    private static string? Source(RecordForm form, Field field, string? from)
    {
        if (from?.Split('/')[0] is { } code)
        {
            var link = field
                .CarriedFrom.Select(carried => carried.Follow.Link)
                .Append(field.Formula?.Through)
                .FirstOrDefault(link => link?.Target?.Code == code);
            return link?.TextIn(form.Viewer.Locale).Label;
        }

        return
            field.Part.IsLines && field.Formula?.Source is { Part.IsLines: false } header && header.Part.RecordType == field.Part.RecordType
            ? $"{form.Type.Label}, {header.TextIn(form.Viewer.Locale).Label}"
            : null;
    }
}
