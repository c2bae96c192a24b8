using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace Pelto.Core.Definitions;

/// <summary>All that a site has defined, as one document. Each element has a lasting id.</summary>
public sealed record SiteDefinition
{
    /// <summary>A site that has defined nothing yet.</summary>
    public static SiteDefinition Nothing { get; } = new();

    /// <summary>How the document is written: camel case, nothing that is empty, refusing properties that it does not know.</summary>
    public static JsonSerializerOptions Json { get; } =
        new(JsonSerializerDefaults.Web)
        {
            DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
            UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
            Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
            WriteIndented = true,
        };

    /// <summary>
    /// The version of the host that this is for; null for the one that is live, and before any update the one that was installed.
    /// </summary>
    public string? Host { get; init; }

    /// <summary>The added fields, in the order in which they were defined.</summary>
    public IReadOnlyList<FieldDefinition> Fields { get; init; } = [];

    /// <summary>User-defined record types, in the order of the menu, after the built-in ones.</summary>
    public IReadOnlyList<RecordTypeDefinition> RecordTypes { get; init; } = [];

    /// <summary>Lists of choices that several fields can share.</summary>
    public IReadOnlyList<ChoiceList> ChoiceLists { get; init; } = [];

    /// <summary>Saved questions to the database.</summary>
    public IReadOnlyList<QueryDefinition> Queries { get; init; } = [];

    /// <summary>Fields that were removed for good, with their columns; whoever reads the history finds them here.</summary>
    public IReadOnlyList<RemovedField> Removed { get; init; } = [];

    /// <summary>Sets of placement changes, each for an audience. Of two for the same kind of audience, the later one wins.</summary>
    public IReadOnlyList<Layer> Layers { get; init; } = [];

    /// <summary>Roles beyond those of the host.</summary>
    public IReadOnlyList<RoleDescription> Roles { get; init; } = [];

    /// <summary>Fields and record types that are kept from everybody until grants give them.</summary>
    public IReadOnlyList<Guard> Guards { get; init; } = [];

    /// <summary>Who gets which access beyond, or less than, what the ERP gives by role.</summary>
    public IReadOnlyList<Grant> Grants { get; init; } = [];

    /// <summary>Links in the menu, in its order.</summary>
    public IReadOnlyList<Shortcut> Shortcuts { get; init; } = [];

    /// <summary>All that it defines, sort by sort.</summary>
    public IEnumerable<ISiteElement> Elements() =>
        [.. RecordTypes, .. Fields, .. Removed, .. ChoiceLists, .. Queries, .. Layers, .. Guards, .. Grants, .. Roles, .. Shortcuts];

    /// <summary>Finds a field by its lasting id.</summary>
    public FieldDefinition? Find(string id) =>
        Fields.Count <= Few
            ? Fields.FirstOrDefault(field => field.Id == id)
            : ById.GetValue(Fields, static fields => Index(fields)).GetValueOrDefault(id);

    private static Dictionary<string, FieldDefinition> Index(IReadOnlyList<FieldDefinition> fields) =>
        fields.DistinctBy(field => field.Id).ToDictionary(field => field.Id, StringComparer.Ordinal);

    // A plan over thousands of fields asks for each of them many times over.
    private const int Few = 16;
    private static readonly ConditionalWeakTable<IReadOnlyList<FieldDefinition>, Dictionary<string, FieldDefinition>> ById = [];

    /// <summary>The site with this field put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(FieldDefinition field) => this with { Fields = Put(Fields, field) };

    /// <summary>Finds a choice list by its lasting id.</summary>
    public ChoiceList? FindList(string? id) => ChoiceLists.FirstOrDefault(list => list.Id == id);

    /// <summary>The site with this choice list put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(ChoiceList list) => this with { ChoiceLists = Put(ChoiceLists, list) };

    /// <summary>Finds a user-defined record type by its lasting id.</summary>
    public RecordTypeDefinition? FindType(string? id) => RecordTypes.FirstOrDefault(type => type.Id == id);

    /// <summary>The site with this record type put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(RecordTypeDefinition type) => this with { RecordTypes = Put(RecordTypes, type) };

    /// <summary>Finds a query by its lasting id.</summary>
    public QueryDefinition? FindQuery(string? id) => Queries.FirstOrDefault(query => query.Id == id);

    /// <summary>The site with this query put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(QueryDefinition query) => this with { Queries = Put(Queries, query) };

    /// <summary>The choices that a field offers: those of its list, or its own.</summary>
    public FieldContent Resolve(FieldContent content) =>
        content.ChoiceList is { Length: > 0 } id && FindList(id) is { } list
            ? content with
            {
                Choices = list.InOrder,
                MayAdd = list.MayAdd,
                ChoicesByLabel = list.Alphabetical,
            }
            : content;

    /// <summary>The site without this field and without what any layer said of it.</summary>
    public SiteDefinition Without(string id) =>
        this with
        {
            Fields = [.. Fields.Where(field => field.Id != id)],
            Guards = [.. Guards.Where(guard => guard.On != id)],
            Grants =
            [
                .. Grants
                    .Select(grant => grant.On.Contains(id) ? grant with { On = [.. grant.On.Where(on => on != id)] } : grant)
                    .Where(grant => grant.On.Count > 0),
            ],
            Layers =
            [
                .. Layers.Select(layer =>
                    layer with
                    {
                        Operations =
                        [
                            .. layer.Operations.Where(operation =>
                                operation.Part != id && operation.New?.Field != id && operation.Part != PartNames.Pointing + id
                            ),
                        ],
                    }
                ),
            ],
        };

    /// <summary>The site with what the layer for everyone says about one part of a screen replaced by this, or by nothing.</summary>
    public SiteDefinition Placing(string part, LayerOperation? operation)
    {
        if (operation is null && Layers.All(candidate => candidate.Audience != Layer.Everyone))
            return this;
        var layer = Layers.FirstOrDefault(candidate => candidate.Audience == Layer.Everyone) ?? new Layer { Id = "site", Label = "Site" };
        var others = layer.Operations.Where(candidate => candidate.Part != part || !candidate.IsStanding);
        return With(layer with { Operations = operation is null ? [.. others] : [.. others, operation] });
    }

    /// <summary>What the layer for everyone says of a part of a screen.</summary>
    public LayerOperation? PlacementOf(string part) =>
        Layers
            .Where(layer => layer.Audience == Layer.Everyone)
            .SelectMany(layer => layer.Operations)
            .LastOrDefault(operation => operation.Part == part && operation.IsStanding);

    /// <summary>The guard of a field or a record type.</summary>
    public Guard? GuardOf(string on) => Guards.FirstOrDefault(guard => guard.On == on);

    /// <summary>The site with this guard put in, or changed.</summary>
    public SiteDefinition With(Guard guard) => this with { Guards = Put(Guards, guard) };

    /// <summary>Finds a grant by its lasting id.</summary>
    public Grant? FindGrant(string? id) => Grants.FirstOrDefault(grant => grant.Id == id);

    /// <summary>The site with this grant put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(Grant grant) => this with { Grants = Put(Grants, grant) };

    /// <summary>Finds a layer by its lasting id.</summary>
    public Layer? FindLayer(string? id) => Layers.FirstOrDefault(layer => layer.Id == id);

    /// <summary>The site with this layer put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(Layer layer) => this with { Layers = Put(Layers, layer) };

    // Changed where it is, else at the end.
    private static IReadOnlyList<T> Put<T>(IReadOnlyList<T> all, T element)
        where T : ISiteElement
    {
        var list = all.ToList();
        var at = list.FindIndex(old => old.ElementId == element.ElementId);
        if (at < 0)
            list.Add(element);
        else
            list[at] = element;
        return list;
    }

    /// <summary>The document as text.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, Json);

    /// <summary>Reads a document. Throws <see cref="JsonException"/> when it is not one.</summary>
    public static SiteDefinition FromJson(string json) =>
        JsonSerializer.Deserialize<SiteDefinition>(json, Json) ?? throw new JsonException("The document is empty.");

    /// <summary>An element as text.</summary>
    public static string Text<T>(T element) => element is null ? "" : JsonSerializer.Serialize(element, Json);

    /// <summary>True when two elements of a definition say the same; their lists are compared by what they hold.</summary>
    public static bool Same<T>(T one, T other) =>
        string.Equals(JsonSerializer.Serialize(one, Json), JsonSerializer.Serialize(other, Json), StringComparison.Ordinal);

    /// <summary>True when both say the same.</summary>
    public bool IsSameAs(SiteDefinition other) => string.Equals(ToJson(), other.ToJson(), StringComparison.Ordinal);
}
