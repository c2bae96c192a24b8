using Microsoft.AspNetCore.Identity;

namespace Pelto.Data.Definitions;

/// <summary>A person who signs in.</summary>
public sealed class Person : IdentityUser<Guid>
{
    /// <summary>As shown to others.</summary>
    public string FullName { get; set; } = "";

    /// <summary>Where the person stands on the sign-in page of the demo data.</summary>
    public int Position { get; set; }

    /// <summary>
    /// The language and country whose conventions the person reads and writes by, such as fi-FI; empty for the international ones.
    /// </summary>
    public string Language { get; set; } = "";

    /// <summary>The person's time zone, by its IANA name; empty for UTC.</summary>
    public string Zone { get; set; } = "";

    /// <summary>The code of the company that the person works for; empty for none.</summary>
    public string Company { get; set; } = "";

    /// <summary>True for somebody who no longer works here: they cannot sign in, and their tokens are worth nothing.</summary>
    public bool Disabled { get; set; }

    /// <summary>When the person chose the password; null for somebody who never did, and cannot sign in by one.</summary>
    public DateTimeOffset? PasswordSetAt { get; set; }

    /// <summary>The sealed key of the second factor (RFC 6238); null without one.</summary>
    public string? TotpKey { get; set; }

    /// <summary>The time step of the last code that was accepted: none is accepted twice.</summary>
    public long TotpStep { get; set; }
}

/// <summary>A role; its name is its code.</summary>
public sealed class Role : IdentityRole<Guid>
{
    /// <summary>What people call it.</summary>
    public string Label { get; set; } = "";
}

/// <summary>A right to work on Pelto itself, and who has it.</summary>
public sealed class AdminRightRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>The audience that has it, such as <c>role:order_desk</c>.</summary>
    public string Audience { get; set; } = "";

    /// <summary>The work, as <see cref="Core.Access.AdminWork"/> names it.</summary>
    public string Work { get; set; } = "";

    /// <summary>The record types that it is limited to; none for all.</summary>
    public string[] Types { get; set; } = [];

    /// <summary>The companies that it is limited to; none for all.</summary>
    public string[] Companies { get; set; } = [];
}

/// <summary>Somebody who is signed in, in one browser.</summary>
public sealed class SessionRow
{
    /// <summary>Its id, which the cookie carries.</summary>
    public Guid Id { get; set; }

    /// <summary>Who.</summary>
    public Guid PersonId { get; set; }

    /// <summary>When it began.</summary>
    public DateTimeOffset BeganAt { get; set; }

    /// <summary>When it was last used, to the minute.</summary>
    public DateTimeOffset SeenAt { get; set; }

    /// <summary>When the person last showed who they are.</summary>
    public DateTimeOffset ConfirmedAt { get; set; }

    /// <summary>From where.</summary>
    public string Address { get; set; } = "";

    /// <summary>What the browser says that it is.</summary>
    public string Agent { get; set; } = "";
}

/// <summary>A bearer token for the programming interface; only its digest is kept.</summary>
public sealed class TokenRow
{
    /// <summary>SHA-256 of the token, in hexadecimal digits.</summary>
    public string Digest { get; set; } = "";

    /// <summary>Whose rights it carries.</summary>
    public Guid PersonId { get; set; }

    /// <summary>What its person calls it.</summary>
    public string Name { get; set; } = "";

    /// <summary>The record types that it is limited to; none for all.</summary>
    public string[] Types { get; set; } = [];

    /// <summary>True when it changes records.</summary>
    public bool Writes { get; set; }

    /// <summary>True when it changes definitions and publishes, as far as its person may.</summary>
    public bool SetsUp { get; set; }

    /// <summary>When it was made.</summary>
    public DateTimeOffset MadeAt { get; set; }

    /// <summary>When it ends by itself.</summary>
    public DateTimeOffset EndsAt { get; set; }

    /// <summary>When it was last used, to the hour.</summary>
    public DateTimeOffset? UsedAt { get; set; }
}

/// <summary>An address that lets a person choose a password, once.</summary>
public sealed class InvitationRow
{
    /// <summary>SHA-256 of its word, in hexadecimal digits.</summary>
    public string Digest { get; set; } = "";

    /// <summary>For whom.</summary>
    public Guid PersonId { get; set; }

    /// <summary>Until when.</summary>
    public DateTimeOffset EndsAt { get; set; }
}

/// <summary>A code for somebody who has lost their second factor; only its digest is kept.</summary>
public sealed class RecoveryCodeRow
{
    /// <summary>Whose.</summary>
    public Guid PersonId { get; set; }

    /// <summary>SHA-256 of the code with the person's id, in hexadecimal digits.</summary>
    public string Digest { get; set; } = "";
}

/// <summary>A try to sign in that failed.</summary>
public sealed class FailureRow
{
    /// <summary>Its id.</summary>
    public long Id { get; set; }

    /// <summary>A digest of the name that was tried, whether or not there is such a person.</summary>
    public string Name { get; set; } = "";

    /// <summary>The network that it came from, or the browser, where that had signed in as this person before.</summary>
    public string Sender { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset At { get; set; }
}
