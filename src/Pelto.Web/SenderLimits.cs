using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.RateLimiting;
using Pelto.Data.Records;
using Pelto.Data.SigningIn;
using Pelto.Web.Api;

namespace Pelto.Web;

/// <summary>How often one sender may ask. How many entries of a public form one may send is counted with the entries, see <see cref="Entries"/>; tries to sign in with the names that are tried, see <see cref="Data.SigningIn.SignInTries"/>.</summary>
internal static class SenderLimits
{
    // Enough to type in a picker, too little to read out what a form offers.
    private const int OutsideInAMinute = 120;

    // A whole office may come from one address in the morning; each try costs as much as checking a password does.
    private const int SigningInInAMinute = 120;

    // A program that carries a token: some dozens a second for as long as it likes, and a thousand at once.
    private const int ByTokenAtOnce = 2_000;
    private const int ByTokenInASecond = 100;

    /// <summary>Of a public form.</summary>
    public static RateLimitPartition<string> OfOutside(HttpContext context) => InAMinute(Sender(context), OutsideInAMinute);

    /// <summary>Of everything else, where it matters: signing in, and the programming interface.</summary>
    public static RateLimitPartition<string> OfAll(HttpContext context)
    {
        if (context.Request.Path.StartsWithSegments(Interface.Root))
        {
            // By the token itself, however the header is written; what is none counts for its sender.
            return RateLimitPartition.GetTokenBucketLimiter(Tokens.DigestOf(BearerTokens.TokenOf(context.Request)) is { } digest ? "token " + digest : "sender " + Sender(context),
                static _ => new() { TokenLimit = ByTokenAtOnce, TokensPerPeriod = ByTokenInASecond, ReplenishmentPeriod = TimeSpan.FromSeconds(1), QueueLimit = 0 });
        }

        return HttpMethods.IsPost(context.Request.Method) && (context.Request.Path.StartsWithSegments("/account/sign-in") || context.Request.Path.StartsWithSegments("/account/welcome"))
            ? InAMinute("signing in " + Sender(context), SigningInInAMinute) : RateLimitPartition.GetNoLimiter("");
    }

    /// <summary>Says so.</summary>
    public static async ValueTask RefuseAsync(OnRejectedContext context, CancellationToken cancel)
    {
        var (http, response) = (context.HttpContext, context.HttpContext.Response);
        response.StatusCode = StatusCodes.Status429TooManyRequests;
        response.Headers.RetryAfter = (http.Request.Path.StartsWithSegments(Interface.Root) ? 1 : 30).ToString(CultureInfo.InvariantCulture);
        if (http.Request.Path.StartsWithSegments(Interface.Root)) await Problems.Of(response.StatusCode, "This came too often. Wait a second, then go on more slowly.").ExecuteAsync(http);
        else await Failures.WriteAsync(http, "From where you are, this was asked for very often just now. Please wait half a minute; what you typed is still on your page.", cancel);
    }

    private static string Sender(HttpContext context) => new Sender(context.Connection.RemoteIpAddress, "").Network;

    private static RateLimitPartition<string> InAMinute(string sender, int most) =>
        RateLimitPartition.GetSlidingWindowLimiter(sender, _ => new() { PermitLimit = most, Window = TimeSpan.FromMinutes(1), SegmentsPerWindow = 6, QueueLimit = 0 });
}
