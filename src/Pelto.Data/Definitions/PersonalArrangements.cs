using System.Text.Json;
using Pelto.Core.Layouts;

namespace Pelto.Data.Definitions;

/// <summary>
/// What people arranged for themselves: kept by person and record type, at once and without a release, since nobody else notices.
/// </summary>
public sealed class PersonalArrangements(IDbContextFactory<PeltoContext> contexts, TimeProvider clock)
{
    /// <summary>More than anybody says of one screen; the newest are kept.</summary>
    public const int MaxOperations = 400;

    private const string Label = "Your own arrangement";

    /// <summary>What a person arranged, as the layer of each record type.</summary>
    public async Task<Func<RecordType, Layer?>> OfAsync(Guid person, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel);
        var rows = await context.PersonalLayers.AsNoTracking().Where(row => row.PersonId == person).ToListAsync(cancel);
        var layers = rows.ToDictionary(row => row.RecordType, LayerOf, StringComparer.Ordinal);
        return type => layers.GetValueOrDefault(type.Code);
    }

    /// <summary>A layer that says nothing yet.</summary>
    public static Layer Nothing(Guid person) => LayerOf(new() { PersonId = person, Operations = "[]" });

    /// <summary>
    /// Keeps what a person says of a record type's screen and lists, in place of what they said before. What people may not say for
    /// themselves is left out; nothing left is the standard again.
    /// </summary>
    public async Task SaveAsync(Viewer viewer, RecordType type, IEnumerable<LayerOperation> operations, CancellationToken cancel = default)
    {
        var said = operations.Where(PersonalArrangement.Allows).TakeLast(MaxOperations).ToList();
        await using var context = await contexts.CreateDbContextAsync(cancel);
        if (said.Count == 0)
        {
            await context.PersonalLayers.Where(row => row.PersonId == viewer.Id && row.RecordType == type.Code).ExecuteDeleteAsync(cancel);
            return;
        }

        // Two pages of one person may save at once: the later one counts.
        var row = new PersonalLayerRow
        {
            PersonId = viewer.Id,
            RecordType = type.Code,
            Operations = SiteDefinition.Text(said),
            ChangedAt = clock.GetUtcNow(),
        };
        await context.UpsertAsync([row], cancel);
    }

    private static Layer LayerOf(PersonalLayerRow row) =>
        new()
        {
            Id = $"{PersonalArrangement.IdPrefix}{row.PersonId:N}:{row.ChangedAt.UtcTicks.ToString(CultureInfo.InvariantCulture)}",
            Label = Label,
            Audience = "user:own",
            Operations = JsonSerializer.Deserialize<List<LayerOperation>>(row.Operations, SiteDefinition.Json) ?? [],
        };
}
