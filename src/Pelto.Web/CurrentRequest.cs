using Pelto.Core.Elements;

namespace Pelto.Web;

/// <summary>Who asks, and the catalogue that this request uses from start to end.</summary>
public sealed class CurrentRequest(IHttpContextAccessor accessor, Catalogues catalogues)
{
    /// <summary>The live catalogue as of the start of this request.</summary>
    public Catalogue Catalogue { get; } = catalogues.Live;

    /// <summary>The person who asks. Throws when nobody is signed in; every route that uses it requires somebody.</summary>
    public Viewer Viewer =>
        viewer ??= Who.Viewer with { PersonalLayer = accessor.HttpContext!.Items[PersonalItem] as Func<RecordType, Layer?> };

    /// <summary>Who asks, with the session or token.</summary>
    public SignedIn Who => SignedIn.In(accessor.HttpContext!) ?? throw new InvalidOperationException("Nobody is signed in.");

    private const string PersonalItem = "own";

    /// <summary>
    /// Reads what the person who asks arranged for themselves, where screens and lists are drawn: before anything else asks who that is.
    /// </summary>
    public static async Task LoadOwnAsync(HttpContext context, RequestDelegate next)
    {
        if (
            SignedIn.In(context) is { Session: not null, Viewer.Id: var person }
            && context.Request.Path is var path
            && (path.StartsWithSegments("/records") || path.StartsWithSegments("/origins") || path.StartsWithSegments("/account/arrange"))
        )
            context.Items[PersonalItem] = await context
                .RequestServices.GetRequiredService<PersonalArrangements>()
                .OfAsync(person, context.RequestAborted);
        await next(context);
    }

    private Viewer? viewer;

    /// <summary>From here on the person has shown who they are.</summary>
    public void Confirm() => viewer = Viewer with { MustConfirm = false };

    /// <summary>From here on the request is that of somebody outside, whoever is signed in: nothing but the public form is there.</summary>
    public Viewer StayOutside(PublicForm form)
    {
        var accepted = accessor
            .HttpContext!.Request.GetTypedHeaders()
            .AcceptLanguage.OrderByDescending(one => one.Quality ?? 1)
            .Select(one => one.Value.ToString());
        return viewer = Viewer.Outside(
            form,
            Locale.For(accepted.FirstOrDefault(language => Locale.Languages.Contains(language)), null)
        ) with
        {
            From = SignedIn.From(accessor.HttpContext!),
        };
    }

    /// <summary>True when somebody is signed in.</summary>
    public bool IsSignedIn => accessor.HttpContext is { } context && SignedIn.In(context) is not null;

    /// <summary>What of the site's definitions this person is shown, who may have part of the work.</summary>
    public SiteViews Views => new(Viewer, Catalogue);

    /// <summary>The record types that this person may see.</summary>
    public IEnumerable<RecordType> ReadableTypes() => Catalogue.RecordTypes.Where(Viewer.MayRead);

    /// <summary>The shortcuts in this person's menu.</summary>
    public IEnumerable<Shortcut> Shortcuts() =>
        from shortcut in Catalogue.Site.Shortcuts
        where Audience.TryParse(shortcut.Audience, out var audience) && audience.Holds(Viewer, Catalogue.Host.Companies)
        where Shortcut.RefuseAddress(shortcut.Address) is null
        select shortcut;

    /// <summary>A record type that this person may see, or null.</summary>
    public RecordType? Find(string type) => Catalogue.Find(type) is { } found && Viewer.MayRead(found) ? found : null;

    /// <summary>The record type that the address names. Throws where <see cref="TryAddress"/> has not found one.</summary>
    public RecordType Type => type ?? throw new InvalidOperationException("This address names no record type.");

    private RecordType? type;

    /// <summary>True when this person may see the record type of a code: the one of the address from here on.</summary>
    public bool TryAddress(string code) => (type = Find(code)) is not null;

    /// <summary>The conventions in which this person reads and writes.</summary>
    public Locale Locale => viewer is not null || IsSignedIn ? Viewer.Locale : Locale.International;
}
