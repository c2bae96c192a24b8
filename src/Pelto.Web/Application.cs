using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Logging.Console;
using Pelto.Data.Hosts;
using Pelto.Data.SigningIn;
using Pelto.Web.Api;
using Pelto.Web.Live;
using Pelto.Web.Pages;

namespace Pelto.Web;

/// <summary>Puts the application together.</summary>
public static class Application
{
    /// <summary>The setting that names the database, as a connection string.</summary>
    public const string DatabaseSetting = "PELTO_DATABASE";

    /// <summary>The setting that names the folder of the host description.</summary>
    public const string HostSetting = "PELTO_HOST";

    /// <summary>The setting that names the proxies in front, by their addresses: what they say of sender and scheme is believed.</summary>
    public const string ProxySetting = "PELTO_PROXY";

    /// <summary>
    /// The setting that holds the names by which browsers reach it through a proxy; it answers to these and on loopback alone.
    /// </summary>
    public const string NamesSetting = "PELTO_NAMES";

    private static readonly string[] Loopback = ["localhost", "127.0.0.1", "[::1]"];

    private const int MaxInputs = 50_000;

    // Files have a limit of their own; all else is text that people typed, or a definition.
    private const long MaxBody = 10 * 1024 * 1024;

    /// <summary>The setting that names the file with the key of secrets.</summary>
    public const string KeySetting = "PELTO_KEY";

    /// <summary>Builds the application with the services and routes of production.</summary>
    public static WebApplication Build(string[] args)
    {
        var builder = WebApplication.CreateBuilder(args);
        // Who reads along gets lines; what collects them gets an object for each.
        if (Console.IsOutputRedirected)
            builder.Logging.AddJsonConsole(static json => (json.UseUtcTimestamp, json.TimestampFormat) = (true, "O"));

        // A task of the command line answers on its output, and with nothing else.
        if (args is [var task, ..] && !task.StartsWith('-'))
            builder.Services.Configure<ConsoleLoggerOptions>(static console => console.LogToStandardErrorThreshold = LogLevel.Trace);
        AddServices(builder);
        var app = builder.Build();
        Use(app);
        return app;
    }

    private static void AddServices(WebApplicationBuilder builder)
    {
        var services = builder.Services;
        services.AddPeltoData(
            Setting(builder.Configuration, DatabaseSetting),
            Setting(builder.Configuration, HostSetting),
            Setting(builder.Configuration, KeySetting)
        );

        // First of all that starts: others read tables that it makes.
        services.AddSingleton<StartUp>();
        services.AddHostedService(provider => provider.GetRequiredService<StartUp>());
        services.AddDataProtection().SetApplicationName("Pelto").PersistKeysToDbContext<PeltoContext>();
        services
            .AddAuthentication(IdentityConstants.ApplicationScheme)
            .AddScheme<Microsoft.AspNetCore.Authentication.AuthenticationSchemeOptions, BearerTokens>(BearerTokens.Scheme, null)
            .AddCookie(IdentityConstants.ApplicationScheme, ConfigureCookie);
        services
            .AddAuthorizationBuilder()
            .AddWork(Policies.SetUp, AdminWork.Define, AdminWork.Query, AdminWork.Grant, AdminWork.Publish)
            .AddWork(Policies.Define, AdminWork.Define)
            .AddWork(Policies.Query, AdminWork.Query)
            .AddWork(Policies.Arrange, AdminWork.Arrange)
            .AddWork(Policies.Grant, AdminWork.Grant)
            .AddWork(Policies.People, AdminWork.People)
            .AddPolicy(Policies.Administer, policy =>
                policy
                    .RequireAuthenticatedUser()
                    .RequireAssertion(static context =>
                        context.Resource is HttpContext http && SignedIn.In(http) is { } who && AdminRights.All(who.Viewer)
                    )
            )
            .AddPolicy(Policies.Interface, policy => policy.AddAuthenticationSchemes(BearerTokens.Scheme).RequireAuthenticatedUser());
        services.AddAntiforgery(options =>
        {
            (options.HeaderName, options.Cookie.Name) = ("X-Antiforgery", "pelto_forms");
            (options.Cookie.HttpOnly, options.Cookie.SameSite, options.Cookie.SecurePolicy) = (
                true,
                SameSiteMode.Strict,
                CookieSecurePolicy.SameAsRequest
            );
        });
        // A long order has more inputs than the framework takes by itself, and so has a long list of choices.
        services.Configure<FormOptions>(options => options.ValueCountLimit = MaxInputs);
        services.Configure<MvcOptions>(options =>
        {
            options.MaxModelBindingCollectionSize = MaxInputs;
            options.ModelBinderProviders.Insert(0, new TextBinder());
            options.Filters.Add<KnownHandlers>();
            options.Filters.Add<ShownDefinitions>();
        });
        services.AddRazorPages(pages =>
        {
            pages.Conventions.AuthorizeFolder("/");
            foreach (
                var open in new[]
                {
                    "/Account/SignIn",
                    "/Account/SignOut",
                    "/Account/Welcome",
                    "/Account/Refused",
                    "/Account/Missing",
                    "/Outside/Form",
                }
            )
                pages.Conventions.AllowAnonymousToPage(open);
            pages.Conventions.AuthorizeFolder("/Setup", Policies.SetUp);
            foreach (var page in new[] { "Field", "List", "Type", "Types", "Lists", "Set", "Form" })
                pages.Conventions.AuthorizePage("/Setup/" + page, Policies.Define);
            foreach (var page in new[] { "Query", "Queries" })
                pages.Conventions.AuthorizePage("/Setup/" + page, Policies.Query);
            foreach (var page in new[] { "Pointing", "Shortcuts" })
                pages.Conventions.AuthorizePage("/Setup/" + page, Policies.Arrange);
            foreach (var page in new[] { "Update", "Removed" })
                pages.Conventions.AuthorizePage("/Setup/" + page, Policies.Administer);
            foreach (var page in new[] { "Access", "Why", "Person" })
                pages.Conventions.AuthorizePage("/Access/" + page, Policies.Grant);
            pages.Conventions.AuthorizePage("/Access/Audit", Policies.Administer);
            pages.Conventions.AuthorizeFolder("/Rights", Policies.People);
        });
        services.AddRateLimiter(limiter =>
        {
            limiter.AddPolicy(Policies.Outside, SenderLimits.OfOutside).OnRejected = SenderLimits.RefuseAsync;
            limiter.GlobalLimiter = SenderLimits.OfAll(builder.Configuration);
        });
        services.AddHsts(static hsts => (hsts.MaxAge, hsts.IncludeSubDomains) = (TimeSpan.FromDays(365), true));
        builder.WebHost.ConfigureKestrel(static kestrel => (kestrel.AddServerHeader, kestrel.Limits.MaxRequestBodySize) = (false, MaxBody));
        TrustProxy(services, builder.Configuration[ProxySetting]);
        services.Configure<HostFilteringOptions>(hosts =>
            hosts.AllowedHosts = [.. Loopback, .. Listed(builder.Configuration[NamesSetting])]
        );
        services.AddHttpContextAccessor();
        services.AddScoped<CurrentRequest>();
        services.AddScoped<Confirming>();
        services.AddScoped<FormReader>();
        services.AddScoped<TargetFinder>();
        services.AddScoped<FindOrDo>();
        services.AddSingleton<OfferTokens>();
        services.AddSingleton<OfferProofs>();
        services.AddScoped<RecordForms>();
        services.AddScoped<RecordEditing>();
        services.AddScoped<TypingAnswers>();
        services.AddScoped<NewRecords>();
        services.AddScoped<RelatedRecords>();
        services.AddScoped<LinkOffers>();
        services.AddSingleton<SmallReleases>();
        services.AddSingleton<StockNotes>();
        services.AddScoped<ChoiceAdder>();
        services.AddScoped<FieldEffects>();
        services.AddScoped<PreviewRecords>();
        services.AddScoped<ArrangedScreens>();
        services.AddScoped<FieldCheck>();
        services.AddScoped<FieldSamples>();
        services.AddScoped<FieldFormulas>();
        services.AddScoped<FieldPreviews>();
        services.AddScoped<QueryTrying>();
        services.AddScoped<RoleEditing>();
        services.AddScoped<FieldProofs>();
        services.AddScoped<FieldLives>();
        services.AddSingleton<AccessGaps>();
        services.AddScoped<Components.Origins>();
        services.AddSingleton<RecordCounts>();
        services.AddSingleton<LiveHub>();
        services.AddSingleton<Publishing>();
        services.AddHostedService(provider => provider.GetRequiredService<Publishing>());
        services.AddHostedService<ReleaseListener>();
        services.AddHostedService<LateQueriesService>();
        services.AddSingleton<JobService>();
        services.AddHostedService(provider => provider.GetRequiredService<JobService>());
        services.AddHealthChecks().AddCheck<Readiness>("database", tags: ["ready"]);
        services.Configure<HostOptions>(options => options.ShutdownTimeout = TimeSpan.FromSeconds(4));
    }

    // Read before anything starts, so that a mistake is a sentence and no failure.
    private static void TrustProxy(IServiceCollection services, string? setting)
    {
        var proxies = Listed(setting)
            .Select(static proxy =>
                System.Net.IPAddress.TryParse(proxy, out var address)
                    ? address
                    : throw new HostException($"{ProxySetting} names {proxy}, which is not an address of a network.")
            )
            .ToList();
        services.Configure<ForwardedHeadersOptions>(forwarded =>
        {
            forwarded.ForwardedHeaders =
                proxies.Count == 0 ? ForwardedHeaders.None : ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto;
            forwarded.KnownIPNetworks.Clear();
            forwarded.KnownProxies.Clear();
            foreach (var proxy in proxies)
                forwarded.KnownProxies.Add(proxy);
        });
    }

    private static string[] Listed(string? text) => (text ?? "").Split([',', ' '], StringSplitOptions.RemoveEmptyEntries);

    private static string Setting(IConfiguration configuration, string name) =>
        configuration[name] ?? throw new HostException($"The setting {name} is missing. ./pelto run sets it.");

    private static void ConfigureCookie(CookieAuthenticationOptions cookie)
    {
        cookie.Cookie.Name = "pelto";
        cookie.Cookie.HttpOnly = true;
        cookie.Cookie.SameSite = SameSiteMode.Lax;
        cookie.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
        cookie.LoginPath = "/account/sign-in";
        cookie.AccessDeniedPath = "/account/refused";
        cookie.ReturnUrlParameter = "returnUrl";
        cookie.ExpireTimeSpan = Sessions.Longest;
        cookie.SlidingExpiration = false;
        cookie.Events.OnValidatePrincipal = SignedIn.ValidateAsync;
    }

    private static void Use(WebApplication app)
    {
        app.UseForwardedHeaders();
        app.UseHsts();
        app.UseMiddleware<SafetyHeaders>();
        app.UseExceptionHandler(
            new ExceptionHandlerOptions
            {
                ExceptionHandler = Failures.AnswerAsync,
                SuppressDiagnosticsCallback = static context => Failures.IsTheirs(context.Exception),
            }
        );
        app.UseStatusCodePagesWithReExecute("/account/missing");
        app.UseStaticFiles(
            new StaticFileOptions
            {
                OnPrepareResponse = static file => file.Context.Response.Headers.CacheControl = "public, max-age=0, must-revalidate",
            }
        );
        app.UseRouting();
        app.Use(static next => context => SenderLimits.KnowAsync(context, next));
        app.UseRateLimiter();
        app.UseAuthentication();
        app.Use(static next => context => SignedIn.DemandFactorAsync(context, next));
        app.UseAuthorization();
        app.Use(static next => context => CurrentRequest.LoadOwnAsync(context, next));
        app.MapRazorPages();
        app.MapGet("/", (CurrentRequest request) =>
                Results.Redirect(request.ReadableTypes().FirstOrDefault() is { } first ? $"/records/{first.Code}" : "/account/settings")
            )
            .RequireAuthorization();
        app.MapLive();
        app.MapLookUps();
        app.MapExport();
        app.MapAuditExport();
        app.MapFiles();
        app.MapOrigins();
        app.MapInterface();
        app.MapHealth();
    }
}

/// <summary>Names of authorization policies.</summary>
internal static class Policies
{
    public const string SetUp = "set-up";
    public const string Define = "define";
    public const string Query = "query";
    public const string Arrange = "arrange";
    public const string Grant = "grant";
    public const string People = "people";
    public const string Administer = "administer";
    public const string Interface = "interface";
    public const string Outside = "outside";

    /// <summary>
    /// A policy for whoever may do one of these works on Pelto somewhere; what exactly they may touch is decided where it is changed.
    /// </summary>
    public static AuthorizationBuilder AddWork(this AuthorizationBuilder builder, string name, params string[] works) =>
        builder.AddPolicy(name, policy =>
            policy
                .RequireAuthenticatedUser()
                .RequireAssertion(context =>
                    context.Resource is HttpContext http && SignedIn.In(http) is { } who && works.Any(who.Viewer.May)
                )
        );
}
