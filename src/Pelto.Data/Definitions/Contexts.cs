namespace Pelto.Data.Definitions;

/// <summary>Contexts of our own tables.</summary>
internal static class Contexts
{
    /// <summary>A context within a transaction that is under way: what is written by it stands or falls with the rest.</summary>
    public static PeltoContext Within(this IDbContextFactory<PeltoContext> contexts, NpgsqlTransaction transaction)
    {
        var context = contexts.CreateDbContext();
        context.Database.SetDbConnection(transaction.Connection);
        context.Database.UseTransaction(transaction);

        // Whoever began the transaction ends it: nobody goes on after a failure within.
        context.Database.AutoSavepointsEnabled = false;
        return context;
    }
}
