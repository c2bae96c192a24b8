using System.Text;
using System.Text.Json;
using CsvHelper;
using Pelto.Core.Auditing;
using Pelto.Data.Auditing;
using Pelto.Web.Pages;

namespace Pelto.Web.Components;

/// <summary>
/// The audit as a file, oldest first: CSV (RFC 4180), or JSON (RFC 8259) after <c>audit.schema.json</c>. What this person may not read is
/// masked, and such an entry carries no digest, since that would not fit.
/// </summary>
internal static class AuditExport
{
    private static readonly string[] Headings =
    [
        "number",
        "at",
        "person",
        "by",
        "from",
        "kind",
        "subject",
        "what",
        "before",
        "after",
        "recordType",
        "record",
        "line",
        "hash",
    ];

    public static void MapAuditExport(this WebApplication app)
    {
        app.MapGet("/setup/audit/export.csv", WriteCsvAsync).RequireAuthorization(Policies.Administer);
        app.MapGet("/setup/audit/export.json", WriteJsonAsync).RequireAuthorization(Policies.Administer);
        app.MapGet("/setup/audit/schema.json", static () =>
                Results.Stream(typeof(AuditEntry).Assembly.GetManifestResourceStream("audit.schema.json")!, "application/schema+json")
            )
            .RequireAuthorization(Policies.Administer);
    }

    private static async Task<IResult> WriteCsvAsync(
        [AsParameters] AuditFilter asked,
        HttpContext context,
        CurrentRequest request,
        AuditReader audit,
        CancellationToken cancel
    )
    {
        var entries = Begin(asked, context, request, audit, "text/csv; charset=utf-8; header=present", "audit.csv", cancel);
        await using var writer = new StreamWriter(context.Response.Body, new UTF8Encoding(encoderShouldEmitUTF8Identifier: true));
        await using var csv = new CsvWriter(writer, CultureInfo.InvariantCulture, leaveOpen: true);
        foreach (var heading in Headings)
            csv.WriteField(heading);
        await csv.NextRecordAsync();
        await foreach (var (entry, hash) in entries)
        {
            foreach (var text in Texts(entry, hash))
                csv.WriteCell(text);
            await csv.NextRecordAsync();
        }

        return Results.Empty;
    }

    private static async Task<IResult> WriteJsonAsync(
        [AsParameters] AuditFilter asked,
        HttpContext context,
        CurrentRequest request,
        AuditReader audit,
        CancellationToken cancel
    )
    {
        var entries = Begin(asked, context, request, audit, "application/json", "audit.json", cancel);
        await using var json = new Utf8JsonWriter(
            context.Response.BodyWriter,
            new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }
        );
        json.WriteStartArray();
        await foreach (var (entry, hash) in entries)
        {
            json.WriteStartObject();
            json.WriteNumber("number", entry.Number);
            foreach (var (heading, text) in Headings.Zip(Texts(entry, hash)).Skip(1))
            {
                if (text is null)
                    continue;
                if (heading is "record" or "line")
                    json.WriteNumber(heading, long.Parse(text, CultureInfo.InvariantCulture));
                else
                    json.WriteString(heading, text);
            }

            json.WriteEndObject();
            if (json.BytesPending > 16_384)
                await json.FlushAsync(cancel);
        }

        json.WriteEndArray();
        return Results.Empty;
    }

    private static IAsyncEnumerable<(AuditEntry Entry, string? Hash)> Begin(
        AuditFilter asked,
        HttpContext context,
        CurrentRequest request,
        AuditReader audit,
        string type,
        string name,
        CancellationToken cancel
    )
    {
        context.Response.ContentType = type;
        context.Response.Headers.ContentDisposition = $"attachment; filename=\"{name}\"";
        context.Response.Headers.CacheControl = "no-store";
        var view = new AuditView(request.Catalogue, request.Viewer);
        return audit
            .ReadAsync(asked.ToSearch(request.Locale, []), cancel)
            .Select(stored => (view.For(stored.Entry), view.For(stored.Entry) == stored.Entry ? stored.Hash : null));
    }

    private static string?[] Texts(AuditEntry entry, string? hash) =>
        [
            Plain(entry.Number),
            AuditEntry.Time(entry.At),
            entry.Person?.ToString(),
            entry.By,
            entry.From,
            entry.Note.Kind,
            entry.Note.Subject,
            entry.Note.What,
            entry.Note.Before,
            entry.Note.After,
            entry.Note.RecordType,
            Plain(entry.Note.Record),
            Plain(entry.Note.Line),
            hash,
        ];

    private static string? Plain(long? number) => number?.ToString(CultureInfo.InvariantCulture);
}
