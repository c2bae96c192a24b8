namespace Pelto.Core.Access;

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

    /// <summary>From where the person asks, for the audit: an address of the network, a token; empty where that is not known.</summary>
    public string From { get; init; } = "";

    /// <summary>For somebody outside, who has not signed in: the public form that is open there, which is all that they may do.</summary>
    public PublicForm? Form { get; init; }

    /// <summary>What the person arranged for themselves of a record type's screen and lists; null when nothing is known of that.</summary>
    public Func<RecordType, Layer?>? PersonalLayer { get; init; }

    /// <summary>Somebody with one role and nothing else, to ask what the role gives by itself.</summary>
    public static Viewer For(RoleDescription role) => new(Guid.Empty, role.Label, [role.Code]);

    /// <summary>Somebody outside, with a public form open.</summary>
    public static Viewer Outside(PublicForm form, Locale locale) =>
        new(Guid.Empty, "somebody outside", []) { Form = form, Locale = locale };

    /// <summary>The role that may do everything, set-up included.</summary>
    public const string Administrator = "administrator";

    /// <summary>What conditions of grants read of the person, by its name; empty for any other.</summary>
    public Value Parameter(string name) =>
        name switch
        {
            Grant.PersonName => Value.From(SignIn),
            Grant.CompanyName => Value.From(Company),
            _ => Value.Empty,
        };

    /// <summary>The work on Pelto itself that the person may do, by role or by name; administrators may do all of it anyway.</summary>
    public IReadOnlyList<AdminRight> Rights { get; init; } = [];

    /// <summary>For somebody who comes with a token: what that is limited to; null for no limit.</summary>
    public TokenLimits? Limits { get; init; }

    /// <summary>
    /// True for somebody in whose session it is long ago that they showed who they are: what matters most is refused to them until they do
    /// again, wherever it is done.
    /// </summary>
    public bool MustConfirm { get; init; }

    /// <summary>True when the person may do everything, unless it is withheld from them, or a token is limited.</summary>
    public bool IsAdministrator => Roles.Contains(Administrator);
}

/// <summary>What a token is limited to, within what its person may do.</summary>
/// <param name="Types">The codes of the record types that it reads and writes; none for all.</param>
/// <param name="Writes">True when it changes records.</param>
/// <param name="SetsUp">True when it changes definitions and publishes.</param>
public sealed record TokenLimits(IReadOnlyList<string> Types, bool Writes, bool SetsUp);

/// <summary>
/// The one access check: what people may do follows from the ERP, guards and grants, by their roles, their company and themselves.
/// </summary>
public static class AccessRules
{
    /// <summary>Where somebody stands under the guards and grants that a record type is under.</summary>
    public static EffectiveAccess AccessAt(this Viewer viewer, RecordType type) => type.Guarding.For(viewer);

    /// <summary>The highest level that some record of a type gives: write for who changes, creates or writes some of its fields.</summary>
    public static AccessLevel LevelAt(this Viewer viewer, RecordType type) =>
        viewer.Form is not null ? AccessLevel.None : viewer.AccessAt(type).LevelAt(type);

    /// <summary>
    /// The highest level that some record gives at a field: that of its record type, or what grants say; what is filled by itself is never
    /// written, nor is a link to what the person may not see.
    /// </summary>
    public static AccessLevel LevelAt(this Viewer viewer, Field field) =>
        viewer.Form is { } form
            ? form.Asks(field)
                ? AccessLevel.Write
                : AccessLevel.None
            : viewer.AccessAt(field.Part.RecordType).For(field).AtMost;

    /// <summary>The level that every record gives at a field.</summary>
    public static AccessLevel SureAt(this Viewer viewer, Field field) =>
        viewer.Form is not null ? viewer.LevelAt(field) : viewer.AccessAt(field.Part.RecordType).For(field).Sure;

    /// <summary>The level at a field of one record, or of one of its lines.</summary>
    public static AccessLevel LevelAt(this Viewer viewer, Field field, RecordState state, LineState? line) =>
        viewer.Form is null && state.Access is { } access ? access.LevelAt(field, line?.Key) : viewer.LevelAt(field);

    /// <summary>True when the person reads a field of every record that they may read at all.</summary>
    public static bool ReadsWhereRead(this Viewer viewer, Field field) =>
        viewer.Form is not null
            ? viewer.LevelAt(field) >= AccessLevel.Read
            : viewer.MayRead(field.Part.RecordType) && viewer.AccessAt(field.Part.RecordType).For(field).Itself.Read.IsSure;

    /// <summary>
    /// True when the person may see all that a formula reads, of any record that they may read and of all others that it reaches, and so
    /// may be told what it gives.
    /// </summary>
    public static bool MayKnow(this Viewer viewer, Formulas.Formula formula) =>
        formula.Reads.All(viewer.ReadsWhereRead) && formula.RelatedFields.All(read => viewer.SureAt(read) >= AccessLevel.Read);

    /// <summary>
    /// True when the person may be told of all values that a field holds: how many, how long, whether they fit. A field of a draft counts
    /// by what is live as well.
    /// </summary>
    public static bool ReadsAll(this Viewer viewer, Field field, Catalogue live) =>
        viewer.SureAt(field) >= AccessLevel.Read
        && (field.Target is not { } target || viewer.ReadsAll(target, live))
        && (live.FindField(field.Id) is not { } same || viewer.SureAt(same) >= AccessLevel.Read);

    /// <summary>True when the person may be told how many records of a type there are.</summary>
    public static bool ReadsAll(this Viewer viewer, RecordType type, Catalogue live) =>
        viewer.Form is null
        && viewer.AccessAt(type).For(type).Read.IsSure
        && (live.Find(type.Code) is not { } same || viewer.AccessAt(same).For(same).Read.IsSure);

    /// <summary>
    /// True when the person may be told what follows from a rule of a field, such as that it is required here, or that a record does not
    /// fit: they know all that its condition reads, or the field is opened for them. Otherwise the rule is not asked of them: whether it
    /// holds would tell.
    /// </summary>
    /// <param name="viewer">The person.</param>
    /// <param name="field">The field whose rule it is.</param>
    /// <param name="condition">The condition.</param>
    /// <param name="isRead">Says whether they read a field of the record at hand; null to ask whether they read it of every record.</param>
    public static bool MayBeTold(this Viewer viewer, Field field, Formulas.Formula condition, Func<Field, bool>? isRead = null) =>
        viewer.Form is not null
            ? !condition.Reads.Concat(condition.RelatedFields).Any(field.Part.RecordType.Guarding.Restrains)
            : viewer.AccessAt(field.Part.RecordType).IsOpened(field)
                || (
                    condition.Reads.All(isRead ?? viewer.ReadsWhereRead)
                    && condition.Watches.All(isRead ?? viewer.ReadsWhereRead)
                    && condition.RelatedFields.All(read => viewer.SureAt(read) >= AccessLevel.Read)
                );

    /// <summary>
    /// True when the person may be told which records a link offers, and whether one fits: they know all that the condition reads, of
    /// candidates and of the record at hand.
    /// </summary>
    public static bool MayBeOffered(this Viewer viewer, Field link) =>
        link.Narrowing is not { } narrowing || viewer.MayBeTold(link, narrowing.Condition);

    /// <summary>
    /// True when a field is shown to this person on the record that a frame is of: where the condition under which it is shown holds, or
    /// would tell what they may not see.
    /// </summary>
    public static bool IsShown(this Viewer viewer, Field field, Formulas.Frame frame) =>
        field.Rules.ShownWhen is not { } condition || !viewer.MayKnow(condition) || field.Rules.IsShown(frame);

    /// <summary>
    /// True unless the field is a link to records that the person may not see: it is shown then, but not what it points to.
    /// </summary>
    public static bool MaySeeThrough(this Viewer viewer, Field field) => field.Target is null || viewer.MayRead(field.Target);

    /// <summary>
    /// True when lists can be sorted, filtered and grouped by what a field holds, without telling this person more than they may see: of a
    /// link, what it points to, whichever record that is.
    /// </summary>
    public static bool MayFind(this Viewer viewer, Field field) =>
        viewer.LevelAt(field) >= AccessLevel.Read
        && (field.Target is null || (viewer.Form is null && viewer.AccessAt(field.Target).For(field.Target).Read.IsSure));

    /// <summary>True when the person may find and choose what a link points to: outside, where some of that was released.</summary>
    public static bool MayChoose(this Viewer viewer, Field link) =>
        link.Target is not null && (viewer.Form is { } form ? form.ReleasedBy(link) is not null : viewer.MayRead(link.Target));

    /// <summary>True when the person may see some records of this type.</summary>
    public static bool MayRead(this Viewer viewer, RecordType type) => viewer.LevelAt(type) >= AccessLevel.Read;

    /// <summary>True when the person may change some records of this type, or some of their fields.</summary>
    public static bool MayChange(this Viewer viewer, RecordType type) =>
        viewer.Form is null && viewer.AccessAt(type) is var access && (access.For(type).Change.IsPossible || access.MayWriteSome(type));

    /// <summary>True when the person may create records of this type.</summary>
    public static bool MayCreate(this Viewer viewer, RecordType type) =>
        viewer.Form is { } form ? form.Type == type : viewer.AccessAt(type).For(type).Create.IsPossible;

    /// <summary>True when the person may delete some records of this type.</summary>
    public static bool MayDelete(this Viewer viewer, RecordType type) =>
        viewer.Form is null && viewer.AccessAt(type).For(type).Delete.IsPossible;
}
