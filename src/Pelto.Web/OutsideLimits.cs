using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.RateLimiting;
using Pelto.Data.Records;

namespace Pelto.Web;

/// <summary>How often one sender may ask for anything of a public form: enough to type in a picker, too little to read out what it offers. How many entries one may send is counted with the entries: see <see cref="Entries"/>.</summary>
internal static class OutsideLimits
{
    private const int MostInAMinute = 120;

    public static RateLimitPartition<string> Of(HttpContext context) => RateLimitPartition.GetSlidingWindowLimiter(
        new Sender(context.Connection.RemoteIpAddress, "").Network,
        static _ => new() { PermitLimit = MostInAMinute, Window = TimeSpan.FromMinutes(1), SegmentsPerWindow = 6, QueueLimit = 0 });

    public static async ValueTask RefuseAsync(OnRejectedContext context, CancellationToken cancel)
    {
        var response = context.HttpContext.Response;
        response.StatusCode = StatusCodes.Status429TooManyRequests;
        response.Headers.RetryAfter = 30.ToString(CultureInfo.InvariantCulture);
        await Failures.WriteAsync(context.HttpContext, "From where you are, this form was asked for very often just now. Please wait half a minute; what you typed is still on your page.", cancel);
    }
}
