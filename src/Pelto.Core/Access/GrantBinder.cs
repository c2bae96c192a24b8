using Pelto.Core.Formulas;

namespace Pelto.Core.Access;

/// <summary>Makes guards and grants ready, once all fields are known, and says what is wrong with them.</summary>
internal sealed class GrantBinder(
    HostDescription host,
    SiteDefinition site,
    IReadOnlyList<RecordType> types,
    Guarding guarding,
    List<Problem> problems
)
{
    private static readonly Dictionary<string, DataType> ParameterTypes = new(StringComparer.Ordinal)
    {
        [Grant.PersonName] = DataType.Text,
        [Grant.CompanyName] = DataType.Text,
    };

    private readonly ILookup<string, Field> fields = types
        .SelectMany(type => type.Parts)
        .SelectMany(part => part.Fields)
        .ToLookup(field => field.Definition?.Id ?? field.Id);

    public void Bind()
    {
        foreach (var guard in site.Guards)
            Bind(guard);
        foreach (var twice in site.Guards.GroupBy(guard => guard.On, StringComparer.Ordinal).Where(group => group.Count() > 1))
            Refuse(twice.Key, "guards", $"{twice.Key} is guarded twice.");
        foreach (var grant in site.Grants)
            Bind(grant);
    }

    private void Bind(Guard guard)
    {
        if (TypeAt(guard.On) is { } type)
        {
            guarding.Add(type, guard);
            if (guard.Ending)
                Refuse(guard.On, "ending", "Only a field has an ending that can be seen.");
            return;
        }

        var found = FieldsAt(guard.On);
        if (found.Count == 0 && !IsResting(guard.On))
            Refuse(guard.On, "guards", $"There is nothing called {guard.On} to guard.");
        foreach (var field in found)
        {
            if (NameRefusal(field) is { } refusal)
                Refuse(guard.On, "guards", refusal);
            else
                guarding.Add(field, guard);
        }

        // What came from a guarded field that is not there now is guarded by it all the same.
        if (found.Count == 0)
            foreach (
                var field in types
                    .SelectMany(type => type.Parts)
                    .SelectMany(part => part.AddedFields)
                    .Where(field => field.Definition!.HeldFrom.Contains(guard.On))
            )
                guarding.Add(field, guard);

        if (
            guard.Ending
            && found is [var ended, ..]
            && (ended.Kind.DataType != DataType.Text || ended.Kind.IsChoice || ended.Kind.IsLongText)
        )
            Refuse(guard.On, "ending", "Only of a single line of text can the ending be seen.");
    }

    private void Bind(Grant grant)
    {
        var to = grant.To.Select(text => (text, audience: Audience.TryParse(text, out var audience) ? audience : null)).ToList();
        if (to.Count == 0)
            Refuse(grant.Id, "to", "Say to whom, or from whom.");
        foreach (var (text, audience) in to.Where(one => one.audience is null || !IsKnown(one.audience)))
            Refuse(grant.Id, "to", $"There is nobody called {audience?.InWords(host) ?? text} here.");
        if (grant.Does is not (Grant.Give or Grant.Withhold or Grant.Open))
            Refuse(grant.Id, "does", "A grant gives, withholds or opens.");
        if (grant.On.Count == 0)
            Refuse(grant.Id, "on", "Say which fields, or which record types.");
        if (grant.Does == Grant.Open && string.IsNullOrWhiteSpace(grant.Comment))
            Refuse(grant.Id, "comment", "Say why it is opened: whoever sees it may learn what it is calculated from.");
        var audiences = to.Select(one => one.audience).OfType<Audience>().ToList();
        if (grant.IsOnTypes)
            BindOnTypes(grant, audiences);
        else
            BindOnFields(grant, audiences);
    }

    private void BindOnTypes(Grant grant, List<Audience> to)
    {
        if (grant.Does == Grant.Open)
            Refuse(grant.Id, "does", "Only fields are opened.");
        if (grant.May is not { Count: > 0 })
            Refuse(grant.Id, "may", "Say which rights: read, create, change or delete.");
        foreach (var right in grant.May?.Where(right => !Grant.Rights.Contains(right)) ?? [])
            Refuse(grant.Id, "may", $"There is no right “{right}”: there are read, create, change and delete.");
        if (grant.Level is not null)
            Refuse(grant.Id, "level", "Record types have rights; levels are for fields.");
        foreach (var on in grant.On)
        {
            if (TypeAt(on) is not { } type)
            {
                if (!IsResting(on))
                    Refuse(grant.Id, "on", $"There is no record type {on} here; a grant is on record types or on fields.");
                continue;
            }

            if (TryCondition(grant, type.Header, out var condition))
                guarding.Add(type, new BoundGrant(grant, to, AccessLevel.None, condition));
        }
    }

    private void BindOnFields(Grant grant, List<Audience> to)
    {
        if (grant.May is not null)
            Refuse(grant.Id, "may", "Fields have levels; rights are for record types.");
        if (AccessLevels.Read(grant.Level) is not { } level)
        {
            Refuse(grant.Id, "level", "Say which level: none, masked, read or write.");
            return;
        }

        if (grant.Does != Grant.Withhold && level == AccessLevel.None)
            Refuse(grant.Id, "level", "Nothing is given by none: choose masked, read or write, or withhold it.");
        if (grant.Does == Grant.Withhold && level == AccessLevel.Write)
            Refuse(grant.Id, "level", "Nothing is withheld by write: choose none, masked or read.");
        foreach (var on in grant.On)
        {
            var found = FieldsAt(on);
            if (found.Count == 0 && !IsResting(on))
                Refuse(grant.Id, "on", $"There is no field {on} here.");
            foreach (var field in found)
            {
                if (grant.Does == Grant.Withhold && level < AccessLevel.Read && NameRefusal(field) is { } refusal)
                    Refuse(grant.Id, "on", refusal);
                else if (
                    grant.Does == Grant.Open
                    && field is { GuardedBy.Count: 0, IsThroughLink: false, Narrowing: null, Rules: { Check: null, RequiredWhen: null } }
                )
                    Refuse(
                        grant.Id,
                        "on",
                        $"{field.Label} is calculated from nothing, and no rule of it asks anything, so there is nothing to open."
                    );
                else if (TryCondition(grant, field.Part, out var condition))
                    guarding.Add(field, new BoundGrant(grant, to, level, condition));
            }
        }
    }

    private bool TryCondition(Grant grant, Part part, out Formula? condition)
    {
        condition = null;
        if (string.IsNullOrWhiteSpace(grant.When))
            return true;
        var found = new List<FormulaProblem>();
        condition = Formula.Bind(grant.When, part, found, parameters: ParameterTypes);
        foreach (var problem in found)
            Refuse(grant.Id, "when", $"At character {problem.At.From + 1}: {problem.Message}");
        if (condition is not null && condition.DataType != DataType.YesNo)
            Refuse(grant.Id, "when", "A condition gives yes or no, such as status = \"open\".");
        return condition?.DataType == DataType.YesNo;
    }

    // Links, lists and titles say these of every record that may be read at all.
    private static string? NameRefusal(Field field) =>
        !field.Part.IsLines && (field == field.Part.RecordType.Identifier || field == field.Part.RecordType.Name)
            ? $"{field.Label} is what {field.Part.RecordType.Plural.ToLowerInvariant()} are called by: "
                + "whoever may read the record reads it. Withhold the record type instead."
            : null;

    private bool IsKnown(Audience audience) =>
        audience.Kind switch
        {
            AudienceKind.Company => host.Companies.Any(company => company.Code == audience.Code),
            AudienceKind.Country => host.Companies.Any(company => company.Country == audience.Code),
            AudienceKind.Role => host.Roles.Any(role => role.Code == audience.Code),
            _ => true,
        };

    private RecordType? TypeAt(string on) =>
        on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal)
            ? types.FirstOrDefault(type => type.Code == on[Grant.TypePrefix.Length..])
            : null;

    // An added field by its definition, in all its places; or in one of them.
    private List<Field> FieldsAt(string on) =>
        fields[on] is var found && found.Any()
            ? [.. found]
            : [.. types.SelectMany(type => type.Parts).SelectMany(part => part.Fields).Where(field => field.Id == on)];

    // Out of use for now: what is said of it waits.
    private bool IsResting(string on) =>
        site.Removed.Any(removed => removed.Id == on || removed.Id.Split('@')[0] == on)
        || site.Fields.Any(field => field.Places().Any(place => field.IdIn(place) == on))
        || site.RecordTypes.Any(type => Grant.OnType(type.Code) == on);

    private void Refuse(string id, string property, string sentence)
    {
        if (!problems.Exists(problem => problem.Element == id && problem.Property == property && problem.Sentence == sentence))
            problems.Add(new(id, property, sentence));
    }
}
