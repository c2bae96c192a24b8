namespace Pelto.Core.Catalog;

/// <summary>A field of the document before, from which a field is carried along.</summary>
/// <param name="Follow">How the documents follow each other.</param>
/// <param name="From">The field there.</param>
public sealed record CarriedFrom(Follow Follow, Field From);
