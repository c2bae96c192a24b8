namespace Pelto.Web.Api;

/// <summary>Errors of the programming interface as RFC 9457 problem details; particulars with JSON pointers, as in its section 3.</summary>
internal static class Problems
{
    public static IResult For(int status, string detail, IEnumerable<(string Pointer, string Sentence)>? errors = null)
    {
        var more = new Dictionary<string, object?>();
        if (errors is not null)
            more["errors"] = errors.Select(error => new { pointer = "#" + error.Pointer, detail = error.Sentence }).ToArray();
        return Results.Problem(detail, statusCode: status, extensions: more);
    }

    public static IResult NotFound(string what) => For(StatusCodes.Status404NotFound, what);
}
