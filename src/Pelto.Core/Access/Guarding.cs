using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Pelto.Core.Formulas;

namespace Pelto.Core.Access;

/// <summary>A grant as it counts for one field or record type, with its condition bound there.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="To">To whom.</param>
/// <param name="Level">For a field: the level that it gives, or leaves at most.</param>
/// <param name="When">Its condition; null for always.</param>
public sealed record BoundGrant(Grant Grant, IReadOnlyList<Audience> To, AccessLevel Level, Formula? When);

/// <summary>All guards and grants of a catalogue, by what they are about, and where each person stands under them.</summary>
public sealed class Guarding
{
    // Beyond this many different people or roles at once, what was calculated is calculated anew.
    private const int MaxCached = 2_000;

    private readonly Dictionary<RecordType, List<BoundGrant>> types = [];
    private readonly Dictionary<Field, List<BoundGrant>> fields = [];
    private readonly Dictionary<RecordType, Guard> guardedTypes = [];
    private readonly Dictionary<Field, Guard> guardedFields = [];
    private readonly Dictionary<Field, bool> restrained = [];
    private readonly ConcurrentDictionary<string, EffectiveAccess> cached = new(StringComparer.Ordinal);
    private readonly ConditionalWeakTable<Viewer, EffectiveAccess> known = [];
    private readonly HashSet<string> people = new(StringComparer.Ordinal);
    private readonly IReadOnlyList<CompanyDescription> companies;

    internal Guarding(IReadOnlyList<CompanyDescription> companies) => this.companies = companies;

    /// <summary>True when there is nothing but what the ERP and record types give.</summary>
    public bool IsPlain => types.Count == 0 && fields.Count == 0 && guardedTypes.Count == 0 && guardedFields.Count == 0;

    /// <summary>The grants on a record type, those that withhold among them.</summary>
    public IReadOnlyList<BoundGrant> On(RecordType type) => types.GetValueOrDefault(type) ?? [];

    /// <summary>The grants on a field itself.</summary>
    public IReadOnlyList<BoundGrant> On(Field field) => fields.GetValueOrDefault(field) ?? [];

    /// <summary>The guard of a record type, or null.</summary>
    public Guard? GuardOf(RecordType type) => guardedTypes.GetValueOrDefault(type);

    /// <summary>The guard of a field itself, or null.</summary>
    public Guard? GuardOf(Field field) => guardedFields.GetValueOrDefault(field);

    /// <summary>The conditions that are asked of the records of a type.</summary>
    public IEnumerable<Formula> ConditionsAt(RecordType type) =>
        On(type).Concat(type.Parts.SelectMany(part => part.Fields).SelectMany(On)).Select(grant => grant.When).OfType<Formula>();

    /// <summary>
    /// True when a guard or a withholding keeps a field from somebody: its own, its record type's, or one of what it is calculated from.
    /// </summary>
    public bool Restrains(Field field)
    {
        lock (restrained)
            return Restrains(field, []);
    }

    /// <summary>
    /// True when something is said of a field itself, or of what it is calculated from; what only follows its record type is said there.
    /// </summary>
    public bool IsAbout(Field field) => On(field).Count > 0 || Restrains(field);

    /// <summary>Where somebody stands.</summary>
    public EffectiveAccess For(Viewer viewer) => known.GetValue(viewer, Find);

    private EffectiveAccess Find(Viewer viewer)
    {
        var person = people.Contains(viewer.SignIn) ? viewer.SignIn : "";
        var key = string.Join(
            '\n',
            viewer
                .Roles.Order(StringComparer.Ordinal)
                .Append(viewer.Company)
                .Append(person)
                .Concat(viewer.Limits is { } limits ? ["", limits.Writes ? "writes" : "", .. limits.Types] : [])
        );
        if (cached.Count > MaxCached)
            cached.Clear();
        return cached.GetOrAdd(
            key,
            static (_, made) => new(made.Guarding, made.Viewer, made.Companies),
            (Guarding: this, Viewer: viewer with { PersonalLayer = null }, Companies: companies)
        );
    }

    /// <summary>The same with nothing guarded or granted: where everybody starts.</summary>
    public Guarding Start() => new(companies);

    /// <summary>The same without one grant, to see what that one does.</summary>
    public Guarding Without(Grant grant)
    {
        var without = new Guarding(companies);
        foreach (var (type, guard) in guardedTypes)
            without.Add(type, guard);
        foreach (var (field, guard) in guardedFields)
            without.Add(field, guard);
        foreach (var (type, grants) in types)
        foreach (var bound in grants.Where(bound => bound.Grant != grant))
            without.Add(type, bound);
        foreach (var (field, grants) in fields)
        foreach (var bound in grants.Where(bound => bound.Grant != grant))
            without.Add(field, bound);
        return without;
    }

    internal void Add(RecordType type, BoundGrant grant) => Put(types, type, grant);

    internal void Add(Field field, BoundGrant grant) => Put(fields, field, grant);

    internal void Add(RecordType type, Guard guard) => guardedTypes[type] = guard;

    internal void Add(Field field, Guard guard) => guardedFields[field] = guard;

    private void Put<T>(Dictionary<T, List<BoundGrant>> on, T what, BoundGrant grant)
        where T : notnull
    {
        if (!on.TryGetValue(what, out var grants))
            on[what] = grants = [];
        grants.Add(grant);
        people.UnionWith(grant.To.Where(audience => audience.Kind == AudienceKind.User).Select(audience => audience.Code));
    }

    private bool Restrains(Field field, HashSet<Field> looking)
    {
        if (restrained.TryGetValue(field, out var found))
            return found;
        if (!looking.Add(field))
            return false;
        var type = field.Part.RecordType;
        found =
            guardedFields.ContainsKey(field)
            || guardedTypes.ContainsKey(type)
            || On(field).Any(TakesReading)
            || On(type).Any(TakesReading)
            || field.GuardedBy.Any(input => Restrains(input, looking))
            || (field.IsThroughLink && field.Path.Any(step => Restrains(step, looking)));
        if (looking.Count == 1 || found)
            restrained[field] = found;
        looking.Remove(field);
        return found;
    }

    private static bool TakesReading(BoundGrant grant) =>
        grant.Grant.Does == Grant.Withhold
        && (grant.Grant.IsOnTypes ? grant.Grant.May?.Contains("read") == true : grant.Level < AccessLevel.Read);
}
