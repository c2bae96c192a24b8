namespace Pelto.Data.SigningIn;

/// <summary>How a person gets in.</summary>
/// <param name="PasswordSetAt">When they chose a password; null for never.</param>
/// <param name="HasCode">True with a second factor.</param>
/// <param name="Sessions">Where they are signed in.</param>
/// <param name="Tokens">The tokens of their programs.</param>
public sealed record WaysIn(DateTimeOffset? PasswordSetAt, bool HasCode, IReadOnlyList<SessionRow> Sessions, IReadOnlyList<TokenRow> Tokens)
{
    /// <summary>Of somebody who has none yet.</summary>
    public static WaysIn None { get; } = new(null, false, [], []);
}

/// <summary>Reads how people get in.</summary>
public sealed class WaysInReader(Credentials credentials, Sessions sessions, Tokens tokens)
{
    /// <summary>Reads all ways of a person.</summary>
    public async Task<WaysIn> ReadAsync(Guid person) =>
        new(
            await credentials.PasswordSetAtAsync(person),
            await credentials.HasCodeAsync(person),
            await sessions.OfAsync(person),
            await tokens.OfAsync(person)
        );
}
