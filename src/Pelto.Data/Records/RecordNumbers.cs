namespace Pelto.Data.Records;

/// <summary>Numbers of records and ids of rows.</summary>
internal static class RecordNumbers
{
    /// <summary>Gives a new record its number.</summary>
    /// <remarks>
    /// A sequence of the database never waits for another save, and may leave gaps. Where there must be none, the counter is a row of this
    /// transaction's own: the next to create a record waits until this one is on file or has failed, and then gets the number.
    /// </remarks>
    public static async Task GiveAsync(NpgsqlTransaction transaction, RecordState state, DateOnly today, CancellationToken cancel)
    {
        foreach (var field in state.Type.Header.Fields)
        {
            if (field.Numbering is not { } pattern)
                continue;
            var company =
                pattern.PerCompany
                && state.Type.Header.Find(RecordTypeDefinition.CompanyCode) is { } of
                && state.Header[of.Slot] is { DataType: DataType.Text } code
                    ? code.Text
                    : "";
            var (year, start) = (
                (pattern.WithYear ? today.Year : 0).ToString(CultureInfo.InvariantCulture),
                pattern.Start.ToString(CultureInfo.InvariantCulture)
            );
            await using var next = new NpgsqlCommand(
                pattern switch
                {
                    { Gapless: true, PerCompany: true } =>
                        $"INSERT INTO {Counter(field)} AS c (year, company, last) VALUES ({year}, $1, {start}) "
                            + "ON CONFLICT (year, company) DO UPDATE SET last = c.last + 1 RETURNING last",
                    { Gapless: true } => $"INSERT INTO {Counter(field)} AS c (year, last) VALUES ({year}, {start}) "
                        + "ON CONFLICT (year) DO UPDATE SET last = c.last + 1 RETURNING last",
                    _ => $"SELECT nextval('{Sequence(field, company)}')",
                },
                transaction.Connection,
                transaction
            );
            if (pattern is { Gapless: true, PerCompany: true })
                next.Parameters.Add(new() { Value = company });
            state.Header[field.Slot] = Value.From(pattern.Write((long)(await next.ExecuteScalarAsync(cancel))!, today.Year, company));
        }
    }

    /// <summary>The sequence behind numbers that may have gaps.</summary>
    public static string Sequence(Field field, string company = "") =>
        Sql.Table(
            Sql.SchemaOf(field.Part.RecordType),
            $"{field.Part.Table}_{field.Code}_number{(company.Length > 0 ? "_" + company : "")}"
        );

    /// <summary>The table of counters behind numbers without gaps.</summary>
    public static string Counter(Field field) => Sql.Table(Sql.SchemaOf(field.Part.RecordType), $"{field.Part.Table}_{field.Code}_counter");

    /// <summary>The sequence behind the ids of rows.</summary>
    public static string IdSequence(Part part) => Sql.Table(Sql.SchemaOf(part.RecordType), $"{part.Table}_id");

    /// <summary>Ids for new rows of a part.</summary>
    public static async Task<List<long>> NextIdsAsync(NpgsqlTransaction transaction, Part part, int count, CancellationToken cancel)
    {
        await using var command = new NpgsqlCommand(
            $"SELECT nextval('{IdSequence(part)}') FROM generate_series(1, $1)",
            transaction.Connection,
            transaction
        );
        command.Parameters.Add(new() { Value = count });
        await using var reader = await command.ExecuteReaderAsync(cancel);
        var ids = new List<long>(count);
        while (await reader.ReadAsync(cancel))
            ids.Add(reader.GetInt64(0));
        return ids;
    }
}
