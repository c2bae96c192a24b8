using CsvHelper;
using Pelto.Core.Records;
using Pelto.Data.Records;

namespace Pelto.Data.Hosts;

/// <summary>
/// Loads the sample data of a host: one CSV file (RFC 4180) for each table, links by the target's identifier. What formulas fill is
/// computed here as everywhere.
/// </summary>
internal sealed class SampleData(HostReader host, Catalogue catalogue, NpgsqlConnection connection)
{
    private readonly Dictionary<(string Type, string Identifier), long> ids = [];
    private readonly Dictionary<(Part Part, string Identifier, int Position), long> lineIds = [];

    public async Task LoadAsync(CancellationToken cancel)
    {
        foreach (var type in TargetsFirst())
        {
            if (host.DataFile(type.Code) is not { } file)
                continue;
            var records = ReadHeaders(type, file);
            foreach (var part in type.LineParts)
                if (host.DataFile(part.Table) is { } lines)
                    ReadLines(part, lines, records);
            foreach (var record in records.Values)
                Pipeline.Fill(record);
            await CopyAsync(type.Header, [.. records.Values.Select(record => (record.Id!.Value, 0L, 0, record.Header))], cancel);
            foreach (var part in type.LineParts)
            {
                var rows = records
                    .SelectMany(record =>
                        record
                            .Value.LinesOf(part)
                            .Select((line, position) => (record.Key, Parent: record.Value.Id!.Value, position, line.Values))
                    )
                    .ToList();
                foreach (var (row, at) in rows.Select((row, at) => (row, at)))
                    lineIds.Add((part, row.Key, row.position + 1), at + 1);
                await CopyAsync(part, [.. rows.Select((row, at) => (at + 1L, row.Parent, row.position, row.Values))], cancel);
            }
        }
    }

    private IReadOnlyList<RecordType> TargetsFirst()
    {
        var order = new List<RecordType>();
        foreach (var type in catalogue.RecordTypes)
            Visit(type, []);
        return order;

        void Visit(RecordType type, HashSet<RecordType> path)
        {
            if (order.Contains(type) || !path.Add(type))
                return;
            foreach (var target in type.Parts.SelectMany(part => part.Fields).Select(field => field.Target).OfType<RecordType>())
                Visit(target, path);
            order.Add(type);
        }
    }

    private Dictionary<string, RecordState> ReadHeaders(RecordType type, string file)
    {
        var records = new Dictionary<string, RecordState>(StringComparer.Ordinal);
        foreach (var row in Rows(file))
        {
            var record = new RecordState(type) { Id = records.Count + 1 };
            Fill(type.Header, row, record.Header);
            var identifier = type.Identifier.Kind.Format(record.Header[type.Identifier.Slot]);
            records.Add(identifier, record);
            ids.Add((type.Code, identifier), record.Id.Value);
        }

        return records;
    }

    private void ReadLines(Part part, string file, Dictionary<string, RecordState> records)
    {
        foreach (var row in Rows(file))
        {
            var line = new LineState("", null, new Value[part.Fields.Count]);
            Fill(part, row, line.Values);
            records[row["parent"]].LinesOf(part).Add(line);
        }
    }

    private void Fill(Part part, Dictionary<string, string> row, Value[] values)
    {
        foreach (var field in part.Fields)
        {
            var text = (field.Content as FieldDescription)
                ?.OtherCodes.Prepend(field.Code)
                .Select(row.GetValueOrDefault)
                .FirstOrDefault(found => found is not null)
                ?? "";
            if (text.Length == 0)
                continue;
            if (field.Kind is { IsOneLink: true, TargetCode: { } target })
            {
                values[field.Slot] = ids.TryGetValue((target, text), out var id)
                    ? Value.LinkTo(id)
                    : throw new HostException($"Sample data of {part.Table} points to {target} {text}, which is not there.");
                continue;
            }

            // A line before is named by its record's number and its place there: SO-10183#2.
            if (field.LineOf is { } before && text.Split('#') is [var number, var place])
            {
                values[field.Slot] = Value.From((decimal)lineIds[(before, number, int.Parse(place, CultureInfo.InvariantCulture))]);
                continue;
            }

            var parsed = field.Kind.Parse(text);
            if (parsed.Refusal is { } refusal)
                throw new HostException($"Sample data of {part.Table}, {field.Code}: {refusal}");
            values[field.Slot] = parsed.Value;
        }
    }

    private static IEnumerable<Dictionary<string, string>> Rows(string file)
    {
        using var reader = new CsvReader(new StreamReader(file), CultureInfo.InvariantCulture);
        reader.Read();
        reader.ReadHeader();
        var header = reader.HeaderRecord ?? throw new HostException($"{file} has no heading.");
        while (reader.Read())
            yield return header
                .Select((name, i) => (name, value: reader.GetField(i) ?? ""))
                .ToDictionary(pair => pair.name, pair => pair.value, StringComparer.Ordinal);
    }

    private async Task CopyAsync(Part part, List<(long Id, long Parent, int Position, Value[] Values)> rows, CancellationToken cancel)
    {
        var columns = new List<string> { "id" };
        if (part.IsLines)
            columns.AddRange(["parent", "position"]);
        columns.AddRange(part.Fields.SelectMany(field => Columns.Quoted(field)));
        await using (
            var writer = await connection.BeginBinaryImportAsync(
                $"COPY {Sql.Table(Sql.Erp, part.Table)} ({string.Join(", ", columns)}) FROM STDIN (FORMAT BINARY)",
                cancel
            )
        )
        {
            foreach (var (id, parent, position, values) in rows)
            {
                await writer.StartRowAsync(cancel);
                await writer.WriteAsync(id, cancel);
                if (part.IsLines)
                {
                    await writer.WriteAsync(parent, cancel);
                    await writer.WriteAsync(position, cancel);
                }

                foreach (var field in part.Fields)
                {
                    for (var i = 0; i < field.Columns.Count; i++)
                    {
                        if (field.Kind.ToColumn(values[field.Slot], i) is { } value)
                            await writer.WriteAsync(value, cancel);
                        else
                            await writer.WriteNullAsync(cancel);
                    }
                }
            }

            await writer.CompleteAsync(cancel);
        }

        await connection.Command($"SELECT setval('{RecordNumbers.IdSequence(part)}', {rows.Count + 1}, false)").RunAsync(cancel);
    }
}
