namespace Pelto.Data.Definitions;

/// <summary>Where an entry from outside stands.</summary>
public enum EntryState
{
    /// <summary>Nobody has decided yet.</summary>
    Waiting,

    /// <summary>It has become a record.</summary>
    Accepted,

    /// <summary>It was refused.</summary>
    Refused,
}

/// <summary>
/// What somebody outside sent in through a public form, with where it came from. It is no record before somebody accepts it.
/// </summary>
public sealed class EntryRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>What the sender was told to quote.</summary>
    public string Reference { get; set; } = "";

    /// <summary>The code of the record type.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>What was entered, as JSON: the fields that the form asked for.</summary>
    public string Record { get; set; } = "";

    /// <summary>Where it stands.</summary>
    public EntryState State { get; set; }

    /// <summary>When it came.</summary>
    public DateTimeOffset SentAt { get; set; }

    /// <summary>The heading of the form.</summary>
    public string Form { get; set; } = "";

    /// <summary>The release under which it was sent.</summary>
    public int Release { get; set; }

    /// <summary>The network address from which it came.</summary>
    public string Address { get; set; } = "";

    /// <summary>The part of it that one sender keeps, by which senders are counted.</summary>
    public string Network { get; set; } = "";

    /// <summary>What the sender's browser calls itself.</summary>
    public string Agent { get; set; } = "";

    /// <summary>Who decided; empty while it waits.</summary>
    public string DecidedBy { get; set; } = "";

    /// <summary>When that was.</summary>
    public DateTimeOffset? DecidedAt { get; set; }

    /// <summary>The record that it became.</summary>
    public long? RecordId { get; set; }
}
