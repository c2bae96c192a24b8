namespace Pelto.Core.Access;

/// <summary>Guards and grants in words.</summary>
public static class GrantWords
{
    /// <summary>What a grant is about, such as “Credit limit of partners”.</summary>
    public static string Named(Catalogue catalogue, string on)
    {
        if (on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal))
            return catalogue.Find(on[Grant.TypePrefix.Length..])?.Plural.ToLowerInvariant() ?? on[Grant.TypePrefix.Length..];
        if (catalogue.FindField(on) is { } field)
            return Named(field);
        return catalogue.Site.Find(on)?.Label ?? on;
    }

    /// <summary>A field with what it is of, such as “Price of lines of sales orders”.</summary>
    public static string Named(Field field) =>
        $"{field.Label} of {(field.Part.IsLines ? $"{field.Part.Plural.ToLowerInvariant()} of " : "")}{field.Part.RecordType.Plural.ToLowerInvariant()}";

    /// <summary>To whom a grant is, such as “role Order desk and only eero.lahdenmaa”.</summary>
    public static string Whom(Catalogue catalogue, Grant grant) =>
        Listed([.. grant.To.Select(text => Audience.TryParse(text, out var audience) ? audience.InWords(catalogue.Host) : text)]);

    /// <summary>
    /// What a grant does, as a sentence without its full stop, such as “Gives role Order desk: Credit limit of partners, masked”.
    /// </summary>
    public static string Sentence(Catalogue catalogue, Grant grant)
    {
        var whom = Whom(catalogue, grant);
        var what = Listed([.. grant.On.Select(on => Named(catalogue, on))]);
        var where = string.IsNullOrWhiteSpace(grant.When) ? "" : $", where {grant.When}";
        if (grant.IsOnTypes)
        {
            var rights = Listed([.. (grant.May ?? []).Select(right => right)]);
            return grant.Does == Grant.Withhold
                ? $"Keeps {whom} from this with {what}: {rights}{where}"
                : $"Lets {whom} do this with {what}: {rights}{where}";
        }

        var level = AccessLevels.Read(grant.Level) ?? AccessLevel.None;
        return grant.Does switch
        {
            Grant.Withhold => $"Withholds from {whom}: {what}{(level == AccessLevel.None ? "" : $", {Left(level)}")}{where}",
            Grant.Open => $"Opens for {whom}, whatever it is calculated from: {what}, to {Verb(level)}{where}",
            _ => $"Gives {whom}: {what}, to {Verb(level)}{where}",
        };
    }

    /// <summary>A level as something that one does.</summary>
    public static string Verb(AccessLevel level) =>
        level switch
        {
            AccessLevel.Write => "read and write",
            AccessLevel.Read => "read",
            AccessLevel.Masked => "see masked",
            _ => "not see",
        };

    private static string Left(AccessLevel level) => level == AccessLevel.Masked ? "which stays masked" : "which can be read, not written";

    /// <summary>Several as people say them: a, b and c.</summary>
    public static string Listed(IReadOnlyList<string> parts) =>
        parts.Count < 3 ? string.Join(" and ", parts) : $"{string.Join(", ", parts.SkipLast(1))} and {parts[^1]}";
}
