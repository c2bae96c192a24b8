namespace Pelto.Core.Access;

/// <summary>Something about access that the administrator should know of.</summary>
/// <param name="Kind">What kind of thing: <see cref="Detour"/>, <see cref="Locked"/>, <see cref="Required"/> or <see cref="Idle"/>.</param>
/// <param name="Sentence">What it is, for people.</param>
/// <param name="Field">The field that it is about; null for a record type.</param>
/// <param name="Element">The grant, or the field, that it comes from.</param>
public sealed record AccessGap(string Kind, string Sentence, Field? Field, string Element)
{
    /// <summary>A guarded value can be learnt another way.</summary>
    public const string Detour = "detour";

    /// <summary>Nobody but administrators can write a field that people type.</summary>
    public const string Locked = "locked";

    /// <summary>Somebody must fill what they may not write.</summary>
    public const string Required = "required";

    /// <summary>A grant changes nothing for anybody.</summary>
    public const string Idle = "idle";
}

/// <summary>Finds gaps in the guards and grants of a catalogue by itself.</summary>
public sealed class Gaps(Catalogue catalogue, IReadOnlyList<Viewer> people)
{
    /// <summary>All of them: detours first.</summary>
    public IReadOnlyList<AccessGap> All() => [.. Detours(), .. Required(), .. Locked(), .. Idle()];

    /// <summary>Somebody for each role of the host, to ask what a role gives by itself.</summary>
    public static IEnumerable<Viewer> OfRoles(HostDescription host) => host.Roles.Select(Viewer.For);

    private IEnumerable<Field> Fields => catalogue.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.Fields);

    // What is opened tells of what it is calculated from; and what is asked in conditions shows by what follows.
    private IEnumerable<AccessGap> Detours()
    {
        var guarding = catalogue.Guarding;
        foreach (var field in Fields)
        {
            foreach (var grant in guarding.On(field).Where(grant => grant.Grant.Does == Grant.Open))
            {
                var hidden = Behind(field, [])
                    .Where(guarding.Restrains)
                    .Where(input =>
                        people.Any(person => person.AccessAt(field.Part.RecordType).IsOf(grant) && person.SureAt(input) < AccessLevel.Read)
                    )
                    .ToList();
                if (hidden.Count > 0)
                    yield return new(
                        AccessGap.Detour,
                        $"{GrantWords.Named(field)} is opened for {GrantWords.Whom(catalogue, grant.Grant)}: "
                            + "from it and what it is calculated from, "
                            + $"they can learn {GrantWords.Listed([.. hidden.Select(GrantWords.Named)])}, which they may not read.",
                        field,
                        grant.Grant.Id
                    );
            }

            var asked = new[] { (field.Rules.RequiredWhen, "whether it is required"), (field.Rules.Check, "whether a record is taken") };
            foreach (var (condition, tells) in asked.Where(one => one.Item1 is not null))
            foreach (
                var input in condition!
                    .Reads.Concat(condition.RelatedFields)
                    .Where(input => input != field && guarding.Restrains(input))
                    .Distinct()
            )
                if (people.Any(person => person.LevelAt(field) == AccessLevel.Write && person.SureAt(input) < AccessLevel.Read))
                    yield return new(
                        AccessGap.Detour,
                        $"A rule of {GrantWords.Named(field)} asks {GrantWords.Named(input)}: "
                            + $"{tells} tells people something of it who may not read it.",
                        field,
                        field.Definition?.Id ?? field.Id
                    );
        }

        foreach (var grant in catalogue.Site.Grants.Where(grant => grant.Does != Grant.Withhold && !string.IsNullOrWhiteSpace(grant.When)))
        foreach (var (field, input) in FieldsOf(grant))
            yield return new(
                AccessGap.Detour,
                $"“{GrantWords.Sentence(catalogue, grant)}” asks {GrantWords.Named(input)}: "
                    + "whether it holds tells people something of it who may not read it.",
                field,
                grant.Id
            );
    }

    private IEnumerable<(Field? Field, Field Input)> FieldsOf(Grant grant)
    {
        var bound = catalogue
            .RecordTypes.SelectMany(type => catalogue.Guarding.On(type).Select(one => (Field: (Field?)null, Bound: one, Type: type)))
            .Concat(
                Fields.SelectMany(field =>
                    catalogue.Guarding.On(field).Select(one => (Field: (Field?)field, Bound: one, Type: field.Part.RecordType))
                )
            );
        foreach (var (field, one, type) in bound.Where(one => one.Bound.Grant == grant && one.Bound.When is not null))
        foreach (var input in one.When!.Reads.Concat(one.When.RelatedFields).Where(catalogue.Guarding.Restrains).Distinct())
            if (people.Any(person => person.AccessAt(type).IsOf(one) && person.SureAt(input) < AccessLevel.Read))
                yield return (field, input);
    }

    private static IEnumerable<Field> Behind(Field field, HashSet<Field> known) =>
        (field.IsThroughLink ? field.Path : field.GuardedBy)
            .Concat(field.Narrowing is { } narrowing ? narrowing.Condition.Reads.Concat(narrowing.Condition.RelatedFields) : [])
            .Where(known.Add)
            .ToList()
            .SelectMany(input => Behind(input, known).Prepend(input));

    // Whoever creates records must be able to fill what is required in them.
    private IEnumerable<AccessGap> Required() =>
        from field in Fields
        where
            field is { Required: true, IsTyped: true, IsFilled: false }
            && string.IsNullOrWhiteSpace(field.Content.DefaultValue)
            && catalogue.Guarding.GuardOf(field) is not null
                | catalogue.Guarding.On(field).Count > 0
                | catalogue.Guarding.GuardOf(field.Part.RecordType) is not null
        let stuck = people
            .Where(person =>
                !person.IsAdministrator
                && person.MayCreate(field.Part.RecordType)
                && !person.AccessAt(field.Part.RecordType).For(field).WriteNew.IsPossible
            )
            .Select(person => person.Name)
            .Distinct()
            .ToList()
        where stuck.Count > 0
        select new AccessGap(
            AccessGap.Required,
            $"{GrantWords.Named(field)} is required, and {GrantWords.Listed(stuck)} may create "
                + $"{field.Part.RecordType.Plural.ToLowerInvariant()} but not write it: they cannot save one.",
            field,
            field.Definition?.Id ?? field.Id
        );

    private IEnumerable<AccessGap> Locked() =>
        from field in Fields
        where
            field.IsTyped
            && (catalogue.Guarding.GuardOf(field) is not null || catalogue.Guarding.On(field).Count > 0)
            && !field.Part.RecordType.Description.Maintained
        where people.All(person => person.IsAdministrator || person.LevelAt(field) < AccessLevel.Write)
        select new AccessGap(
            AccessGap.Locked,
            $"Nobody but administrators can write {GrantWords.Named(field)}.",
            field,
            field.Definition?.Id ?? field.Id
        );

    // Everybody stands the same with it and without it.
    private IEnumerable<AccessGap> Idle()
    {
        foreach (var grant in catalogue.Site.Grants)
        {
            var without = catalogue.Guarding.Without(grant);
            var types = catalogue.RecordTypes.Where(type => catalogue.Guarding.On(type).Any(bound => bound.Grant == grant)).ToList();
            var fields = Fields.Where(field => catalogue.Guarding.On(field).Any(bound => bound.Grant == grant)).ToList();
            if (types.Count + fields.Count == 0)
                continue;
            var meant = people
                .Where(person =>
                    grant.To.Any(text => Audience.TryParse(text, out var audience) && audience.Holds(person, catalogue.Host.Companies))
                )
                .ToList();
            if (meant.Count == 0)
                yield return new(
                    AccessGap.Idle,
                    $"“{GrantWords.Sentence(catalogue, grant)}” is for nobody who is here.",
                    fields.FirstOrDefault(),
                    grant.Id
                );
            else if (
                meant.All(person =>
                    types.TrueForAll(type => Same(catalogue.Guarding.For(person).For(type), without.For(person).For(type)))
                    && fields.TrueForAll(field => Same(catalogue.Guarding.For(person).For(field), without.For(person).For(field)))
                )
            )
                yield return new(
                    AccessGap.Idle,
                    $"“{GrantWords.Sentence(catalogue, grant)}” changes nothing for anybody{Reason(grant, fields, meant)}.",
                    fields.FirstOrDefault(),
                    grant.Id
                );
        }
    }

    private static string Reason(Grant grant, List<Field> fields, List<Viewer> meant) =>
        grant.Does == Grant.Withhold ? ": they do not have it without it either"
        : fields.Find(field => meant.TrueForAll(person => !person.MayRead(field.Part.RecordType))) is { } unread
            ? $": they may not read {unread.Part.RecordType.Plural.ToLowerInvariant()} at all"
        : fields.Exists(field => meant.TrueForAll(person => person.LevelAt(field) < AccessLevel.Read))
            ? ": it is withheld, or calculated from what they may not read"
        : ": they have it in any case";

    private static bool Same(TypeAccess one, TypeAccess other) =>
        Same(one.Read, other.Read) && Same(one.Create, other.Create) && Same(one.Change, other.Change) && Same(one.Delete, other.Delete);

    private static bool Same(FieldAccess one, FieldAccess other) =>
        Same(one.Visible, other.Visible)
        && Same(one.Read, other.Read)
        && Same(one.Write, other.Write)
        && Same(one.WriteNew, other.WriteNew);

    // Two that the record decides are taken for different: what they ask is not compared.
    private static bool Same(Decision one, Decision other) => !one.IsConditional && !other.IsConditional && one.IsSure == other.IsSure;
}
