namespace Pelto.Core.Definitions;

/// <summary>Something that a site defines: a draft gathers it, a plan tells of it, the audit puts down how it changes.</summary>
public interface ISiteElement
{
    /// <summary>Its lasting id, by which problems, changes and rights name it; unique in a site among those of its sort.</summary>
    string ElementId { get; }

    /// <summary>What is wrong with it that can be told without binding it: each with its property and a sentence.</summary>
    /// <param name="host">The host, with the roles of the site.</param>
    IEnumerable<(string Property, string Sentence)> Problem(HostDescription host) => [];
}
