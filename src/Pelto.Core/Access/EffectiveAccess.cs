using System.Collections.Concurrent;

namespace Pelto.Core.Access;

/// <summary>What somebody may do with the records of a type.</summary>
public sealed record TypeAccess(Decision Read, Decision Create, Decision Change, Decision Delete);

/// <summary>What somebody may do with a field: know that it is there, read it, write it in a record on file and in a new one.</summary>
public sealed record FieldAccess(Decision Visible, Decision Read, Decision Write, Decision WriteNew)
{
    /// <summary>Whether it is seen and read as far as it and what is behind it decide, whichever records may be read.</summary>
    internal (Decision Seen, Decision Read) Itself { get; init; } = (Decision.Never, Decision.Never);

    /// <summary>The highest level that some record gives.</summary>
    public AccessLevel AtMost => WriteNew.IsPossible ? AccessLevel.Write : OnFile;

    /// <summary>The highest level that some record on file gives.</summary>
    public AccessLevel OnFile { get; } =
        Write.IsPossible ? AccessLevel.Write
        : Read.IsPossible ? AccessLevel.Read
        : Visible.IsPossible ? AccessLevel.Masked
        : AccessLevel.None;

    /// <summary>The level that every record on file gives.</summary>
    public AccessLevel Sure { get; } =
        Write.IsSure ? AccessLevel.Write
        : Read.IsSure ? AccessLevel.Read
        : Visible.IsSure ? AccessLevel.Masked
        : AccessLevel.None;

    /// <summary>True when the record decides.</summary>
    public bool IsConditional => Visible.IsConditional || Read.IsConditional || Write.IsConditional || WriteNew.IsConditional;
}

/// <summary>
/// Where people with the same roles, of one company, stand under all guards and grants; calculated once and kept with the catalogue.
/// </summary>
/// <remarks>
/// The rule: a record type, and a field through it, starts with what the ERP gives by role, unless it is guarded; administrators have all.
/// Of several grants the highest counts.
/// What is withheld is withheld, whoever gives it. What is calculated from others needs all of them readable, on the same record or on
/// every one, unless it is opened.
/// </remarks>
public sealed class EffectiveAccess
{
    private const string EveryRole = "*";

    private readonly Guarding guarding;
    private readonly Viewer viewer;
    private readonly IReadOnlyList<CompanyDescription> companies;
    private readonly ConcurrentDictionary<RecordType, TypeAccess> types = new();
    private readonly ConcurrentDictionary<Field, FieldAccess> fields = new();
    private readonly ConcurrentDictionary<RecordType, AccessLevel> levels = new();
    private readonly ConcurrentDictionary<RecordType, IReadOnlyList<Field>> conditional = new();

    internal EffectiveAccess(Guarding guarding, Viewer viewer, IReadOnlyList<CompanyDescription> companies) =>
        (this.guarding, this.viewer, this.companies) = (guarding, viewer, companies);

    /// <summary>What they may do with the records of a type.</summary>
    public TypeAccess For(RecordType type) => types.GetOrAdd(type, Resolve);

    /// <summary>What they may do with a field.</summary>
    public FieldAccess For(Field field) => fields.TryGetValue(field, out var known) ? known : Resolve(field, []);

    /// <summary>The highest level at a record type: write for who changes, creates, or may write one of its fields.</summary>
    public AccessLevel LevelAt(RecordType type) => levels.GetOrAdd(type, found => For(found) is var of && of.Change.IsPossible
            || of.Create.IsPossible
            || (of.Read.IsPossible && MayWriteSome(found))
                ? AccessLevel.Write
            : of.Read.IsPossible ? AccessLevel.Read
            : AccessLevel.None);

    /// <summary>True when a field is opened for them on every record: with it, what follows from its rules.</summary>
    public bool IsOpened(Field field) => Opened([.. guarding.On(field).Where(IsOf)]).IsSure;

    private static Decision Opened(List<BoundGrant> mine) => Decided(false, [.. mine.Where(grant => grant.Grant.Does == Grant.Open)], []);

    /// <summary>What must be readable with a field: what it is calculated from, or the way on which it is seen.</summary>
    public IEnumerable<Field> BehindOf(Field field) => InputsOf(field).Select(input => input.Input);

    /// <summary>The fields of a type at which the record decides.</summary>
    public IReadOnlyList<Field> ConditionalOf(RecordType type) =>
        conditional.GetOrAdd(type, found => [.. found.Parts.SelectMany(part => part.Fields).Where(field => For(field).IsConditional)]);

    /// <summary>True when the record decides over itself or some of its fields.</summary>
    public bool IsConditional(RecordType type) =>
        For(type) is var of && (of.Read.IsConditional || of.Change.IsConditional || of.Delete.IsConditional || of.Create.IsConditional)
        || ConditionalOf(type).Count > 0;

    /// <summary>True for an audience that these people belong to.</summary>
    public bool IsOf(BoundGrant grant) => grant.To.Any(audience => audience.Holds(viewer, companies));

    /// <summary>True when the ERP, or the definition of the record type, gives this right.</summary>
    public bool Starts(RecordType type, string right)
    {
        var access = type.Description.Access;
        if (type.Description.Maintained && right != "read")
            return false;
        if (viewer.IsAdministrator)
            return true;
        if (guarding.GuardOf(type) is not null)
            return false;
        return right switch
        {
            "read" => Has(access.Read) || Starts(type, "change") || Starts(type, "create"),
            "change" => Has(access.Write),
            "create" => Has(access.Create ?? access.Write),
            _ => Has(access.Delete ?? access.Write),
        };
    }

    private bool Has(IReadOnlyList<string> roles) =>
        viewer.Roles.Count > 0 && roles.Any(role => role == EveryRole || viewer.Roles.Contains(role));

    /// <summary>True when grants let some field be written, whatever may be done with the record.</summary>
    public bool MayWriteSome(RecordType type) =>
        type.Parts.SelectMany(part => part.Fields).Any(field => guarding.On(field).Count > 0 && For(field) is { Write.IsPossible: true });

    // What grants say of a right at a record type; whoever may do anything with records may read them.
    private (List<BoundGrant> Gives, List<BoundGrant> Takes) GrantsOf(RecordType type, string right)
    {
        var mine = guarding.On(type).Where(IsOf).ToList();
        if (type.Description.Maintained && right != "read")
            return ([], []);
        return (
            [
                .. mine.Where(grant =>
                    grant.Grant.Does == Grant.Give
                    && (right == "read" ? grant.Grant.May is { Count: > 0 } : grant.Grant.May?.Contains(right) == true)
                ),
            ],
            [.. mine.Where(grant => grant.Grant.Does == Grant.Withhold && grant.Grant.May?.Contains(right) == true)]
        );
    }

    private TypeAccess Resolve(RecordType type)
    {
        Decision For(string right) =>
            GrantsOf(type, right) is var (gives, takes) ? Decided(Starts(type, right), gives, takes) : Decision.Never;
        if (viewer.Limits is { } limits)
        {
            if (limits.Types.Count > 0 && !limits.Types.Contains(type.Code))
                return new(Decision.Never, Decision.Never, Decision.Never, Decision.Never);
            if (!limits.Writes)
                return new(For("read"), Decision.Never, Decision.Never, Decision.Never);
        }

        var read = For("read");
        return new(read, For("create").And(read), For("change").And(read), For("delete").And(read));
    }

    private FieldAccess Resolve(Field field, HashSet<Field> looking)
    {
        if (fields.TryGetValue(field, out var known))
            return known;

        // What reads itself is refused when it is defined; until then nobody is told anything.
        if (!looking.Add(field))
            return new(Decision.Never, Decision.Never, Decision.Never, Decision.Never);
        var type = field.Part.RecordType;
        var mine = guarding.On(field).Where(IsOf).ToList();
        var starts = guarding.GuardOf(field) is null || viewer.IsAdministrator;
        var (seen, read) = (OwnRecords(mine, starts, AccessLevel.Masked), OwnRecords(mine, starts, AccessLevel.Read));
        var opened = Opened(mine);
        foreach (var (input, isHere) in InputsOf(field))
        {
            var (inputSeen, inputRead) = Behind(field, input, Resolve(input, looking));
            seen = seen.And(Inherited(inputSeen, isHere).Or(opened));
            read = read.And(Inherited(inputRead, isHere).Or(opened));
        }

        if (field.IsThroughLink && field.Path.SkipLast(1).Any(link => link.Target is { } target && !For(target).Read.IsSure))
            read = read.And(opened);
        var itself = (seen, read);
        (seen, read) = (For(type).Read.And(seen), For(type).Read.And(read));
        var isTyped =
            viewer.Limits?.Writes != false
            && field.IsTyped
            && !type.Description.Maintained
            && (field.Target is null || For(field.Target).Read.IsPossible);
        var made = new FieldAccess(seen, read, isTyped ? Writes("change") : Decision.Never, isTyped ? Writes("create") : Decision.Never)
        {
            Itself = itself,
        };
        looking.Remove(field);
        return fields[field] = made;

        // Writing starts with what one may do with the record; a grant on the field can give it alone, and what withholds the one withholds
        // the other.
        Decision Writes(string right)
        {
            var (gives, takes) = GrantsOf(type, right);
            var own = Decided(
                starts && Starts(type, right),
                [.. starts ? gives : [], .. mine.Where(grant => grant.Grant.Does != Grant.Withhold && grant.Level >= AccessLevel.Write)],
                [.. takes, .. mine.Where(grant => grant.Grant.Does == Grant.Withhold && grant.Level < AccessLevel.Write)]
            );
            return read.And(own).And(Narrowed(field, looking).Or(opened));
        }
    }

    /// <summary>Whether what a field is calculated from is read, as far as that counts for the field.</summary>
    public Decision ReadBehind(Field field, Field input) => Behind(field, input, For(input)).Read;

    // What the ERP took over from another record stands in this one, which they may read: only fields are guarded there, not records.
    private (Decision Seen, Decision Read) Behind(Field field, Field input, FieldAccess of) =>
        field.IsAdded || !For(input.Part.RecordType).Read.IsPossible ? (of.Visible, of.Read) : of.Itself;

    // What must be readable with it; the second part says whether it stands on the same record. A built-in field that no guard is behind is
    // as the ERP has it.
    private IEnumerable<(Field Input, bool IsHere)> InputsOf(Field field) =>
        field.IsThroughLink
            ? field.Path.Select((step, at) => (step, at == 0))
            : (field.IsAdded ? field.GuardedBy : field.GuardedBy.Where(guarding.Restrains)).Select(input =>
                (input, field.ReadsHere(input))
            );

    // Elsewhere it is not known which record is read: then it must be readable on all.
    private static Decision Inherited(Decision input, bool isHere) => isHere || input.IsSure ? input : Decision.Never;

    // Which records a link offers tells what their condition reads.
    private Decision Narrowed(Field field, HashSet<Field> looking) =>
        field.Narrowing is { } narrowing
        && narrowing
            .Condition.Reads.Concat(narrowing.Condition.RelatedFields)
            .Where(guarding.Restrains)
            .Any(read => !Resolve(read, looking).Read.IsSure)
            ? Decision.Never
            : Decision.Sure;

    private static Decision OwnRecords(List<BoundGrant> mine, bool starts, AccessLevel level) =>
        Decided(
            starts,
            [.. mine.Where(grant => grant.Grant.Does != Grant.Withhold && grant.Level >= level)],
            [.. mine.Where(grant => grant.Grant.Does == Grant.Withhold && grant.Level < level)]
        );

    private static Decision Decided(bool starts, List<BoundGrant> gives, List<BoundGrant> takes)
    {
        var decision = starts ? Decision.Sure : Decision.Never;
        foreach (var grant in gives)
            decision = decision.Or(grant.When is { } condition ? Decision.Where(condition) : Decision.Sure);
        foreach (var grant in takes)
            decision = decision.And(grant.When is { } condition ? Decision.Unless(condition) : Decision.Never);
        return decision;
    }
}
