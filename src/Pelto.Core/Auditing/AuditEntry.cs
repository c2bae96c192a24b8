using System.Security.Cryptography;
using System.Text;

namespace Pelto.Core.Auditing;

/// <summary>What kinds of things are on record.</summary>
public static class AuditKinds
{
    /// <summary>A field, choice list, query or record type was changed in the draft.</summary>
    public const string Definition = "definition";

    /// <summary>A layer was changed in the draft.</summary>
    public const string Layer = "layer";

    /// <summary>A guard or a grant was changed in the draft.</summary>
    public const string Access = "access";

    /// <summary>Something went live.</summary>
    public const string Release = "release";

    /// <summary>A person, a role, a right, a password, a session or a token was changed.</summary>
    public const string People = "people";

    /// <summary>A value of a guarded field was changed.</summary>
    public const string Value = "value";

    /// <summary>A secret was shown.</summary>
    public const string Showing = "showing";

    /// <summary>Another key of secrets is in use: entries before carry seals that nobody here can check.</summary>
    public const string Key = "key";

    /// <summary>Somebody signed in or out, or could not.</summary>
    public const string SignIn = "sign-in";

    /// <summary>All, with what people call them.</summary>
    public static IReadOnlyList<(string Code, string Label)> All { get; } =
    [
        (Value, "Values of guarded fields"),
        (Showing, "Secrets shown"),
        (Definition, "Definitions"),
        (Layer, "Layers"),
        (Access, "Guards and grants"),
        (Release, "Releases"),
        (People, "People and rights"),
        (SignIn, "Signing in"),
        (Key, "Key of secrets"),
    ];
}

/// <summary>Something that happened, before it is put on record.</summary>
/// <param name="Kind">One of <see cref="AuditKinds"/>.</param>
/// <param name="Subject">The lasting id of what it happened to: a field, a definition, a person.</param>
/// <param name="What">What happened, as a sentence without a stop.</param>
public sealed record AuditNote(string Kind, string Subject, string What)
{
    /// <summary>As it was; null when it was not there.</summary>
    public string? Before { get; init; }

    /// <summary>As it became; null when it is gone.</summary>
    public string? After { get; init; }

    /// <summary>For values and showings: the code of the record type.</summary>
    public string? RecordType { get; init; }

    /// <summary>For values and showings: the record's id.</summary>
    public long? Record { get; init; }

    /// <summary>For values and showings of lines: the line's id.</summary>
    public long? Line { get; init; }
}

/// <summary>What is on record: something that happened, with who, when and from where, tied to the entry before it.</summary>
/// <param name="Number">Counts from 1 without gaps.</param>
/// <param name="At">When, to the microsecond.</param>
/// <param name="Person">The id of who did it; null for Pelto itself and for somebody outside.</param>
/// <param name="By">The name of who did it, as it was then.</param>
/// <param name="From">From where: an address of the network, a token, the command line.</param>
/// <param name="Note">What happened.</param>
public sealed record AuditEntry(long Number, DateTimeOffset At, Guid? Person, string By, string From, AuditNote Note)
{
    /// <summary>What the first entry is tied to.</summary>
    public const string Beginning = "";

    /// <summary>
    /// The digest that ties this entry to all before it: SHA-256 (FIPS 180-4), in hexadecimal digits, of what <see cref="Text"/> gives.
    /// Whoever changes, takes out or puts in an entry changes the digest of every later one.
    /// </summary>
    /// <param name="previous">The digest of the entry before; <see cref="Beginning"/> for the first.</param>
    public string Hash(string previous) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Text(previous))));

    /// <summary>
    /// What the digest is taken of: the digest before, number, time, person, name, from, kind, subject, what, before, after, record type,
    /// record and line, each as its length in bytes of UTF-8, a colon, the text and a comma; a minus sign and a comma for what is not
    /// there.
    /// So no two different entries give the same text.
    /// </summary>
    public string Text(string previous)
    {
        var text = new StringBuilder();
        foreach (
            var part in new[]
            {
                previous,
                Plain(Number),
                Time(At),
                Person?.ToString(),
                By,
                From,
                Note.Kind,
                Note.Subject,
                Note.What,
                Note.Before,
                Note.After,
                Note.RecordType,
                Plain(Note.Record),
                Plain(Note.Line),
            }
        )
        {
            if (part is null)
                text.Append('-');
            else
                text.Append(CultureInfo.InvariantCulture, $"{Encoding.UTF8.GetByteCount(part)}:{part}");
            text.Append(',');
        }

        return text.ToString();
    }

    /// <summary>A moment as it is hashed and exported: RFC 3339 in UTC, with microseconds.</summary>
    public static string Time(DateTimeOffset at) =>
        at.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss.ffffff'Z'", CultureInfo.InvariantCulture);

    private static string? Plain(long? number) => number?.ToString(CultureInfo.InvariantCulture);
}
