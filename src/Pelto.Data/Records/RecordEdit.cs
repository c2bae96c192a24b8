using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Records;

namespace Pelto.Data.Records;

/// <summary>
/// A record that somebody edits, within one request: loaded once, however often what they entered is tried, so that all of the answer is
/// about the same state of it.
/// </summary>
public sealed class RecordEdit
{
    private readonly RecordStore store;
    private readonly RecordState whole;
    private readonly RecordAccess access;

    internal RecordEdit(RecordStore store, RecordState whole, RecordAccess access)
    {
        (this.store, this.whole, this.access) = (store, whole, access);
        Current = access.Withheld(whole.Copy());
    }

    /// <summary>Its type.</summary>
    public RecordType Type => whole.Type;

    /// <summary>The record as it is on file, or a new one, as they may read it.</summary>
    public RecordState Current { get; }

    /// <summary>Runs changes through the pipeline without saving anything.</summary>
    /// <param name="changes">What was entered; links to what they may not read are taken out.</param>
    /// <param name="isDemanded">Which required fields must be filled; all when null.</param>
    /// <param name="patience">How long queries may take that fill fields; as usual when null.</param>
    /// <param name="cancel">Stops it.</param>
    /// <exception cref="AccessRefusedException">They may not change it.</exception>
    public Task<Outcome> TryAsync(RecordChanges changes, Func<Field, bool>? isDemanded = null, TimeSpan? patience = null, CancellationToken cancel = default) =>
        store.TryAsync(whole.Copy(), access, changes, isDemanded, patience, cancel);
}
