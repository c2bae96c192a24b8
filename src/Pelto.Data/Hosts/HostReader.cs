using System.Text.Json;
using Json.Schema;
using Pelto.Core.Catalog;
using Pelto.Core.Releases;

namespace Pelto.Data.Hosts;

/// <summary>A host description that cannot be used, with what is wrong and in which file.</summary>
public sealed class HostException(string message) : Exception(message);

/// <summary>A person of the sample company who signs in.</summary>
public sealed record SamplePerson(string SignIn, string Name, IReadOnlyList<string> Roles, string Language = "", string Zone = "", string Company = "");

/// <summary>Reads a host description from its folder: <c>host.json</c>, <c>record-types/</c>, and the sample data beside them.</summary>
/// <param name="folder">The folder of one version, such as <c>hosts/rigging/4.2</c>.</param>
public sealed class HostReader(string folder)
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    private sealed record HostFile(string Code, string Label, string Version, IReadOnlyList<RoleDescription> Roles, IReadOnlyList<string> RecordTypes, IReadOnlyList<CompanyDescription>? Companies, StockDescription? Stock, RatesDescription? Rates);

    /// <summary>Reads and checks the description. Throws <see cref="HostException"/> when a file is missing or does not keep to its schema, or when the whole makes no sense.</summary>
    public HostDescription Read()
    {
        var host = Read<HostFile>("host.json", "host.schema.json");
        var types = host.RecordTypes.Select(code => Read<RecordTypeDescription>(Path.Combine("record-types", code + ".json"), "record-type.schema.json")).ToList();
        var description = new HostDescription(host.Code, host.Label, host.Version, host.Roles, types) { Companies = host.Companies ?? [], Stock = host.Stock, Rates = host.Rates };
        var problems = Catalogue.Build(0, description, SiteDefinition.Nothing).Problems;
        return problems.Count == 0 ? description : throw new HostException($"The host description in {folder} cannot be used: {problems[0].Element}: {problems[0].Sentence}");
    }

    /// <summary>The people of the sample company.</summary>
    public IReadOnlyList<SamplePerson> People() => Parse<List<SamplePerson>>("people.json");

    /// <summary>The file with sample data for a table, or null when it has none.</summary>
    public string? DataFile(string table) => Path.Combine(folder, "data", table + ".csv") is var path && File.Exists(path) ? path : null;

    private T Read<T>(string file, string schemaFile)
    {
        var schema = JsonSchema.FromFile(Path.Combine(folder, "..", "..", schemaFile));
        using var document = Open(file);
        var result = schema.Evaluate(document.RootElement, new EvaluationOptions { OutputFormat = OutputFormat.List });
        if (result.IsValid) return Parse<T>(file);
        var wrong = result.Details?.FirstOrDefault(detail => detail.Errors is not null);
        throw new HostException($"{Path.Combine(folder, file)} does not keep to {schemaFile}: {wrong?.InstanceLocation} {string.Join(" ", wrong?.Errors?.Values ?? [])}");
    }

    private T Parse<T>(string file) => JsonSerializer.Deserialize<T>(File.ReadAllText(Path.Combine(folder, file)), Json)!;

    private JsonDocument Open(string file)
    {
        var path = Path.Combine(folder, file);
        if (!File.Exists(path)) throw new HostException($"The host description needs the file {path}.");
        try
        {
            return JsonDocument.Parse(File.ReadAllText(path));
        }
        catch (JsonException wrong)
        {
            throw new HostException($"{path} is not JSON: {wrong.Message}");
        }
    }
}
