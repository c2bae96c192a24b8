namespace Pelto.Data.Hosts;

/// <summary>A version that stands in the folder and cannot be used.</summary>
/// <param name="Version">The name of its folder.</param>
/// <param name="Sentence">Why.</param>
public sealed record UnusableVersion(string Version, string Sentence);

/// <summary>
/// The versions of the host that there are: the one that databases are installed with, and all that stand in the folders beside it. Read
/// once.
/// </summary>
public sealed class HostVersions
{
    private readonly Dictionary<string, HostDescription> byVersion = new(StringComparer.Ordinal);

    /// <summary>Reads them. Throws <see cref="HostException"/> when the installed one cannot be used.</summary>
    /// <param name="reader">Reads the installed one.</param>
    public HostVersions(HostReader reader)
    {
        var installed = reader.Read();
        var (found, unusable) = (new List<HostDescription> { installed }, new List<UnusableVersion>());
        foreach (
            var folder in Directory
                .EnumerateDirectories(reader.Family)
                .Where(folder => File.Exists(Path.Combine(folder, "host.json")) && Path.GetFileName(folder) != installed.Version)
        )
        {
            try
            {
                if (
                    reader.Beside(folder).Read() is var host
                    && host.Code == installed.Code
                    && found.TrueForAll(other => other.Version != host.Version)
                )
                    found.Add(host);
            }
            catch (HostException wrong)
            {
                unusable.Add(new(Path.GetFileName(folder), wrong.Message));
            }
        }

        // From the newest back, so that each knows the codes of all that come after it.
        foreach (var host in found.OrderByDescending(host => Ordered(host.Version)).ToList())
            byVersion[host.Version] = byVersion
                .Values.Where(next => next.Follows == host.Version)
                .Aggregate(host, (before, next) => before.Knowing(next));
        (Installed, Unusable) = (byVersion[installed.Version], unusable);
        All = [.. byVersion.Values.OrderBy(host => Ordered(host.Version))];
    }

    /// <summary>The version that databases are installed with.</summary>
    public HostDescription Installed { get; }

    /// <summary>All of them, the earliest first.</summary>
    public IReadOnlyList<HostDescription> All { get; }

    /// <summary>Versions that cannot be used.</summary>
    public IReadOnlyList<UnusableVersion> Unusable { get; }

    /// <summary>Finds a version.</summary>
    public HostDescription? Find(string version) => byVersion.GetValueOrDefault(version);

    /// <summary>
    /// The version that a definition is for. One that is not there is answered with the installed one, whose catalogue then says so.
    /// </summary>
    public HostDescription For(SiteDefinition site) =>
        site.Host is { } version && byVersion.TryGetValue(version, out var host) ? host : Installed;

    private static Version Ordered(string version) =>
        Version.Parse(version.Contains('.', StringComparison.Ordinal) ? version : version + ".0");
}
