using Pelto.Core.Formulas;

namespace Pelto.Core.Access;

/// <summary>One thing that took part in an answer.</summary>
/// <param name="Sentence">What it says.</param>
/// <param name="Counts">
/// True where it counts, false where its condition does not hold, null where the record decides and none is at hand.
/// </param>
/// <param name="Grant">The grant or guard that it comes from, by its id or what it is on; null for the ERP's own.</param>
/// <param name="Comment">Why somebody made it.</param>
public sealed record AccessReason(string Sentence, bool? Counts, string? Grant = null, string? Comment = null);

/// <summary>Why somebody has the access that they have.</summary>
/// <param name="Level">The level: on the record, or without one the highest that some record gives.</param>
/// <param name="Sentence">The answer in a sentence.</param>
/// <param name="Reasons">All that took part, in the order in which it counts.</param>
public sealed record AccessExplanation(AccessLevel Level, string Sentence, IReadOnlyList<AccessReason> Reasons);

/// <summary>Explains what the resolver decided, from the same guards and grants.</summary>
public static class AccessExplaining
{
    /// <summary>Explains somebody's access to a field.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="field">Which field.</param>
    /// <param name="state">The record, whole, with its live values; null for any.</param>
    /// <param name="line">The line, for a field of lines.</param>
    /// <param name="catalogue">The catalogue of the field.</param>
    /// <param name="locks">The layers by which it is locked on their screen.</param>
    public static AccessExplanation Explain(
        this Viewer viewer,
        Field field,
        RecordState? state,
        LineState? line,
        Catalogue catalogue,
        IReadOnlyList<Layer> locks
    )
    {
        var type = field.Part.RecordType;
        var frame = state is null || (field.Part.IsLines && line is null) ? null : RecordAccess.FrameOf(state, line, viewer);
        var access = viewer.AccessAt(type);
        var of = access.For(field);
        var level =
            frame is null ? of.AtMost
            : of.Write.Holds(frame) ? AccessLevel.Write
            : of.Read.Holds(frame) ? AccessLevel.Read
            : of.Visible.Holds(frame) ? AccessLevel.Masked
            : AccessLevel.None;
        var reasons = new List<AccessReason>();
        AccessReason? because = null;
        void Say(AccessReason reason, bool decides)
        {
            reasons.Add(reason);
            if (decides && reason.Counts != false)
                because = reason;
        }

        // The record type first: without it there is nothing.
        var onType = access.For(type);
        var guardOfType = type.Guarding.GuardOf(type);
        Say(
            guardOfType is not null && !viewer.IsAdministrator
                ? new($"{type.Plural} are guarded: they start with nothing", true, guardOfType.On, guardOfType.Comment)
                : new(Starts(viewer, access, type, catalogue.Host), true),
            decides: true
        );
        foreach (var grant in type.Guarding.On(type).Where(access.IsOf))
            Say(Reason(grant, frame, catalogue), decides: grant.Grant.Does == Grant.Give ? onType.Read.IsPossible : true);
        if (!onType.Read.IsPossible || (frame is not null && !onType.Read.Holds(frame)))
            return Done(AccessLevel.None, because);

        // Then the field itself.
        if (type.Guarding.GuardOf(field) is { } guard && !viewer.IsAdministrator)
            Say(new($"{field.Label} is guarded: it starts with nothing", true, guard.On, guard.Comment), decides: true);
        var mine = type.Guarding.On(field).Where(access.IsOf).ToList();
        foreach (var grant in mine.Where(grant => grant.Grant.Does != Grant.Withhold).OrderBy(grant => grant.Level))
            Say(Reason(grant, frame, catalogue), decides: true);
        foreach (var grant in mine.Where(grant => grant.Grant.Does == Grant.Withhold))
            Say(Reason(grant, frame, catalogue), decides: grant.Level <= level);

        // Then what it is calculated from.
        var isOpened = mine.Exists(grant =>
            grant.Grant.Does == Grant.Open && (grant.When is null || (frame is not null && Holds(grant.When, frame) == true))
        );
        foreach (var input in access.BehindOf(field))
        {
            var (holds, mayHold) = Readable(viewer, input, field, frame);
            if (holds)
                continue;
            var sentence =
                $"It is calculated from {GrantWords.Named(input)}, "
                + $"which {viewer.Name} may {(mayHold ? "not read on every record" : "not read")}";
            Say(
                new(isOpened ? $"{sentence}; it is opened anyway" : sentence, !isOpened, input.Id),
                decides: !isOpened && level < AccessLevel.Read
            );
        }

        if (level == AccessLevel.Read && NotTyped(field) is { } filled && onType.Change.IsPossible)
            reasons.Add(new(filled, true));

        // Whoever may write it may still find it locked where they work.
        if (level != AccessLevel.Write)
            locks = [];
        foreach (var layer in locks)
            reasons.Add(new($"The layer {layer.Label} locks it on the screen; programs may still write it", true));
        return Done(level, because, locks.Count > 0 ? $"; on the screen it is locked" : "");

        AccessExplanation Done(AccessLevel given, AccessReason? reason, string but = "") =>
            new(
                given,
                $"{viewer.Name} {Does(given, frame is null && of.IsConditional, GrantWords.Named(field))}{(reason is null ? "" : $", because {Lower(reason.Sentence)}")}{but}.",
                reasons
            );
    }

    private static string Does(AccessLevel level, bool isByRecord, string what) =>
        level switch
        {
            AccessLevel.Write => $"reads and writes {what}",
            AccessLevel.Read => $"reads {what}",
            AccessLevel.Masked => $"sees {what} masked",
            _ => $"does not see {what}",
        } + (isByRecord ? " where the record allows it" : "");

    private static string Starts(Viewer viewer, EffectiveAccess access, RecordType type, HostDescription host)
    {
        if (viewer.IsAdministrator)
            return "administrators have everything, unless it is withheld from them";
        var rights = Grant.Rights.Where(right => access.Starts(type, right)).ToList();
        var roles = GrantWords.Listed([
            .. viewer.Roles.Select(role => host.Roles.FirstOrDefault(known => known.Code == role)?.Label ?? role),
        ]);
        var who = roles.Length == 0 ? "without a role one" : roles;
        var whose = type.Definition is null ? "the ERP has it" : "the record type is defined";
        return rights.Count == 0
            ? $"{who} may do nothing with {type.Plural.ToLowerInvariant()} as {whose}"
            : $"{who} may {GrantWords.Listed(rights)} {type.Plural.ToLowerInvariant()} as {whose}";
    }

    private static AccessReason Reason(BoundGrant bound, Frame? frame, Catalogue catalogue) =>
        new(
            GrantWords.Sentence(catalogue, bound.Grant),
            bound.When is null ? true
                : frame is null ? null
                : Holds(bound.When, frame) ?? bound.Grant.Does == Grant.Withhold,
            bound.Grant.Id,
            bound.Grant.Comment
        );

    // Null where the condition gives no answer.
    private static bool? Holds(Formula condition, Frame frame) =>
        condition.Evaluate(frame) is { DataType: DataType.YesNo } answer ? answer.Yes : null;

    private static (bool Holds, bool MayHold) Readable(Viewer viewer, Field input, Field field, Frame? frame)
    {
        var read = viewer.AccessAt(input.Part.RecordType).ReadBehind(field, input);
        return (field.ReadsHere(input) && frame is not null ? read.Holds(frame) : read.IsSure, read.IsPossible);
    }

    private static string? NotTyped(Field field) =>
        field.IsComputed ? $"{field.Label} is calculated: nobody writes it"
        : field is { IsFilled: true, IsChangeable: false } ? $"{field.Label} is locked: it stays as it was filled"
        : field.IsThroughLink ? $"{field.Label} is seen through {field.Path[0].Label}: it is written there"
        : field.IsMaintained ? $"{field.Label} is maintained by the ERP"
        : field.Numbering is not null ? $"{field.Label} is assigned when a record is first saved"
        : null;

    private static string Lower(string sentence) =>
        sentence.Split(' ')[0] is var first && first is "Gives" or "Withholds" or "Opens" or "Keeps" or "Lets"
            ? $"a grant {char.ToLowerInvariant(sentence[0])}{sentence[1..]}"
        : first == "It" ? $"it{sentence[2..]}"
        : sentence;
}
