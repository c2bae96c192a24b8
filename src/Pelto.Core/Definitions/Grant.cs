namespace Pelto.Core.Definitions;

/// <summary>
/// Gives somebody access to fields or record types, withholds it, or opens what inherits a guard. Of several grants the highest level
/// counts; what is withheld is withheld, whoever gives it.
/// </summary>
public sealed record Grant : ISiteElement
{
    /// <summary>Gives at least a level, or some of the rights at a record type.</summary>
    public const string Give = "give";

    /// <summary>Leaves at most a level, or takes some of the rights at a record type.</summary>
    public const string Withhold = "withhold";

    /// <summary>Gives a level of a field whatever that field is calculated from.</summary>
    public const string Open = "open";

    /// <summary>Before the code of a record type in <see cref="On"/>.</summary>
    public const string TypePrefix = "type:";

    /// <summary>The name, after a colon, by which conditions read who looks: the name by which that person signs in.</summary>
    public const string PersonName = "person";

    /// <summary>The same for the code of the company that the person works for.</summary>
    public const string CompanyName = "company";

    /// <summary>Lasting id.</summary>
    public string Id { get; init; } = "";

    /// <summary>What it does: <see cref="Give"/>, <see cref="Withhold"/> or <see cref="Open"/>.</summary>
    public string Does { get; init; } = Give;

    /// <summary>To whom, or from whom: audiences such as <c>role:order_desk</c>.</summary>
    public IReadOnlyList<string> To { get; init; } = [];

    /// <summary>What it is about: lasting ids of fields, or record types such as <c>type:sales_order</c>; not both.</summary>
    public IReadOnlyList<string> On { get; init; } = [];

    /// <summary>
    /// For fields: the level that it gives, or that it leaves at most; <c>none</c>, <c>masked</c>, <c>read</c> or <c>write</c>.
    /// </summary>
    public string? Level { get; init; }

    /// <summary>For record types: the rights that it gives or takes, of <see cref="Rights"/>.</summary>
    public IReadOnlyList<string>? May { get; init; }

    /// <summary>The condition under which it counts, over the record; null for always.</summary>
    public string? When { get; init; }

    /// <summary>Why, for whoever asks later.</summary>
    public string Comment { get; init; } = "";

    /// <summary>The rights at a record type.</summary>
    public static IReadOnlyList<string> Rights { get; } = ["read", "create", "change", "delete"];

    /// <summary>A new lasting id.</summary>
    public static string NewId() => "g-" + Guid.NewGuid().ToString("N")[..12];

    /// <summary>True when it is about record types.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool IsOnTypes => On.Any(on => on.StartsWith(TypePrefix, StringComparison.Ordinal));

    /// <summary>A record type as <see cref="On"/> names it.</summary>
    public static string OnType(string code) => TypePrefix + code;

    string ISiteElement.ElementId => Id;
}
