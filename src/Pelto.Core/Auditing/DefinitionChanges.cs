using System.Text.Json;

namespace Pelto.Core.Auditing;

/// <summary>What a change of definitions changed, element by element; where the layer for everyone places a field counts as part of the field.</summary>
public static class DefinitionChanges
{
    /// <summary>The subject of changes of the host's version.</summary>
    public const string Host = "host";

    /// <summary>All elements that differ.</summary>
    /// <param name="before">The definitions as they were.</param>
    /// <param name="after">The definitions as they became.</param>
    /// <param name="what">What was done, such as "Changed Leg angle".</param>
    public static IEnumerable<AuditNote> Of(SiteDefinition before, SiteDefinition after, string what)
    {
        AuditNote? Differs<T>(string kind, string id, T? old, T? now) where T : class => Note(kind, id, Said(old), Said(now));

        AuditNote? Note(string kind, string id, string? old, string? now) => old == now ? null : new(kind, id, what) { Before = old, After = now };

        IEnumerable<string> Ids<T>(Func<SiteDefinition, IReadOnlyList<T>> all, Func<T, string> id) => all(before).Concat(all(after)).Select(id).Distinct();

        var notes = new List<AuditNote?>();
        notes.AddRange(Ids(site => site.Fields, field => field.Id).Select(id => Note(AuditKinds.Definition, id, Placed(before, id), Placed(after, id))));
        notes.AddRange(Ids(site => site.ChoiceLists, list => list.Id).Select(id => Differs(AuditKinds.Definition, id, before.FindList(id), after.FindList(id))));
        notes.AddRange(Ids(site => site.Queries, query => query.Id).Select(id => Differs(AuditKinds.Definition, id, before.FindQuery(id), after.FindQuery(id))));
        notes.AddRange(Ids(site => site.RecordTypes, type => type.Id).Select(id => Differs(AuditKinds.Definition, id, before.FindType(id), after.FindType(id))));
        notes.AddRange(Ids(site => site.Layers, layer => layer.Id).Select(id => Differs(AuditKinds.Layer, id, before.FindLayer(id), after.FindLayer(id))));
        notes.AddRange(Ids(site => site.Guards, guard => guard.On).Select(on => Differs(AuditKinds.Access, on, before.GuardOf(on), after.GuardOf(on))));
        notes.AddRange(Ids(site => site.Grants, grant => grant.Id).Select(id => Differs(AuditKinds.Access, id, before.FindGrant(id), after.FindGrant(id))));
        notes.AddRange(Ids(site => site.Roles, role => role.Code).Select(code => Differs(AuditKinds.People, "role:" + code, before.Roles.FirstOrDefault(role => role.Code == code), after.Roles.FirstOrDefault(role => role.Code == code))));
        notes.Add(Note(AuditKinds.Definition, Host, before.Host, after.Host));
        return notes.OfType<AuditNote>();
    }

    private static string? Placed(SiteDefinition site, string id)
    {
        if (site.Find(id) is not { } field) return null;
        var json = JsonSerializer.SerializeToNode(field, SiteDefinition.Json)!.AsObject();
        if (site.PlacementOf(id) is { } placement) json["place"] = placement.Op == LayerOperation.Hide ? "on no screen" : $"after {placement.After}";
        return json.ToJsonString(SiteDefinition.Json);
    }

    private static string? Said<T>(T? element) where T : class => element is null ? null : JsonSerializer.Serialize(element, SiteDefinition.Json);
}
