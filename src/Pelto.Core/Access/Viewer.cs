using Pelto.Core.Catalog;
using Pelto.Core.Values;

namespace Pelto.Core.Access;

/// <summary>What somebody may do with a field; each level includes those before it.</summary>
public enum AccessLevel
{
    /// <summary>It does not exist for them.</summary>
    None,

    /// <summary>They see that it is there, not what it holds.</summary>
    Masked,

    /// <summary>They see it.</summary>
    Read,

    /// <summary>They change it.</summary>
    Write,
}

/// <summary>The person for whom something is read or written. The store gives nothing without one.</summary>
/// <param name="Id">The person's id.</param>
/// <param name="Name">As shown to others.</param>
/// <param name="Roles">Codes of the roles that the person has.</param>
public sealed record Viewer(Guid Id, string Name, IReadOnlyList<string> Roles)
{
    /// <summary>The conventions in which the person reads and writes.</summary>
    public Locale Locale { get; init; } = Locale.International;

    /// <summary>The code of the company that the person works for; empty for none.</summary>
    public string Company { get; init; } = "";

    /// <summary>The name by which the person signs in; lasting.</summary>
    public string SignIn { get; init; } = "";

    /// <summary>For somebody outside, who has not signed in: the public form that is open there, which is all that they may do.</summary>
    public PublicForm? Form { get; init; }

    /// <summary>What the person arranged for themselves of a record type's screen and lists; null when nothing is known of that.</summary>
    public Func<RecordType, Layouts.Layer?>? Own { get; init; }

    /// <summary>Somebody outside, with a public form open.</summary>
    public static Viewer Outside(PublicForm form, Locale locale) => new(Guid.Empty, "somebody outside", []) { Form = form, Locale = locale };

    /// <summary>The role that may do everything, set-up included.</summary>
    public const string Administrator = "administrator";

    /// <summary>True when the person may define, place and publish.</summary>
    public bool MaySetUp => Roles.Contains(Administrator);
}

/// <summary>The one access check. What people may do follows from their roles; of several roles the highest level counts.</summary>
public static class AccessRules
{
    private const string EveryRole = "*";

    /// <summary>The level at a record type: write for who changes or creates.</summary>
    public static AccessLevel LevelAt(this Viewer viewer, RecordType type) =>
        viewer.Form is not null ? AccessLevel.None
        : viewer.MayChange(type) || viewer.MayCreate(type) ? AccessLevel.Write
        : viewer.MaySetUp || Has(viewer, type.Description.Access.Read) ? AccessLevel.Read
        : AccessLevel.None;

    /// <summary>The level at a field: that of its record type; what is filled by itself is never written, nor is a link to what the person may not see.</summary>
    public static AccessLevel LevelAt(this Viewer viewer, Field field)
    {
        if (viewer.Form is { } form) return form.Asks(field) ? AccessLevel.Write : AccessLevel.None;
        var level = viewer.LevelAt(field.Part.RecordType);

        // What is seen through links is withheld with anything on the way there.
        if (field.IsSeen) return field.Path.All(step => viewer.LevelAt(step) >= AccessLevel.Read) && field.Path.SkipLast(1).All(viewer.MaySeeThrough) && level >= AccessLevel.Read ? AccessLevel.Read : AccessLevel.None;

        // What an added formula gives is withheld with anything that it reads.
        if (level >= AccessLevel.Read && field.GuardedBy.Any(read => viewer.LevelAt(read) < AccessLevel.Read)) return AccessLevel.None;
        return level == AccessLevel.Write && !(field.IsTyped && viewer.MaySeeThrough(field)) ? AccessLevel.Read : level;
    }

    /// <summary>True when the person may see all that a formula reads, and so may be told what it gives.</summary>
    public static bool MayKnow(this Viewer viewer, Formulas.Formula formula) => formula.Reads.Concat(formula.Reaches).All(read => viewer.LevelAt(read) >= AccessLevel.Read);

    /// <summary>True when a field is shown to this person on the record that a frame is of: where the condition under which it is shown holds, or would tell what they may not see.</summary>
    public static bool IsShown(this Viewer viewer, Field field, Formulas.Frame frame) => field.Rules.ShownWhen is not { } condition || !viewer.MayKnow(condition) || field.Rules.IsShown(frame);

    /// <summary>True unless the field is a link to records that the person may not see: it is shown then, but not what it points to, nor is anything sorted or found by that.</summary>
    public static bool MaySeeThrough(this Viewer viewer, Field field) => field.Target is null || viewer.MayRead(field.Target);

    /// <summary>True when the person may find and choose what a link points to: outside, where some of that was released.</summary>
    public static bool MayChoose(this Viewer viewer, Field link) => link.Target is not null && (viewer.Form is { } form ? form.ReleasedBy(link) is not null : viewer.MayRead(link.Target));

    /// <summary>True when the person may see records of this type.</summary>
    public static bool MayRead(this Viewer viewer, RecordType type) => viewer.LevelAt(type) >= AccessLevel.Read;

    /// <summary>True when the person may change records of this type.</summary>
    public static bool MayChange(this Viewer viewer, RecordType type) => May(viewer, type, type.Description.Access.Write);

    /// <summary>True when the person may create records of this type.</summary>
    public static bool MayCreate(this Viewer viewer, RecordType type) => viewer.Form is { } form ? form.Type == type : May(viewer, type, type.Description.Access.Create ?? type.Description.Access.Write);

    /// <summary>True when the person may delete records of this type.</summary>
    public static bool MayDelete(this Viewer viewer, RecordType type) => May(viewer, type, type.Description.Access.Delete ?? type.Description.Access.Write);

    private static bool May(Viewer viewer, RecordType type, IReadOnlyList<string> roles) => !type.Description.KeptUp && (viewer.MaySetUp || Has(viewer, roles));

    private static bool Has(Viewer viewer, IReadOnlyList<string> roles) => viewer.Roles.Count > 0 && roles.Any(role => role == EveryRole || viewer.Roles.Contains(role));
}
