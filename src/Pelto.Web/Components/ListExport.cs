using System.Text;
using CsvHelper;

namespace Pelto.Web.Components;

/// <summary>
/// A list as a file of comma-separated values (RFC 4180): the rows and the columns that this person sees, in the same order, masked where
/// the list is masked.
/// </summary>
internal static class ListExport
{
    public static void MapExport(this WebApplication app) => app.MapGet("/records/{type}/export.csv", WriteAsync).RequireAuthorization();

    private static async Task<IResult> WriteAsync(
        string type,
        string? search,
        HttpContext context,
        CurrentRequest request,
        RecordLists lists,
        CancellationToken cancel
    )
    {
        if (request.Find(type) is not { } found)
            return Results.NotFound();
        var shown = found.Screens.ListFor(request.Viewer);
        var columns = ListOrder.Visible(shown, request.Viewer);
        var address = ListAddress.Read(found, context.Request.Query, request.Viewer);

        // Whoever opens the file sees nothing of the address any more.
        if (address.Unread.Count > 0)
            return Results.Text(
                string.Join('\n', address.Unread),
                "text/plain; charset=utf-8",
                statusCode: StatusCodes.Status400BadRequest
            );
        var query = new ListQuery(
            found,
            address.Order ?? ListOrder.For(found, shown, request.Viewer),
            RecordLists.LargestPage,
            Search: search
        )
        {
            Shown = columns.Select(column => column.Field),
            Filters = address.Filters,
        };
        context.Response.ContentType = "text/csv; charset=utf-8; header=present";
        context.Response.Headers.ContentDisposition = $"attachment; filename=\"{found.Code}.csv\"";
        context.Response.Headers.CacheControl = "no-store";

        // Written page by page, so that a long list takes no more memory than a short one.
        await using var writer = new StreamWriter(context.Response.Body, new UTF8Encoding(encoderShouldEmitUTF8Identifier: true));
        await using var csv = new CsvWriter(writer, CultureInfo.InvariantCulture, leaveOpen: true);
        foreach (var column in columns)
            csv.WriteCell(column.TextIn(request.Locale).Heading);
        await csv.NextRecordAsync();
        for (string? after = ""; after is not null; )
        {
            var page = await lists.ReadAsync(query with { After = after.Length == 0 ? null : after }, request.Viewer, cancel);
            foreach (var row in page.Rows)
            {
                foreach (var column in columns)
                    csv.WriteCell(row[column.Field].Text());
                await csv.NextRecordAsync();
            }

            await writer.FlushAsync(cancel);
            after = page.Next;
        }

        return Results.Empty;
    }
}
