namespace Pelto.Core.Catalog;

/// <summary>Something in a definition that must be put right before it can go live.</summary>
/// <param name="Element">The lasting id of the element that it is about; empty for the definition as a whole.</param>
/// <param name="Property">The property, named as in the site definition document, such as <c>code</c>; empty for the whole element.</param>
/// <param name="Sentence">What is wrong and what would help, for people.</param>
public sealed record Problem(string Element, string Property, string Sentence);
