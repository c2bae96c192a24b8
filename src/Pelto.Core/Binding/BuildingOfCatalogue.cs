namespace Pelto.Core.Binding;

/// <summary>What builds a catalogue.</summary>
public static class BuildingOfCatalogue
{
    extension(Catalogue)
    {
        /// <summary>
        /// Builds a catalogue. Never throws for what the definitions say: what does not work is left out and becomes a problem.
        /// </summary>
        /// <param name="release">The number of the release; that of the live one for a draft.</param>
        /// <param name="host">What is built in.</param>
        /// <param name="site">What is added.</param>
        public static Catalogue Build(int release, HostDescription host, SiteDefinition site) =>
            new CatalogueBuilder(host, site).Build(release);
    }
}
