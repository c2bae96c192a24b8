namespace Pelto.Data.Records;

/// <summary>Records that point to one record by one field.</summary>
/// <param name="Field">The link.</param>
/// <param name="Count">How many there are; <see cref="Pointers.MaxCounted"/> and one more for any number beyond.</param>
public sealed record Pointing(Field Field, long Count)
{
    /// <summary>How many, in words, such as "3 sales orders".</summary>
    public string InWords =>
        Field.Part.RecordType is var type && Count == 1
            ? $"1 {type.Label.ToLowerInvariant()}"
            : $"{(Count > Pointers.MaxCounted ? $"more than {Core.Values.Numbers.Format(Pointers.MaxCounted)}" : Core.Values.Numbers.Format(Count))} {type.Plural.ToLowerInvariant()}";
}

/// <summary>The other direction of links: what points to a record.</summary>
public sealed class Pointers(NpgsqlDataSource source, TimeProvider clock)
{
    /// <summary>Nobody counts further than this.</summary>
    public const int MaxCounted = 10_000;

    /// <summary>The links that can point to records of a type, built in or added.</summary>
    public static IEnumerable<Field> FieldsTo(Catalogue catalogue, RecordType type) => catalogue.Find(type.Code)?.PointedBy ?? [];

    /// <summary>What points to a record, by field; only what the viewer may see, and nothing that nobody uses.</summary>
    public async Task<IReadOnlyList<Pointing>> ReadAsync(
        Catalogue catalogue,
        RecordType type,
        long id,
        Viewer viewer,
        CancellationToken cancel = default
    )
    {
        if (!viewer.MayRead(type))
            throw new AccessRefusedException($"You may not see {type.Plural.ToLowerInvariant()}.");
        var fields = FieldsTo(catalogue, type).Where(field => viewer.ReadsWhereRead(field)).ToList();
        if (fields.Count == 0)
            return [];
        await using var command = source.CreateCommand();
        command.Parameters.Add(new() { Value = id });
        command.CommandText =
            string.Join(
                " UNION ALL ",
                fields.Select(
                    (field, at) =>
                        Invariant(
                            $"SELECT {at}, count(*) FROM (SELECT r.id FROM ({Records(field)}) AS r (id) WHERE true{RowAccess.And(field.Part.RecordType, viewer, "r.id", command.Add, Core.Formulas.Clock.From(clock))} LIMIT {MaxCounted + 1}) r"
                        )
                )
            ) + " ORDER BY 1";
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var found = new List<Pointing>();
        while (await reader.ReadAsync(cancel))
            if (reader.GetInt64(1) > 0)
                found.Add(new(fields[reader.GetInt32(0)], reader.GetInt64(1)));
        return found;
    }

    // The records whose header, or one of whose lines, points to $1.
    private static string Records(Field field)
    {
        if (field.Kind.IsSeveralLinks)
            return field.Part.IsLines
                ? $"SELECT DISTINCT h.parent FROM {Sql.LinkTable(field)} l "
                    + $"JOIN {Sql.Base(field.Part)} h ON h.id = l.owner WHERE l.target = $1"
                : $"SELECT l.owner FROM {Sql.LinkTable(field)} l WHERE l.target = $1";
        var table = Sql.Of(field);
        var column = field.ColumnNames("p.")("");
        return !field.Part.IsLines ? $"SELECT p.id FROM {table} p WHERE {column} = $1"
            : field.IsAdded ? $"SELECT DISTINCT h.parent FROM {table} p JOIN {Sql.Base(field.Part)} h ON h.id = p.id WHERE {column} = $1"
            : $"SELECT DISTINCT p.parent FROM {table} p WHERE {column} = $1";
    }
}
