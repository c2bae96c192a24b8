namespace Pelto.Data.Database;

/// <summary>
/// The advisory locks of PostgreSQL that Pelto takes, in one place so that no two are one number. They hold for all nodes, and go with the
/// connection or the transaction that took them.
/// </summary>
internal static class DatabaseLocks
{
    /// <summary>Whoever changes the draft, one after the other.</summary>
    public const long Drafts = 7_301_001;

    /// <summary>Whoever publishes, or makes what queries read.</summary>
    public const long Publishing = 7_301_002;

    /// <summary>Whoever makes the database ready.</summary>
    public const long Installing = 7_301_003;

    /// <summary>The node that does jobs.</summary>
    public const long Jobs = 7_301_004;

    /// <summary>Whoever writes the audit: its entries are tied to one another in one order.</summary>
    public const long Audit = 7_301_005;

    /// <summary>Whoever changes people and their rights.</summary>
    public const long People = 7_301_006;

    /// <summary>Tries to sign in by one name; with the name's hash beside it.</summary>
    public const int Tries = 7_301_010;
}
