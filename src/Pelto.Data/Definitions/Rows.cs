using Microsoft.AspNetCore.Identity;

namespace Pelto.Data.Definitions;

/// <summary>A person who signs in.</summary>
public sealed class Person : IdentityUser<Guid>
{
    /// <summary>As shown to others.</summary>
    public string FullName { get; set; } = "";

    /// <summary>Where the person stands on the sign-in page of the demo data.</summary>
    public int Position { get; set; }
}

/// <summary>A role; its name is the code that the host gives it.</summary>
public sealed class Role : IdentityRole<Guid>
{
    /// <summary>What people call it.</summary>
    public string Label { get; set; } = "";
}

/// <summary>A numbered set of definitions that went live together.</summary>
public sealed class ReleaseRow
{
    /// <summary>1 is the host as delivered.</summary>
    public int Number { get; set; }

    /// <summary>The site definition document, whole.</summary>
    public string Definition { get; set; } = "";

    /// <summary>Why it was published.</summary>
    public string Comment { get; set; } = "";

    /// <summary>What people noticed, a sentence a line.</summary>
    public string Summary { get; set; } = "";

    /// <summary>The name of who published it.</summary>
    public string PublishedBy { get; set; } = "";

    /// <summary>When it went live.</summary>
    public DateTimeOffset PublishedAt { get; set; }
}

/// <summary>One state of the draft. The newest counts; earlier ones are what undo goes back to.</summary>
public sealed class DraftRow
{
    /// <summary>Grows with each change.</summary>
    public long Version { get; set; }

    /// <summary>The site definition document, whole.</summary>
    public string Definition { get; set; } = "";

    /// <summary>What this state changed, such as "Added Certificate copies".</summary>
    public string What { get; set; } = "";

    /// <summary>Who changed it.</summary>
    public string ChangedBy { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset ChangedAt { get; set; }
}

/// <summary>How far a publishing is.</summary>
public enum PublishingState
{
    /// <summary>Storage is made ready; the earlier release is live.</summary>
    Preparing,

    /// <summary>The new release is live; rules are tightened.</summary>
    Settling,

    /// <summary>All done.</summary>
    Done,

    /// <summary>It ended without going live.</summary>
    Failed,

    /// <summary>Somebody stopped it before it went live.</summary>
    Stopped,
}

/// <summary>An attempt to take a draft live. Kept, so that a server that was killed half-way resumes it.</summary>
public sealed class PublishingRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>The definition that goes live.</summary>
    public string Definition { get; set; } = "";

    /// <summary>The release that it was planned over.</summary>
    public int Base { get; set; }

    /// <summary>The draft's version that it took.</summary>
    public long DraftVersion { get; set; }

    /// <summary>Why.</summary>
    public string Comment { get; set; } = "";

    /// <summary>Who.</summary>
    public string StartedBy { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset StartedAt { get; set; }

    /// <summary>How far it is.</summary>
    public PublishingState State { get; set; }

    /// <summary>What is being done, for people; or why it failed.</summary>
    public string Saying { get; set; } = "";

    /// <summary>The release that it became.</summary>
    public int? Release { get; set; }
}

/// <summary>An open page of somebody: who works where, now.</summary>
public sealed class PresenceRow
{
    /// <summary>One for each open page.</summary>
    public Guid Id { get; set; }

    /// <summary>Whose.</summary>
    public Guid PersonId { get; set; }

    /// <summary>The person's name.</summary>
    public string PersonName { get; set; } = "";

    /// <summary>The code of the record type that is on the page; empty on other pages.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>What the page is called, such as "SO-10482".</summary>
    public string Title { get; set; } = "";

    /// <summary>When it last gave a sign of life.</summary>
    public DateTimeOffset SeenAt { get; set; }
}

/// <summary>A record that was deleted, whole, so that deleting can be undone.</summary>
public sealed class DeletedRow
{
    /// <summary>One for each deletion.</summary>
    public Guid Id { get; set; }

    /// <summary>The code of its record type.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>The record as JSON.</summary>
    public string Record { get; set; } = "";

    /// <summary>Who deleted it.</summary>
    public Guid DeletedBy { get; set; }

    /// <summary>When.</summary>
    public DateTimeOffset DeletedAt { get; set; }
}

/// <summary>A bearer token for the programming interface; only its digest is kept.</summary>
public sealed class TokenRow
{
    /// <summary>SHA-256 of the token, in hexadecimal digits.</summary>
    public string Digest { get; set; } = "";

    /// <summary>Whose rights it carries.</summary>
    public Guid PersonId { get; set; }

    /// <summary>When it was made.</summary>
    public DateTimeOffset MadeAt { get; set; }
}

/// <summary>A setting of the whole installation.</summary>
public sealed class SettingRow
{
    /// <summary>Its name.</summary>
    public string Name { get; set; } = "";

    /// <summary>What it is set to.</summary>
    public string Value { get; set; } = "";
}
