using System.Security.Claims;
using Pelto.Core.Access;
using Pelto.Core.Catalog;
using Pelto.Core.Layouts;
using Pelto.Core.Values;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Web.Api;

namespace Pelto.Web;

/// <summary>Who asks, and the catalogue that this request uses from start to end.</summary>
public sealed class CurrentRequest(IHttpContextAccessor accessor, Catalogues catalogues)
{
    /// <summary>The live catalogue as of the start of this request.</summary>
    public Catalogue Catalogue { get; } = catalogues.Live;

    /// <summary>The person who asks. Throws when nobody is signed in; every route that uses it requires somebody.</summary>
    public Viewer Viewer => viewer ??= ViewerOf(accessor.HttpContext!.User) with { From = From(accessor.HttpContext!), Own = accessor.HttpContext!.Items[OwnItem] as Func<RecordType, Layer?> };

    private const string OwnItem = "own";

    /// <summary>Reads what the person who asks arranged for themselves, where screens and lists are drawn: before anything else asks who that is.</summary>
    public static async Task LoadOwnAsync(HttpContext context, RequestDelegate next)
    {
        if (context.User.Identity is { IsAuthenticated: true, AuthenticationType: not BearerTokens.Scheme } && context.Request.Path is var path && (path.StartsWithSegments("/records") || path.StartsWithSegments("/origins") || path.StartsWithSegments("/account/arrange")) && Guid.TryParse(context.User.FindFirstValue(ClaimTypes.NameIdentifier), out var person))
            context.Items[OwnItem] = await context.RequestServices.GetRequiredService<OwnArrangements>().OfAsync(person, context.RequestAborted);
        await next(context);
    }

    private Viewer? viewer;

    /// <summary>From where a request comes, for the audit: the address that it was sent from, behind the token that it carries.</summary>
    public static string From(HttpContext context)
    {
        var address = context.Connection.RemoteIpAddress is { } ip ? (ip.IsIPv4MappedToIPv6 ? ip.MapToIPv4() : ip).ToString() : "";
        return context.User.FindFirstValue(BearerTokens.NameClaim) is { Length: > 0 } token ? $"{token}, {address}" : address;
    }

    /// <summary>From here on the request is that of somebody outside, whoever is signed in: nothing but the public form is there.</summary>
    public Viewer StayOutside(PublicForm form)
    {
        var accepted = accessor.HttpContext!.Request.GetTypedHeaders().AcceptLanguage.OrderByDescending(one => one.Quality ?? 1).Select(one => one.Value.ToString());
        return viewer = Viewer.Outside(form, Locale.Of(accepted.FirstOrDefault(language => Locale.Languages.Contains(language)), null)) with { From = From(accessor.HttpContext!) };
    }

    /// <summary>True when somebody is signed in.</summary>
    public bool IsSignedIn => accessor.HttpContext?.User.Identity?.IsAuthenticated == true;

    /// <summary>The record types that this person may see.</summary>
    public IEnumerable<RecordType> ReadableTypes() => Catalogue.RecordTypes.Where(Viewer.MayRead);

    /// <summary>A record type that this person may see, or null.</summary>
    public RecordType? Find(string type) => Catalogue.Find(type) is { } found && Viewer.MayRead(found) ? found : null;

    private const string LanguageClaim = "language";
    private const string ZoneClaim = "zone";
    private const string CompanyClaim = "company";
    private const string SignInClaim = "sign_in";

    /// <summary>The conventions in which this person reads and writes.</summary>
    public Locale Locale => viewer is not null || IsSignedIn ? Viewer.Locale : Locale.International;

    /// <summary>The claims that make a viewer.</summary>
    public static ClaimsIdentity ToIdentity(Viewer viewer, string scheme) => new(
        [new(ClaimTypes.NameIdentifier, viewer.Id.ToString()), new(ClaimTypes.Name, viewer.Name), .. viewer.Roles.Select(role => new Claim(ClaimTypes.Role, role)),
            new(LanguageClaim, viewer.Locale.Culture.Name), new(ZoneClaim, viewer.Locale.Zone.Id), new(CompanyClaim, viewer.Company), new(SignInClaim, viewer.SignIn)], scheme);

    private static Viewer ViewerOf(ClaimsPrincipal person) => new(
        Guid.Parse(person.FindFirstValue(ClaimTypes.NameIdentifier)!), person.FindFirstValue(ClaimTypes.Name) ?? "", [.. person.FindAll(ClaimTypes.Role).Select(claim => claim.Value)])
    {
        Locale = Locale.Of(person.FindFirstValue(LanguageClaim), person.FindFirstValue(ZoneClaim)),
        Company = person.FindFirstValue(CompanyClaim) ?? "",
        SignIn = person.FindFirstValue(SignInClaim) ?? "",
    };
}
