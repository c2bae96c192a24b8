using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Identity;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.SigningIn;

/// <summary>By what people show who they are: a password, a second factor, and what gets them in when they have neither yet.</summary>
public sealed class Credentials(
    IDbContextFactory<PeltoContext> contexts,
    People people,
    Secrets secrets,
    AuditTrail audit,
    IPasswordHasher<Person> hasher,
    TimeProvider clock
)
{
    private const string TotpPlace = "second factor of ";
    private const int RecoveryCodes = 10;

    // 125 bits, so that whoever has the digests cannot try them all (OWASP ASVS 4.0.3, 2.6.2: 112), in base32 (RFC 4648), which has no
    // letters that look like digits.
    private const string RecoveryLetters = "abcdefghijklmnopqrstuvwxyz234567";
    private const int RecoveryLength = 25;
    private static readonly TimeSpan InvitationLasts = TimeSpan.FromDays(3);

    // What is compared when there is nobody of a name, so that it takes as long.
    private readonly Lazy<string> nobodysHash = new(() =>
        hasher.HashPassword(new(), Convert.ToHexString(RandomNumberGenerator.GetBytes(16)))
    );

    /// <summary>
    /// The person of whom name and password are right, and whether a code is asked for as well; null for any other, after the same time.
    /// </summary>
    public async Task<(Guid Id, bool NeedsCode)?> CheckAsync(string name, string password, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var wanted = SignInNames.Normal(name);
        var person = await context
            .Users.AsNoTracking()
            .FirstOrDefaultAsync(one => one.UserName == wanted && !one.Disabled && one.PasswordSetAt != null, cancel);
        var isRight = await Hashing.RunAsync(
            () =>
            {
                // Made for everybody, or else the first who is nobody would take twice as long.
                var nobodys = nobodysHash.Value;
                return IsRight(person?.PasswordHash ?? nobodys, password);
            },
            cancel
        );
        return isRight && person is not null ? (person.Id, person.TotpKey is not null) : null;
    }

    /// <summary>
    /// True when a code is the one of now of this person's second factor, or one of the codes for when that is lost, which is used up by
    /// it.
    /// </summary>
    public async Task<bool> CheckCodeAsync(Guid id, string code, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (
            await context.Users.AsNoTracking().FirstOrDefaultAsync(one => one.Id == id && !one.Disabled, cancel)
            is not { TotpKey: { } stored } person
        )
            return false;

        // Taken in one statement, so that a code that is sent twice at once counts once.
        if (KeyOf(person.Id, stored) is { } key && SecondFactor.StepOf(key, code, clock.GetUtcNow(), person.TotpStep) is { } step)
            return await context
                    .Users.Where(one => one.Id == id && one.TotpStep < step)
                    .ExecuteUpdateAsync(set => set.SetProperty(one => one.TotpStep, step), cancel) == 1;
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var digest = RecoveryDigest(id, code);
        if (await context.RecoveryCodes.Where(row => row.PersonId == id && row.Digest == digest).ExecuteDeleteAsync(cancel) != 1)
            return false;
        await audit.CommitAsync(
            context,
            new(id, person.FullName, []),
            new(AuditKinds.SignIn, id.ToString(), "Used up a code for a lost second factor"),
            cancel
        );
        return true;
    }

    /// <summary>
    /// True when somebody who is signed in shows again who they are: by the code where they have a second factor, else by the password.
    /// </summary>
    public async Task<bool> ConfirmAsync(Viewer viewer, string shown, CancellationToken cancel = default)
    {
        if (await HasCodeAsync(viewer.Id, cancel))
            return await CheckCodeAsync(viewer.Id, shown, cancel);
        return await CheckAsync(viewer.SignIn, shown, cancel) is { } found && found.Id == viewer.Id;
    }

    /// <summary>True when a person has a second factor.</summary>
    public async Task<bool> HasCodeAsync(Guid id, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Users.AnyAsync(one => one.Id == id && one.TotpKey != null, cancel);
    }

    /// <summary>When a person chose their password; null when they never did.</summary>
    public async Task<DateTimeOffset?> PasswordSetAtAsync(Guid id, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context.Users.Where(one => one.Id == id).Select(one => one.PasswordSetAt).FirstOrDefaultAsync(cancel);
    }

    /// <summary>Sets a person's password; null, or why not. All other sessions of the person end.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="password">The new password.</param>
    /// <param name="session">The session that goes on.</param>
    /// <param name="cancel">Stops it.</param>
    public async Task<string?> SetPasswordAsync(Viewer viewer, string password, Guid? session, CancellationToken cancel = default)
    {
        Allowing.MustBeSure(viewer);
        if (PasswordRules.Refuse(password, [viewer.Name, viewer.SignIn, viewer.Company]) is { } refusal)
            return refusal;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await SetAsync(context, viewer, password, session, "Chose a new password", cancel);
        await transaction.CommitAsync(cancel);
        return null;
    }

    private async Task SetAsync(PeltoContext context, Viewer viewer, string password, Guid? session, string what, CancellationToken cancel)
    {
        var person = await context.Users.FirstAsync(one => one.Id == viewer.Id, cancel);
        (person.PasswordHash, person.PasswordSetAt, person.SecurityStamp) = (
            await Hashing.RunAsync(() => hasher.HashPassword(person, PasswordRules.Normal(password)), cancel),
            clock.GetUtcNow(),
            Guid.NewGuid().ToString()
        );
        await context.SaveChangesAsync(cancel);

        // Whoever knew the old one is out, by whatever they came in: other browsers, programs, and browsers that count as known.
        await context.Sessions.Where(row => row.PersonId == viewer.Id && row.Id != session).ExecuteDeleteAsync(cancel);
        await context.Tokens.Where(row => row.PersonId == viewer.Id).ExecuteDeleteAsync(cancel);
        await context.Invitations.Where(row => row.PersonId == viewer.Id).ExecuteDeleteAsync(cancel);
        await audit.WriteAsync(context, viewer, [new(AuditKinds.People, viewer.Id.ToString(), what)], cancel);
    }

    /// <summary>
    /// Makes a word by which a person may choose a password, once, within three days; earlier ones are worth nothing any more.
    /// </summary>
    public async Task<string> InviteAsync(Viewer person, Viewer by, CancellationToken cancel = default)
    {
        Allowing.MustBeSure(by);
        var word = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context.Invitations.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel);
        context.Invitations.Add(
            new()
            {
                Digest = Digest(word),
                PersonId = person.Id,
                EndsAt = clock.GetUtcNow() + InvitationLasts,
            }
        );
        await audit.CommitAsync(context, by, new(AuditKinds.People, person.Id.ToString(), $"Lets {person.Name} choose a password"), cancel);
        return word;
    }

    /// <summary>Whom a word lets choose a password; null when it is none, was used, or has ended.</summary>
    public async Task<Viewer?> InvitedAsync(string word, CancellationToken cancel = default)
    {
        var (digest, now) = (Digest(word), clock.GetUtcNow());
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return
            await context.Invitations.AsNoTracking().FirstOrDefaultAsync(row => row.Digest == digest && row.EndsAt > now, cancel)
                is { } found
            ? await people.ViewerAsync(found.PersonId, cancel)
            : null;
    }

    /// <summary>
    /// Sets the password of whom a word invited, and takes a second factor from them that they have lost; null, or why not.
    /// </summary>
    public async Task<string?> AcceptAsync(string word, string password, string from, CancellationToken cancel = default)
    {
        if (await InvitedAsync(word, cancel) is not { } viewer)
            return "This link has been used, or is too old. Ask for a new one.";
        if (PasswordRules.Refuse(password, [viewer.Name, viewer.SignIn, viewer.Company]) is { } refusal)
            return refusal;
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var digest = Digest(word);
        if (await context.Invitations.Where(row => row.Digest == digest).ExecuteDeleteAsync(cancel) != 1)
            return "This link has been used, or is too old. Ask for a new one.";
        await SetAsync(context, viewer with { From = from }, password, null, "Chose a password by invitation", cancel);
        await transaction.CommitAsync(cancel);
        return null;
    }

    /// <summary>
    /// Gives a person the second factor whose code they typed; the codes for when it is lost, told once, or null when the code is not
    /// right.
    /// </summary>
    public async Task<IReadOnlyList<string>?> StartCodeAsync(
        Viewer viewer,
        byte[] key,
        string code,
        Guid? session,
        CancellationToken cancel = default
    )
    {
        Allowing.MustBeSure(viewer);
        if (SecondFactor.StepOf(key, code, clock.GetUtcNow(), 0) is not { } step)
            return null;
        var stored = secrets.Seal(Convert.ToHexString(key), TotpPlace + viewer.Id);
        IReadOnlyList<string> codes =
        [
            .. Enumerable
                .Range(0, RecoveryCodes)
                .Select(_ =>
                    string.Join(
                        '-',
                        RandomNumberGenerator.GetString(RecoveryLetters, RecoveryLength).Chunk(5).Select(part => new string(part))
                    )
                ),
        ];
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await context
            .Users.Where(one => one.Id == viewer.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(one => one.TotpKey, stored).SetProperty(one => one.TotpStep, step), cancel);
        await context.RecoveryCodes.Where(row => row.PersonId == viewer.Id).ExecuteDeleteAsync(cancel);
        context.RecoveryCodes.AddRange(
            codes.Select(text => new RecoveryCodeRow { PersonId = viewer.Id, Digest = RecoveryDigest(viewer.Id, text) })
        );
        await context.SaveChangesAsync(cancel);
        await context.Sessions.Where(row => row.PersonId == viewer.Id && row.Id != session).ExecuteDeleteAsync(cancel);
        await audit.CommitAsync(
            context,
            viewer,
            new(AuditKinds.People, viewer.Id.ToString(), "Began to sign in with a second factor"),
            cancel
        );
        return codes;
    }

    /// <summary>Takes the second factor from a person.</summary>
    public async Task EndCodeAsync(Viewer person, Viewer by, CancellationToken cancel = default)
    {
        Allowing.MustBeSure(by);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        if (
            await context
                .Users.Where(one => one.Id == person.Id && one.TotpKey != null)
                .ExecuteUpdateAsync(set => set.SetProperty(one => one.TotpKey, (string?)null), cancel) == 0
        )
            return;
        await context.RecoveryCodes.Where(row => row.PersonId == person.Id).ExecuteDeleteAsync(cancel);
        await audit.CommitAsync(
            context,
            by,
            new(AuditKinds.People, person.Id.ToString(), $"{person.Name} signs in without a second factor from now on"),
            cancel
        );
    }

    /// <summary>
    /// Puts on record that somebody tried to sign in as a person, and could not; of names that are nobody's nothing is written.
    /// </summary>
    public async Task NoteFailureAsync(string name, string from, CancellationToken cancel = default)
    {
        var wanted = SignInNames.Normal(name);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (await context.Users.AsNoTracking().FirstOrDefaultAsync(one => one.UserName == wanted, cancel) is not { } person)
            return;
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        await audit.CommitAsync(
            context,
            new(Guid.Empty, "somebody", []) { From = from },
            new(AuditKinds.SignIn, person.Id.ToString(), $"Could not sign in as {person.FullName}"),
            cancel
        );
    }

    /// <summary>
    /// What the mark of a browser has to hold to count as known to a person: it is another once the password is, or all sessions were
    /// ended. Null for nobody.
    /// </summary>
    public async Task<string?> StampAsync(string name, CancellationToken cancel = default)
    {
        var wanted = SignInNames.Normal(name);
        await using var context = await contexts.CreateDbContextAsync(cancel);
        return await context
            .Users.Where(one => one.UserName == wanted && !one.Disabled)
            .Select(one => one.SecurityStamp)
            .FirstOrDefaultAsync(cancel);
    }

    private byte[]? KeyOf(Guid id, string stored) => secrets.Open(stored, TotpPlace + id) is { } hex ? Convert.FromHexString(hex) : null;

    private bool IsRight(string hash, string password)
    {
        try
        {
            return password.Length <= PasswordRules.Most * 4
                && hasher.VerifyHashedPassword(new(), hash, PasswordRules.Normal(password)) != PasswordVerificationResult.Failed;
        }
        catch (ArgumentException)
        {
            // No text at all.
            return false;
        }
    }

    private static string RecoveryDigest(Guid person, string code) =>
        Digest(person + " " + new string([.. code.Where(char.IsAsciiLetterOrDigit)]).ToLowerInvariant());

    private static string Digest(string word) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(word)));
}
