using Pelto.Core.Auditing;

namespace Pelto.Data.Definitions;

/// <summary>An entry of the audit as it is kept: see <see cref="AuditEntry"/>.</summary>
public sealed class AuditRow
{
    /// <summary>Counts from 1 without gaps.</summary>
    public long Number { get; set; }

    /// <summary>When.</summary>
    public DateTimeOffset At { get; set; }

    /// <summary>The id of who did it.</summary>
    public Guid? Person { get; set; }

    /// <summary>The name of who did it.</summary>
    public string By { get; set; } = "";

    /// <summary>From where.</summary>
    public string From { get; set; } = "";

    /// <summary>What kind of thing happened.</summary>
    public string Kind { get; set; } = "";

    /// <summary>The lasting id of what it happened to.</summary>
    public string Subject { get; set; } = "";

    /// <summary>What happened.</summary>
    public string What { get; set; } = "";

    /// <summary>As it was.</summary>
    public string? Before { get; set; }

    /// <summary>As it became.</summary>
    public string? After { get; set; }

    /// <summary>The code of the record type.</summary>
    public string? RecordType { get; set; }

    /// <summary>The record's id.</summary>
    public long? Record { get; set; }

    /// <summary>The line's id.</summary>
    public long? Line { get; set; }

    /// <summary>The digest that ties it to all before it.</summary>
    public string Hash { get; set; } = "";

    /// <summary>The digest sealed under a key that is not in the database.</summary>
    public string Seal { get; set; } = "";

    /// <summary>The entry.</summary>
    public AuditEntry ToEntry() =>
        new(
            Number,
            At,
            Person,
            By,
            From,
            new(Kind, Subject, What)
            {
                Before = Before,
                After = After,
                RecordType = RecordType,
                Record = Record,
                Line = Line,
            }
        );

    /// <summary>The row of an entry.</summary>
    public static AuditRow FromEntry(AuditEntry entry, string hash, string seal) =>
        new()
        {
            Number = entry.Number,
            At = entry.At,
            Person = entry.Person,
            By = entry.By,
            From = entry.From,
            Kind = entry.Note.Kind,
            Subject = entry.Note.Subject,
            What = entry.Note.What,
            Before = entry.Note.Before,
            After = entry.Note.After,
            RecordType = entry.Note.RecordType,
            Record = entry.Note.Record,
            Line = entry.Note.Line,
            Hash = hash,
            Seal = seal,
        };
}
