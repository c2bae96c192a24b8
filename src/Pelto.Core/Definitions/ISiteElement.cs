namespace Pelto.Core.Definitions;

/// <summary>Something that a site defines: a draft gathers it, a plan tells of it, the audit puts down how it changes.</summary>
public interface ISiteElement
{
    /// <summary>Its lasting id, by which problems, changes and rights name it; unique in a site among those of its sort.</summary>
    string ElementId { get; }
}
