using System.Security.Cryptography;

namespace Pelto.Core.Definitions;

/// <summary>
/// A form through which people outside send in records of a type, without signing in. What they send waits until somebody accepts it.
/// </summary>
public sealed record PublicFormDefinition
{
    /// <summary>The last part of its address, which nobody guesses; a new one makes the old address lead nowhere.</summary>
    public string Address { get; init; } = "";

    /// <summary>Its heading.</summary>
    public string Title { get; init; } = "";

    /// <summary>What stands above the fields, or null.</summary>
    public string? Text { get; init; }

    /// <summary>What people read once they have sent it; Pelto's own sentence when null.</summary>
    public string? Thanks { get; init; }

    /// <summary>True when it takes nothing just now; its address says so.</summary>
    public bool Closed { get; init; }

    /// <summary>What it asks for, in order.</summary>
    public IReadOnlyList<FormField> Fields { get; init; } = [];

    /// <summary>A new address: letters and digits that cannot be taken for one another, 100 bits of chance.</summary>
    public static string NewAddress() => RandomNumberGenerator.GetString("abcdefghjkmnpqrstuvwxyz23456789", 20);
}

/// <summary>A field that a public form asks for.</summary>
/// <param name="Field">Its code, for a field of lines after theirs: <c>lifts.weight</c>.</param>
/// <param name="Released">
/// For links: which records people outside may find and choose, a formula over the candidate's fields; they see number and name of those.
/// Nothing is released without one.
/// </param>
public sealed record FormField(string Field, string? Released = null);
