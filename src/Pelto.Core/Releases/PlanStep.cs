using System.Security.Cryptography;
using System.Text;

namespace Pelto.Core.Releases;

/// <summary>
/// One thing to be done to storage. Each says itself in words and in SQL, does one thing, knows whether it is done, and may be repeated.
/// </summary>
public abstract record PlanStep
{
    /// <summary>What it does, for people.</summary>
    public abstract string Description { get; }

    /// <summary>True when the database is already as this step leaves it.</summary>
    public abstract bool IsDone(StorageFacts facts);

    /// <summary>True when it takes a moment however large the table is, so that it can be done together with others.</summary>
    public virtual bool IsInstant => true;

    /// <summary>
    /// True when what it began is dropped where it is cut off: an index that is not built to its end is of no use, and kept up with every
    /// save. The first of its statements drops it then.
    /// </summary>
    public virtual bool IsDroppedWhenCutOff => false;

    /// <summary>The statements that carry it out, in order; none for what the program does itself.</summary>
    /// <param name="names">What things are called in the database.</param>
    public abstract IEnumerable<string> Sql(IStorageNames names);

    /// <summary>Eight figures that change when the text does, for names.</summary>
    protected static string Digest(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..8];
}
