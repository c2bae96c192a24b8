using System.Threading.RateLimiting;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.RateLimiting;
using Pelto.Web.Api;

namespace Pelto.Web;

/// <summary>
/// How often one sender may ask. How many entries of a public form one may send is counted with the entries, see <see cref="Entries"/>;
/// tries to sign in with the names that are tried, see <see cref="Data.SigningIn.SignInTries"/>.
/// </summary>
internal static class SenderLimits
{
    // Enough to type in a picker, too little to read out what a form offers.
    private const int OutsideInAMinute = 120;

    // A whole office may come from one address in the morning; each try costs as much as checking a password does.
    private const int SigningInInAMinute = 120;

    /// <summary>
    /// The setting that says how often in a second one person's programs may call the programming interface for as long as they like.
    /// </summary>
    public const string InASecondSetting = "PELTO_CALLS_A_SECOND";

    /// <summary>The setting that says how many calls they may make at once before that holds them.</summary>
    public const string AtOnceSetting = "PELTO_CALLS_AT_ONCE";

    private const int InASecond = 100;
    private const int AtOnce = 2_000;

    /// <summary>Of a public form.</summary>
    public static RateLimitPartition<string> OfOutside(HttpContext context) => InAMinute(Sender(context), OutsideInAMinute);

    /// <summary>Finds out whose token a call of the programming interface carries, so that it is counted for that person.</summary>
    public static async Task KnowAsync(HttpContext context, RequestDelegate next)
    {
        if (context.Request.Path.StartsWithSegments(Interface.Root))
            await context.AuthenticateAsync(BearerTokens.Scheme);
        await next(context);
    }

    /// <summary>Of everything else, where it matters: signing in, and the programming interface.</summary>
    /// <param name="settings">What an installation says of the programming interface.</param>
    public static PartitionedRateLimiter<HttpContext> OfAll(IConfiguration settings)
    {
        var (inASecond, atOnce) = (Read(settings, InASecondSetting, InASecond), Read(settings, AtOnceSetting, AtOnce));
        return PartitionedRateLimiter.Create<HttpContext, string>(context => OfAll(context, inASecond, atOnce));
    }

    private static RateLimitPartition<string> OfAll(HttpContext context, int inASecond, int atOnce)
    {
        if (context.Request.Path.StartsWithSegments(Interface.Root))
        {
            // One person counts once, with however many tokens; who is nobody counts for where they come from.
            return RateLimitPartition.GetTokenBucketLimiter(
                SignedIn.In(context) is { } who ? $"person {who.Viewer.Id}" : "sender " + Sender(context),
                _ =>
                    new()
                    {
                        TokenLimit = atOnce,
                        TokensPerPeriod = inASecond,
                        ReplenishmentPeriod = TimeSpan.FromSeconds(1),
                        QueueLimit = 0,
                    }
            );
        }

        return
            HttpMethods.IsPost(context.Request.Method)
            && (context.Request.Path.StartsWithSegments("/account/sign-in") || context.Request.Path.StartsWithSegments("/account/welcome"))
            ? InAMinute("signing in " + Sender(context), SigningInInAMinute)
            : RateLimitPartition.GetNoLimiter("");
    }

    /// <summary>Says so.</summary>
    public static async ValueTask RefuseAsync(OnRejectedContext context, CancellationToken cancel)
    {
        var (http, response) = (context.HttpContext, context.HttpContext.Response);
        response.StatusCode = StatusCodes.Status429TooManyRequests;
        response.Headers.RetryAfter = (http.Request.Path.StartsWithSegments(Interface.Root) ? 1 : 30).ToString(
            CultureInfo.InvariantCulture
        );
        if (http.Request.Path.StartsWithSegments(Interface.Root))
            await Problems.For(response.StatusCode, "Too many requests. Wait a second, then go on more slowly.").ExecuteAsync(http);
        else
            await Failures.WriteAsync(
                http,
                "This was asked for very often from your network just now. "
                    + "Please wait half a minute; what you typed is still on your page.",
                cancel
            );
    }

    private static int Read(IConfiguration settings, string name, int usual) =>
        settings[name] is not { Length: > 0 } text ? usual
        : int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number > 0 ? number
        : throw new InvalidOperationException($"{name} is “{text}”; a whole number above 0 is expected.");

    private static string Sender(HttpContext context) => new Sender(context.Connection.RemoteIpAddress, "").Network;

    private static RateLimitPartition<string> InAMinute(string sender, int most) =>
        RateLimitPartition.GetSlidingWindowLimiter(sender, _ => new()
            {
                PermitLimit = most,
                Window = TimeSpan.FromMinutes(1),
                SegmentsPerWindow = 6,
                QueueLimit = 0,
            });
}
