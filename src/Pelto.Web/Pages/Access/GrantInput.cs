namespace Pelto.Web.Pages;

/// <summary>What stands in the inputs of a guard or a grant.</summary>
public sealed class GrantInput
{
    /// <summary>Guards what is chosen, rather than granting it.</summary>
    public const string Guarding = "guard";

    /// <summary>The grant that is changed; empty for a new one.</summary>
    public string Id { get; set; } = "";

    /// <summary>What it does: a grant's way, or <see cref="Guarding"/>.</summary>
    public string Does
    {
        get;
        set => field = value ?? Grant.Give;
    } = Grant.Give;

    /// <summary>What it is about: lasting ids of fields, or record types.</summary>
    public List<string> On
    {
        get;
        set => field = Named(value);
    } = [];

    /// <summary>Audiences.</summary>
    public List<string> To
    {
        get;
        set => field = Named(value);
    } = [];

    /// <summary>One person more, by sign-in name.</summary>
    public string Person { get; set; } = "";

    /// <summary>The level.</summary>
    public string Level { get; set; } = "read";

    /// <summary>The rights at a record type.</summary>
    public List<string> May
    {
        get;
        set => field = Named(value);
    } = [];

    /// <summary>The condition.</summary>
    public string When { get; set; } = "";

    /// <summary>Why.</summary>
    public string Comment { get; set; } = "";

    /// <summary>Whoever sees it masked sees its end.</summary>
    public bool Ending { get; set; }

    /// <summary>The inputs of a grant.</summary>
    public static GrantInput From(Grant grant) =>
        new()
        {
            Id = grant.Id,
            Does = grant.Does,
            On = [.. grant.On],
            To = [.. grant.To.Where(text => !text.StartsWith("user:", StringComparison.Ordinal))],
            Person = grant.To.FirstOrDefault(text => text.StartsWith("user:", StringComparison.Ordinal))?["user:".Length..] ?? "",
            Level = grant.Level ?? "read",
            May = [.. grant.May ?? []],
            When = grant.When ?? "",
            Comment = grant.Comment,
        };

    /// <summary>The grants that the inputs make: one over fields and one over record types, where both are chosen.</summary>
    public IEnumerable<Grant> ToGrants()
    {
        var to = To.Where(text => text.Length > 0)
            .Concat(Person.Trim() is { Length: > 0 } person ? [$"user:{person}"] : [])
            .Distinct()
            .ToList();
        foreach (var (on, isTypes) in new[] { (On.Where(on => !IsType(on)).ToList(), false), (On.Where(IsType).ToList(), true) })
        {
            if (on.Count == 0 && (isTypes || On.Count > 0))
                continue;
            yield return new()
            {
                Id = Id.Length > 0 && !(isTypes && On.Exists(other => !IsType(other))) ? Id : Grant.NewId(),
                Does = Does,
                To = to,
                On = on,
                Level = isTypes ? null : Level,
                May = isTypes ? [.. Grant.Rights.Where(May.Contains)] : null,
                When = When.Trim() is { Length: > 0 } when ? when : null,
                Comment = Comment.Trim(),
            };
        }
    }

    // What is sent empty comes as nothing.
    private static List<string> Named(List<string>? value) => [.. (value ?? []).Where(text => !string.IsNullOrEmpty(text))];

    private static bool IsType(string on) => on.StartsWith(Grant.TypePrefix, StringComparison.Ordinal);
}
