using System.Text.Json;
using System.Text.Json.Serialization;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;

namespace Pelto.Core.Releases;

/// <summary>All that a site has defined, as one document. Each element has a lasting id.</summary>
public sealed record SiteDefinition
{
    /// <summary>A site that has defined nothing yet.</summary>
    public static SiteDefinition Nothing { get; } = new();

    /// <summary>How the document is written: camel case, nothing that is empty, refusing properties that it does not know.</summary>
    public static JsonSerializerOptions Json { get; } = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        WriteIndented = true,
    };

    /// <summary>The version of the host that this is for; null for the one that is live, and before any update the one that was installed.</summary>
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
    public IReadOnlyList<Access.Guard> Guards { get; init; } = [];

    /// <summary>Who gets which access beyond, or less than, what the ERP gives by role.</summary>
    public IReadOnlyList<Access.Grant> Grants { get; init; } = [];

    /// <summary>Finds a field by its lasting id.</summary>
    public FieldDefinition? Find(string id) => Fields.FirstOrDefault(field => field.Id == id);

    /// <summary>The site with this field put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(FieldDefinition field) => this with
    {
        Fields = Find(field.Id) is null ? [.. Fields, field] : [.. Fields.Select(old => old.Id == field.Id ? field : old)],
    };

    /// <summary>Finds a choice list by its lasting id.</summary>
    public ChoiceList? FindList(string? id) => ChoiceLists.FirstOrDefault(list => list.Id == id);

    /// <summary>The site with this choice list put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(ChoiceList list) => this with
    {
        ChoiceLists = FindList(list.Id) is null ? [.. ChoiceLists, list] : [.. ChoiceLists.Select(old => old.Id == list.Id ? list : old)],
    };

    /// <summary>Finds a user-defined record type by its lasting id.</summary>
    public RecordTypeDefinition? FindType(string? id) => RecordTypes.FirstOrDefault(type => type.Id == id);

    /// <summary>The site with this record type put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(RecordTypeDefinition type) => this with
    {
        RecordTypes = FindType(type.Id) is null ? [.. RecordTypes, type] : [.. RecordTypes.Select(old => old.Id == type.Id ? type : old)],
    };

    /// <summary>Finds a query by its lasting id.</summary>
    public QueryDefinition? FindQuery(string? id) => Queries.FirstOrDefault(query => query.Id == id);

    /// <summary>The site with this query put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(QueryDefinition query) => this with
    {
        Queries = FindQuery(query.Id) is null ? [.. Queries, query] : [.. Queries.Select(old => old.Id == query.Id ? query : old)],
    };

    /// <summary>The choices that a field offers: those of its list, or its own.</summary>
    public FieldContent Resolve(FieldContent content) => content.ChoiceList is { Length: > 0 } id && FindList(id) is { } list
        ? content with { Choices = list.InOrder, MayAdd = list.MayAdd, ChoicesByLabel = list.Alphabetical } : content;

    /// <summary>The same site with each field's column decided: a field that is live and changes to another kind gets a new column, over which its values are carried.</summary>
    /// <param name="live">What is live.</param>
    /// <param name="room">What the tables hold in which they are kept.</param>
    public SiteDefinition Settled(SiteDefinition live, AddedRoom? room = null) =>
        this with { Host = Host ?? live.Host, Fields = [.. AddedTables.Settle(this, live, room ?? AddedRoom.Empty).Select(field => InColumn(field, live.Find(field.Id)))] };

    private static FieldDefinition InColumn(FieldDefinition field, FieldDefinition? old)
    {
        if (old is null) return field with { Column = 0, LastColumn = 0 };
        var goesBack = field.Column != old.Column && field.Column <= old.LastColumn;
        if (goesBack) return field with { LastColumn = old.LastColumn, DropsEarlier = false };
        return field.Kind == old.Kind ? field with { Column = old.Column, LastColumn = old.LastColumn } : field with { Column = old.LastColumn + 1, LastColumn = old.LastColumn + 1, DropsEarlier = false };
    }

    /// <summary>The site without this field and without what any layer said of it.</summary>
    public SiteDefinition Without(string id) => this with
    {
        Fields = [.. Fields.Where(field => field.Id != id)],
        Guards = [.. Guards.Where(guard => guard.On != id)],
        Grants = [.. Grants.Select(grant => grant.On.Contains(id) ? grant with { On = [.. grant.On.Where(on => on != id)] } : grant).Where(grant => grant.On.Count > 0)],
        Layers = [.. Layers.Select(layer => layer with { Operations = [.. layer.Operations.Where(operation => operation.Part != id && operation.New?.Field != id && operation.Part != LayoutSection.Lists + id)] })],
    };

    /// <summary>The site with what the layer for everyone says about one part of a screen replaced by this, or by nothing.</summary>
    public SiteDefinition Placing(string part, LayerOperation? operation)
    {
        if (operation is null && Layers.All(candidate => candidate.Audience != Layer.Everyone)) return this;
        var layer = Layers.FirstOrDefault(candidate => candidate.Audience == Layer.Everyone) ?? new Layer { Id = "site", Label = "Site" };
        var others = layer.Operations.Where(candidate => candidate.Part != part || !candidate.IsStanding);
        return With(layer with { Operations = operation is null ? [.. others] : [.. others, operation] });
    }

    /// <summary>What the layer for everyone says of a part of a screen.</summary>
    public LayerOperation? PlacementOf(string part) =>
        Layers.Where(layer => layer.Audience == Layer.Everyone).SelectMany(layer => layer.Operations).LastOrDefault(operation => operation.Part == part && operation.IsStanding);

    /// <summary>The guard of a field or a record type.</summary>
    public Access.Guard? GuardOf(string on) => Guards.FirstOrDefault(guard => guard.On == on);

    /// <summary>The site with this guard put in, or changed.</summary>
    public SiteDefinition With(Access.Guard guard) => this with { Guards = GuardOf(guard.On) is null ? [.. Guards, guard] : [.. Guards.Select(old => old.On == guard.On ? guard : old)] };

    /// <summary>Finds a grant by its lasting id.</summary>
    public Access.Grant? FindGrant(string? id) => Grants.FirstOrDefault(grant => grant.Id == id);

    /// <summary>The site with this grant put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(Access.Grant grant) => this with { Grants = FindGrant(grant.Id) is null ? [.. Grants, grant] : [.. Grants.Select(old => old.Id == grant.Id ? grant : old)] };

    /// <summary>Finds a layer by its lasting id.</summary>
    public Layer? FindLayer(string? id) => Layers.FirstOrDefault(layer => layer.Id == id);

    /// <summary>The site with this layer put in: changed when its id is known, else added at the end.</summary>
    public SiteDefinition With(Layer layer) => this with
    {
        Layers = FindLayer(layer.Id) is null ? [.. Layers, layer] : [.. Layers.Select(old => old.Id == layer.Id ? layer : old)],
    };

    /// <summary>The document as text.</summary>
    public string ToJson() => JsonSerializer.Serialize(this, Json);

    /// <summary>Reads a document. Throws <see cref="JsonException"/> when it is not one.</summary>
    public static SiteDefinition FromJson(string json) =>
        JsonSerializer.Deserialize<SiteDefinition>(json, Json) ?? throw new JsonException("The document is empty.");

    /// <summary>An element as text.</summary>
    public static string Text<T>(T element) => element is null ? "" : JsonSerializer.Serialize(element, Json);

    /// <summary>True when two elements of a definition say the same; their lists are compared by what they hold.</summary>
    public static bool Same<T>(T one, T other) => string.Equals(JsonSerializer.Serialize(one, Json), JsonSerializer.Serialize(other, Json), StringComparison.Ordinal);

    /// <summary>True when both say the same.</summary>
    public bool Says(SiteDefinition other) => string.Equals(ToJson(), other.ToJson(), StringComparison.Ordinal);
}

/// <summary>An added field, as the administrator defined it.</summary>
public sealed record FieldDefinition : FieldContent
{
    /// <summary>Lasting id; it stays when everything else changes.</summary>
    public string Id { get; init; } = "";

    /// <summary>The code of the record type that it belongs to.</summary>
    public string RecordType { get; init; } = "";

    /// <summary><c>header</c>, or the code of the part with lines.</summary>
    public string Part { get; init; } = Catalog.Part.HeaderCode;

    /// <summary>Other parts in which the same field stands: one definition, a place and a column in each.</summary>
    public IReadOnlyList<AlsoOn> AlsoOn { get; init; } = [];

    /// <summary>For what a formula fills: true when it is worked out whenever it is read, and nothing is stored; otherwise it is stored when its record is saved.</summary>
    public bool Live { get; init; }

    /// <summary>True when a document that is made from another takes the value over, where the field stands on both.</summary>
    public bool CarriedAlong { get; init; }

    /// <summary>True when it is printed with its record.</summary>
    public bool Printed { get; init; }

    /// <summary>True when it is out of use: it stands nowhere, and its data stays.</summary>
    public bool Retired { get; init; }

    /// <summary>True when the records on file that have no value get the starting value too, once it is live.</summary>
    public bool FillExisting { get; init; }

    /// <summary>Which of its columns it is kept in: 0 until it changes its kind, then a new one each time; an earlier one when that is taken back. See <see cref="SiteDefinition.Settled"/>.</summary>
    public int Column { get; init; }

    /// <summary>The newest column that it ever had.</summary>
    public int LastColumn { get; init; }

    /// <summary>Which of the tables beside its part it is kept in: see <see cref="AddedTables"/>.</summary>
    public int Table { get; init; }

    /// <summary>The code that its columns are named by, when an update of the host took that code for a field of its own; else null.</summary>
    public string? StoredAs { get; init; }

    /// <summary>True when columns of earlier kinds are dropped for good.</summary>
    public bool DropsEarlier { get; init; }

    /// <summary>True for a removed field that comes back: its saved data is read back once it is live.</summary>
    public bool ReadBack { get; init; }

    /// <summary>Lasting ids of fields that values on file came from, though nothing of it reads them any more: whoever may not read those does not read this. See <see cref="Access.Heritage"/>.</summary>
    public IReadOnlyList<string> HeldFrom { get; init; } = [];

    /// <summary>All parts in which it stands, its own first.</summary>
    public IEnumerable<AlsoOn> Places() => AlsoOn.Prepend(new AlsoOn(RecordType, Part, Printed));

    /// <summary>The lasting id of the field in one of its parts.</summary>
    public string IdIn(AlsoOn place) => place.RecordType == RecordType && place.Part == Part ? Id : $"{Id}@{place.RecordType}.{place.Part}";

    /// <summary>The name of its first column.</summary>
    [JsonIgnore]
    public string ColumnName => ColumnNameAt(Column);

    /// <summary>The name that its column had, or has, at one of its kinds.</summary>
    public string ColumnNameAt(int column) => column == 0 ? StoredAs ?? Code : $"{StoredAs ?? Code}__{(column + 1).ToString(System.Globalization.CultureInfo.InvariantCulture)}";

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "f-" + Guid.NewGuid().ToString("N")[..12];
}

/// <summary>Another part in which a field stands.</summary>
/// <param name="RecordType">The code of the record type.</param>
/// <param name="Part"><c>header</c>, or the code of the lines.</param>
/// <param name="Printed">True when it is printed there.</param>
public sealed record AlsoOn(string RecordType, string Part = Catalog.Part.HeaderCode, bool Printed = false);

/// <summary>A field that was removed for good.</summary>
/// <param name="Id">The lasting id that it had.</param>
/// <param name="Label">Its label.</param>
/// <param name="RecordType">The code of its record type.</param>
/// <param name="Part">The code of its part.</param>
/// <param name="Code">Its code.</param>
/// <param name="Columns">Names of the columns that it had. Which are dropped is said by the database: those that were made for it.</param>
/// <param name="HeldFrom">What its values came from, should it come back: see <see cref="FieldDefinition.HeldFrom"/>.</param>
public sealed record RemovedField(string Id, string Label, string RecordType, string Part, string Code, IReadOnlyList<string> Columns, IReadOnlyList<string>? HeldFrom = null);

/// <summary>Choices that several fields can share.</summary>
public sealed record ChoiceList
{
    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What people call it.</summary>
    public string Label { get; init; } = "";

    /// <summary>True when choices are offered in the order of their labels, rather than as they stand here.</summary>
    public bool Alphabetical { get; init; }

    /// <summary>True when people may add a choice while they enter a record.</summary>
    public bool MayAdd { get; init; }

    /// <summary>The choices.</summary>
    public IReadOnlyList<Values.Choice> Choices { get; init; } = [];

    /// <summary>The choices as they are offered.</summary>
    [JsonIgnore]
    public IReadOnlyList<Values.Choice> InOrder => Alphabetical ? [.. Choices.OrderBy(choice => choice.Label, StringComparer.InvariantCultureIgnoreCase)] : Choices;

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "l-" + Guid.NewGuid().ToString("N")[..12];
}
