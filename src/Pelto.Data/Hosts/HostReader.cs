using System.Text.Json;
using System.Text.Json.Nodes;
using Json.Schema;
using Pelto.Core.Binding;

namespace Pelto.Data.Hosts;

/// <summary>A host description that cannot be used, with what is wrong and in which file.</summary>
public sealed class HostException(string message) : Exception(message);

/// <summary>A person of the sample company who signs in.</summary>
public sealed record SamplePerson(
    string SignIn,
    string Name,
    IReadOnlyList<string> Roles,
    string Language = "",
    string Zone = "",
    string Company = ""
);

/// <summary>
/// Reads a host description from its folder: <c>host.json</c>, <c>record-types/</c>, and the sample data beside them. An update holds only
/// what it changes; the rest is read from the folder of the version that it follows.
/// </summary>
/// <param name="folder">The folder of one version, such as <c>hosts/rigging/4.2</c>.</param>
public sealed class HostReader(string folder)
{
    private const string HostFileName = "host.json";

    // Folders of the versions that follow this one, the newest first.
    private IReadOnlyList<string> followers = [];

    // What one version reads, the next one reads again: files, schemas and whole descriptions are read once for all of them.
    private Dictionary<string, JsonSchema> schemas = [];
    private Dictionary<string, RecordTypeDescription> types = [];
    private Dictionary<string, HostDescription> versions = [];

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    private sealed record HostFile(
        string Code,
        string Label,
        string Version,
        IReadOnlyList<RoleDescription> Roles,
        IReadOnlyList<string> RecordTypes,
        IReadOnlyList<CompanyDescription>? Companies,
        StockDescription? Stock,
        RatesDescription? Rates,
        string? Follows
    );

    /// <summary>The folder in which the other versions of the host stand.</summary>
    public string Family => Path.GetFullPath(Path.Combine(folder, ".."));

    /// <summary>Reads another version of the same host, and what both have but once.</summary>
    /// <param name="other">The folder of that version.</param>
    public HostReader Beside(string other) =>
        new(other)
        {
            schemas = schemas,
            types = types,
            versions = versions,
        };

    /// <summary>
    /// Reads and checks the description. Throws <see cref="HostException"/> when a file is missing or does not keep to its schema, or when
    /// the whole makes no sense.
    /// </summary>
    public HostDescription Read() =>
        versions.TryGetValue(Path.GetFullPath(folder), out var read) ? read : versions[Path.GetFullPath(folder)] = ReadAnew();

    private HostDescription ReadAnew()
    {
        var host = Parse<HostFile>(HostFileName, "host.schema.json", Merged());
        var described = host.RecordTypes.Select(code => ReadType(Path.Combine("record-types", code + ".json"))).ToList();
        var description = new HostDescription(host.Code, host.Label, host.Version, host.Roles, described)
        {
            Companies = host.Companies ?? [],
            Stock = host.Stock,
            Rates = host.Rates,
            Follows = host.Follows,
        };
        if (Earlier is { } earlier)
            description = description.Following(earlier.Read());
        var problems = Catalogue.Build(0, description, SiteDefinition.Nothing).Problems;
        return problems.Count == 0
            ? description
            : throw new HostException($"The host description in {folder} cannot be used: {problems[0].Element}: {problems[0].Sentence}");
    }

    /// <summary>The people of the sample company.</summary>
    public IReadOnlyList<SamplePerson> People() => Open(Locate("people.json")).Deserialize<List<SamplePerson>>(Json)!;

    /// <summary>The file with sample data for a table, or null when it has none.</summary>
    public string? DataFile(string table) => Locate(Path.Combine("data", table + ".csv")) is var path && File.Exists(path) ? path : null;

    private HostReader? Earlier
    {
        get
        {
            if (Open(Path.Combine(folder, HostFileName))["follows"]?.ToString() is not { } version)
                return null;
            var before = Path.Combine(Family, Path.GetFileName(version));
            return followers.Contains(before) || before == Path.GetFullPath(folder)
                ? throw new HostException($"{folder} follows itself in the end.")
                : Following(before);
        }
    }

    private HostReader Following(string before)
    {
        var earlier = Beside(before);
        earlier.followers = [.. followers, Path.GetFullPath(folder)];
        return earlier;
    }

    private RecordTypeDescription ReadType(string file)
    {
        var path = Path.GetFullPath(Locate(file));
        return types.TryGetValue(path, out var read)
            ? read
            : types[path] = Parse<RecordTypeDescription>(file, "record-type.schema.json", Open(path));
    }

    // What an update says of the host goes over what the version before it says.
    private JsonNode Merged()
    {
        var own = Open(Path.Combine(folder, HostFileName));
        if (Earlier?.Merged() is not { } merged)
            return own;
        foreach (var (property, value) in own.AsObject())
            merged[property] = value?.DeepClone();
        return merged;
    }

    private string Locate(string file)
    {
        var own = Path.Combine(folder, file);
        return File.Exists(own) ? own : Earlier?.Locate(file) ?? own;
    }

    private T Parse<T>(string file, string schemaFile, JsonNode node)
    {
        if (!schemas.TryGetValue(schemaFile, out var schema))
            schema = schemas[schemaFile] = JsonSchema.FromFile(Path.Combine(folder, "..", "..", schemaFile));
        var json = JsonSerializer.SerializeToElement(node);
        if (schema.Evaluate(json).IsValid)
            return node.Deserialize<T>(Json)!;
        var wrong = schema
            .Evaluate(json, new EvaluationOptions { OutputFormat = OutputFormat.List })
            .Details?.FirstOrDefault(detail => detail.Errors is not null);
        throw new HostException(
            $"{Path.Combine(folder, file)} does not keep to {schemaFile}: "
                + $"{wrong?.InstanceLocation} {string.Join(" ", wrong?.Errors?.Values ?? [])}"
        );
    }

    private static JsonNode Open(string path)
    {
        if (!File.Exists(path))
            throw new HostException($"The host description needs the file {path}.");
        try
        {
            return JsonNode.Parse(File.ReadAllText(path))!;
        }
        catch (JsonException wrong)
        {
            throw new HostException($"{path} is not JSON: {wrong.Message}");
        }
    }
}
