using Pelto.Core.Binding;

namespace Pelto.Core.Updates;

/// <summary>
/// The codes that become others when the host goes to another version: those that it changes itself, and those of added fields that it
/// takes for its own.
/// </summary>
internal sealed class CodeChanges
{
    private const string Suffix = "_own";
    private readonly Dictionary<string, string> byId = new(StringComparer.Ordinal);
    private readonly Catalogue bare;

    /// <param name="now">What there is.</param>
    /// <param name="to">The version that the host goes to.</param>
    public CodeChanges(Catalogue now, HostDescription to)
    {
        bare = Catalogue.Build(now.Release, to, SiteDefinition.Nothing);
        foreach (var field in now.RecordTypes.SelectMany(type => type.Parts).SelectMany(part => part.Fields).Where(field => !field.IsAdded))
            if (bare.FindField(field.Id) is { } next && next.Code != field.Code)
                byId[field.Id] = next.Code;
        foreach (var definition in now.Site.Fields)
        {
            var parts = definition.Places().Select(place => bare.Find(place.RecordType)?.FindPart(place.Part)).OfType<Part>().ToList();
            var goesBack = definition.StoredAs is { } first && !IsTaken(parts, first) && IsFree(now, definition, first);
            if (goesBack)
                byId[definition.Id] = definition.StoredAs!;
            else if (IsTaken(parts, definition.Code))
                byId[definition.Id] = Free(now, definition, parts);
        }
    }

    /// <summary>
    /// True for a built-in field that the other version has not. Its code may name another field there, so what reads it cannot go along.
    /// </summary>
    public bool IsGone(Field field) => !field.IsAdded && field.Part.RecordType.Definition is null && bare.FindField(field.Id) is null;

    /// <summary>The new code of a field; null for one whose code stays.</summary>
    public string? CodeOf(Field field) => byId.GetValueOrDefault(field.Definition?.Id ?? field.Id);

    /// <summary>The new code of an added field; null for one whose code stays.</summary>
    public string? CodeOf(FieldDefinition definition) => byId.GetValueOrDefault(definition.Id);

    // A field of the host has it, as its code or for its column.
    private static bool IsTaken(List<Part> parts, string code) =>
        parts.Exists(part => part.Fields.Any(field => field.Code == code || (field.Content as FieldDescription)?.Column == code));

    private static bool IsFree(Catalogue now, FieldDefinition definition, string code) =>
        now.Site.Fields.All(other =>
            other.Id == definition.Id
            || other.Code != code
            || !other.Places().Any(place => definition.Places().Any(own => own.RecordType == place.RecordType && own.Part == place.Part))
        );

    private static string Free(Catalogue now, FieldDefinition definition, List<Part> parts)
    {
        for (var count = 1; ; count++)
        {
            var suffix = count == 1 ? Suffix : Suffix + count.ToString(CultureInfo.InvariantCulture);
            var code = definition.Code[..Math.Min(definition.Code.Length, Codes.LongestCode - suffix.Length)] + suffix;
            if (!IsTaken(parts, code) && IsFree(now, definition, code))
                return code;
        }
    }
}
