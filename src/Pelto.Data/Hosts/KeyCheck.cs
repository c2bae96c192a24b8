using Pelto.Core.Auditing;
using Pelto.Data.Auditing;

namespace Pelto.Data.Hosts;

/// <summary>
/// Which key a database belongs to. With another one Pelto would lock the nodes out that have the right one, since the passwords of the
/// database's roles follow from it, and would write what they cannot read: it does not start.
/// </summary>
public sealed class KeyCheck(Secrets secrets, AuditTrail audit)
{
    /// <summary>The setting that holds what follows from the key, and tells nothing about it.</summary>
    private const string Setting = "key";

    private string Mark => secrets.Derive("which key this is");

    /// <summary>Puts down which key this is, the first time; later throws <see cref="KeyException"/> when it is another.</summary>
    public async Task EnsureAsync(PeltoContext context, CancellationToken cancel)
    {
        if (await context.Settings.AsNoTracking().FirstOrDefaultAsync(row => row.Name == Setting, cancel) is not { } stored)
        {
            context.Settings.Add(new() { Name = Setting, Value = Mark });
            await context.SaveChangesAsync(cancel);
        }
        else if (stored.Value != Mark)
            throw new KeyException(
                "The key of secrets is not the one that this database was used with. Put the file with that key back (PELTO_KEY names it). "
                    + "If it is lost for good, ./pelto newkey goes on with this one: "
                    + "secrets and second factors from before cannot be read any more."
            );
    }

    /// <summary>Goes on with the key that is here, when the one from before is lost; false when it is that one.</summary>
    public async Task<bool> TakeAsync(PeltoContext context, CancellationToken cancel = default)
    {
        var mark = Mark;
        await using var transaction = await context.Database.BeginTransactionAsync(cancel);
        var changed = await context
            .Settings.Where(row => row.Name == Setting && row.Value != mark)
            .ExecuteUpdateAsync(set => set.SetProperty(row => row.Value, mark), cancel);
        if (changed == 0)
            return false;
        var note = new AuditNote(AuditKinds.Key, Setting, "Went on with another key of secrets, from the command line");
        await audit.CommitAsync(context, AuditTrail.Pelto, note, cancel);
        return true;
    }
}
