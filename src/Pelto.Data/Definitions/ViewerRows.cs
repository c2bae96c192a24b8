using System.Text.Json;

namespace Pelto.Data.Definitions;

/// <summary>
/// Reads people as viewers: with their roles, and with the rights that they have by role, by company, by name or as everybody.
/// </summary>
internal static class ViewerRows
{
    /// <summary>With the code of a company behind it: the setting that holds the time zone of its people who have chosen none.</summary>
    public const string ZoneOf = "zone:";

    /// <summary>What a query selects of a person <c>p</c>, from the first column on.</summary>
    public const string Columns = $"""
        p.id, p.full_name, p.user_name, p.company, p.language, coalesce(nullif(p.zone, ''), (SELECT value FROM pelto.setting WHERE name = '{ZoneOf}' || p.company), ''), m.roles,
        (SELECT jsonb_agg(jsonb_build_object('work', w.work, 'types', w.types, 'companies', w.companies))::text FROM pelto.admin_right w
            WHERE w.audience IN ('everyone', 'user:' || p.user_name, 'company:' || p.company) OR w.audience = ANY (SELECT 'role:' || r FROM unnest(m.roles) r))
        """;

    /// <summary>What it joins to the person.</summary>
    public const string Joined =
        "CROSS JOIN LATERAL (SELECT coalesce(array_agg(r.name ORDER BY r.name), '{}') AS roles "
        + "FROM pelto.person_role l JOIN pelto.role r ON r.id = l.role_id WHERE l.user_id = p.id) m";

    /// <summary>How many columns that is.</summary>
    public const int Count = 8;

    /// <summary>The viewer that a row is.</summary>
    public static Viewer Read(NpgsqlDataReader reader) =>
        new(reader.GetGuid(0), reader.GetString(1), reader.GetFieldValue<string[]>(6))
        {
            SignIn = reader.GetString(2),
            Company = reader.GetString(3),
            Locale = Locale.For(reader.GetString(4), reader.GetString(5)),
            Rights = reader.IsDBNull(7)
                ? []
                : JsonSerializer.Deserialize<List<AdminRight>>(reader.GetString(7), JsonSerializerOptions.Web)!,
        };

    /// <summary>All people of whom a condition holds, in their order.</summary>
    public static async Task<IReadOnlyList<Viewer>> AllAsync(
        NpgsqlDataSource source,
        string condition,
        CancellationToken cancel,
        params object[] values
    )
    {
        await using var command = source.CreateCommand(
            $"SELECT {Columns} FROM pelto.person p {Joined} WHERE {condition} ORDER BY p.position, p.user_name"
        );
        foreach (var value in values)
            command.Parameters.Add(new() { Value = value });
        var all = new List<Viewer>();
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            all.Add(Read(reader));
        return all;
    }
}
