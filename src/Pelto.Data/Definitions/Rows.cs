namespace Pelto.Data.Definitions;

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
    Finishing,

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

    /// <summary>The id of who.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>From where.</summary>
    public string StartedFrom { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset StartedAt { get; set; }

    /// <summary>How far it is.</summary>
    public PublishingState State { get; set; }

    /// <summary>True while there is something to be done.</summary>
    public bool IsOpen => State is PublishingState.Preparing or PublishingState.Finishing;

    /// <summary>What is being done, for people; or why it failed.</summary>
    public string Saying { get; set; } = "";

    /// <summary>The release that it became.</summary>
    public int? Release { get; set; }

    /// <summary>
    /// How storage stood before its first step (<see cref="Storage.Structure"/>), for as long as its steps may have to be taken back.
    /// </summary>
    public string? StorageBefore { get; set; }
}

/// <summary>That somebody asks for a draft to be published, where that takes a second person.</summary>
public sealed class ProposalRow
{
    /// <summary>The draft's version that is meant; once it changes, nothing is asked for any more.</summary>
    public long DraftVersion { get; set; }

    /// <summary>Why.</summary>
    public string Comment { get; set; } = "";

    /// <summary>The id of who asks.</summary>
    public Guid PersonId { get; set; }

    /// <summary>The name of who asks.</summary>
    public string By { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset At { get; set; }
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

/// <summary>A setting of the whole installation.</summary>
public sealed class SettingRow
{
    /// <summary>Its name.</summary>
    public string Name { get; set; } = "";

    /// <summary>What it is set to.</summary>
    public string Value { get; set; } = "";
}

/// <summary>A file that is kept inside; records refer to it.</summary>
public sealed class FileRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>Its name.</summary>
    public string Name { get; set; } = "";

    /// <summary>Its media type (RFC 6838), told by its content for pictures.</summary>
    public string MediaType { get; set; } = "";

    /// <summary>What it holds.</summary>
    public byte[] Content { get; set; } = [];

    /// <summary>Who brought it.</summary>
    public Guid UploadedBy { get; set; }

    /// <summary>When.</summary>
    public DateTimeOffset UploadedAt { get; set; }

    /// <summary>True once a record that refers to it was saved; what never was is cleared away.</summary>
    public bool Stored { get; set; }
}

/// <summary>How far a job is.</summary>
public enum JobState
{
    /// <summary>It waits or runs.</summary>
    Running,

    /// <summary>All done.</summary>
    Done,

    /// <summary>Somebody stopped it; what it did stays until it is undone.</summary>
    Stopped,

    /// <summary>It ended by an error.</summary>
    Failed,

    /// <summary>What it did is being taken back.</summary>
    Undoing,

    /// <summary>What it did was taken back.</summary>
    Undone,
}

/// <summary>Work on many records in the background. Kept, so that a server that was killed half-way goes on where it was.</summary>
public sealed class JobRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>What is done, as <see cref="Pelto.Core.Releases.PlannedJob"/> names it.</summary>
    public string Work { get; set; } = "";

    /// <summary>The lasting id of the field in its part.</summary>
    public string Field { get; set; } = "";

    /// <summary>For merging: the code of the choice that goes. For reading back: the id of the saved data.</summary>
    public string? From { get; set; }

    /// <summary>The value that records get.</summary>
    public string? To { get; set; }

    /// <summary>What it does, for people.</summary>
    public string Description { get; set; } = "";

    /// <summary>The release with which it began.</summary>
    public int Release { get; set; }

    /// <summary>Who published that release, or asked for the job.</summary>
    public string StartedBy { get; set; } = "";

    /// <summary>When.</summary>
    public DateTimeOffset StartedAt { get; set; }

    /// <summary>How far it is.</summary>
    public JobState State { get; set; }

    /// <summary>The id of the last row that was looked at.</summary>
    public long Position { get; set; }

    /// <summary>Rows looked at.</summary>
    public long Examined { get; set; }

    /// <summary>Rows to look at, as estimated when it began.</summary>
    public long Total { get; set; }

    /// <summary>Rows changed.</summary>
    public long Changed { get; set; }

    /// <summary>Why it failed, or what else there is to say.</summary>
    public string Saying { get; set; } = "";
}

/// <summary>The rows that one batch of a job changed, and what they held before, so that the job can be undone.</summary>
public sealed class JobBatchRow
{
    /// <summary>The job.</summary>
    public Guid JobId { get; set; }

    /// <summary>Counts from 1.</summary>
    public int Number { get; set; }

    /// <summary>Ids of the rows.</summary>
    public long[] Ids { get; set; } = [];

    /// <summary>What each held before, as JSON, when it was not nothing.</summary>
    public string[]? Befores { get; set; }
}

/// <summary>The data of a field that was removed, as CSV.</summary>
public sealed class SavedDataRow
{
    /// <summary>Its id.</summary>
    public Guid Id { get; set; }

    /// <summary>The lasting id of the field in its part.</summary>
    public string Field { get; set; } = "";

    /// <summary>Its label, for people.</summary>
    public string Label { get; set; } = "";

    /// <summary>The code of the record type.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>The code of the part.</summary>
    public string Part { get; set; } = "";

    /// <summary>The definition as JSON, so that the field can be brought back.</summary>
    public string Definition { get; set; } = "";

    /// <summary>RFC 4180: the row's id, and its values as the interface writes them.</summary>
    public string Csv { get; set; } = "";

    /// <summary>How many rows.</summary>
    public long Count { get; set; }

    /// <summary>When.</summary>
    public DateTimeOffset SavedAt { get; set; }
}

/// <summary>A row whose column changed while its values are carried to another column.</summary>
public sealed class ConversionRow
{
    /// <summary>Grows with each change.</summary>
    public long Number { get; set; }

    /// <summary>The table, in schema <c>added</c>.</summary>
    public string TableName { get; set; } = "";

    /// <summary>The column.</summary>
    public string ColumnName { get; set; } = "";

    /// <summary>The row's id.</summary>
    public long RowId { get; set; }
}

/// <summary>A record that somebody chose in a link not long ago.</summary>
public sealed class RecentRow
{
    /// <summary>Who.</summary>
    public Guid Person { get; set; }

    /// <summary>The code of the record type.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>The record's id.</summary>
    public long Record { get; set; }

    /// <summary>When last.</summary>
    public DateTimeOffset UsedAt { get; set; }
}

/// <summary>What a person arranged for themselves of the screen and the lists of a record type.</summary>
public sealed class PersonalLayerRow
{
    /// <summary>Who.</summary>
    public Guid PersonId { get; set; }

    /// <summary>The code of the record type.</summary>
    public string RecordType { get; set; } = "";

    /// <summary>Operations of a layer, as a definition writes them.</summary>
    public string Operations { get; set; } = "";

    /// <summary>When it was last changed.</summary>
    public DateTimeOffset ChangedAt { get; set; }
}
