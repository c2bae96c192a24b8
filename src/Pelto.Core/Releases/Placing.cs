namespace Pelto.Core.Releases;

/// <summary>Decides in which of the tables beside its parts each added field is kept: see <see cref="AddedTables"/>.</summary>
public static class Placing
{
    /// <summary>The columns that all can be filled in one row, with room for what fields become later.</summary>
    public const int MaxHeld = 400;

    /// <summary>The columns that a table has had at most, with those that were removed.</summary>
    internal const int MaxEver = 1500;

    /// <summary>
    /// The fields with the tables that they are kept in: a live one stays where it is, one that was there before goes where its values
    /// still are, a new one
    /// gets the first in which there is room at each of its places.
    /// </summary>
    /// <param name="site">The site.</param>
    /// <param name="live">What is live.</param>
    /// <param name="room">What the tables hold.</param>
    internal static IReadOnlyList<FieldDefinition> Assign(SiteDefinition site, SiteDefinition live, AddedRoom room)
    {
        var (held, ever) = (new Dictionary<string, int>(StringComparer.Ordinal), new Dictionary<string, int>(StringComparer.Ordinal));
        foreach (var (name, table) in room.Tables)
            (held[name], ever[name]) = (table.Columns.Values.Count(column => column.FieldId.Length > 0), table.Used);
        var settled = site
            .Fields.Select(field =>
                (live.Find(field.Id)?.Table ?? room.NumberOf(field)) is { } number ? field with { Table = number } : null
            )
            .ToList();
        foreach (var field in settled.OfType<FieldDefinition>().Concat(live.Fields.Where(gone => site.Find(gone.Id) is null)))
            Take(field, field.Table);
        for (var at = 0; at < settled.Count; at++)
        {
            if (settled[at] is not null)
                continue;
            var (field, number) = (site.Fields[at], 0);
            while (field.Places().Any(place => IsFull(AddedTables.NameOf(place, number), Columns(field))))
                number++;
            settled[at] = field with { Table = number };
            Take(field, number);
        }

        return settled!;

        bool IsFull(string table, int more) =>
            held.GetValueOrDefault(table) + more > room.MostHeld || ever.GetValueOrDefault(table) + more > MaxEver;

        // What the table has already is counted with it.
        void Take(FieldDefinition field, int number)
        {
            foreach (
                var name in field
                    .Places()
                    .Where(place => !room.Holds(field, place, number))
                    .Select(place => AddedTables.NameOf(place, number))
            )
            {
                held[name] = held.GetValueOrDefault(name) + Columns(field);
                ever[name] = ever.GetValueOrDefault(name) + Columns(field);
            }
        }
    }

    // Amounts have their unit beside them, files their name.
    private static int Columns(FieldDefinition field) => FieldKinds.Find(field.Kind)?.Columns.Count ?? 0;
}

/// <summary>What the tables hold, as far as it decides in which of them a field is kept.</summary>
/// <param name="Tables">The tables in schema <c>added</c>, by name.</param>
/// <param name="MostHeld">How many columns a table takes before the next is begun.</param>
public sealed record AddedRoom(IReadOnlyDictionary<string, TableFacts> Tables, int MostHeld = Placing.MaxHeld)
{
    /// <summary>Of a database to which nothing was added.</summary>
    public static AddedRoom Empty { get; } = new(StorageFacts.Nothing.Added);

    // The column's comment ties it to its field, also while that is taken out.
    internal bool Holds(FieldDefinition field, AlsoOn place, int number) =>
        Tables.GetValueOrDefault(AddedTables.NameOf(place, number))?.Columns.Values.Any(column => column.FieldId == field.IdIn(place))
        == true;

    internal int? NumberOf(FieldDefinition field)
    {
        for (var number = 0; field.Places().Any(place => Tables.ContainsKey(AddedTables.NameOf(place, number))); number++)
            if (field.Places().Any(place => Holds(field, place, number)))
                return number;
        return null;
    }
}
