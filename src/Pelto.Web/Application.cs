using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Hosts;
using Pelto.Web.Api;
using Pelto.Web.Components;
using Pelto.Web.Live;

namespace Pelto.Web;

/// <summary>Puts the application together.</summary>
public static class Application
{
    /// <summary>The setting that names the database, as a connection string.</summary>
    public const string DatabaseSetting = "PELTO_DATABASE";

    /// <summary>The setting that names the folder of the host description.</summary>
    public const string HostSetting = "PELTO_HOST";

    private const int MostInputs = 50_000;

    /// <summary>The setting that names the file with the key of secrets.</summary>
    public const string KeySetting = "PELTO_KEY";

    /// <summary>Builds the application with the services and routes of production.</summary>
    public static WebApplication Build(string[] args)
    {
        var builder = WebApplication.CreateBuilder(args);
        AddServices(builder);
        var app = builder.Build();
        Use(app);
        return app;
    }

    private static void AddServices(WebApplicationBuilder builder)
    {
        var services = builder.Services;
        services.AddPeltoData(Setting(builder.Configuration, DatabaseSetting), Setting(builder.Configuration, HostSetting), Setting(builder.Configuration, KeySetting));

        // First of all that starts: others read tables that it makes.
        services.AddSingleton<StartUp>();
        services.AddHostedService(provider => provider.GetRequiredService<StartUp>());
        services.AddDataProtection().SetApplicationName("Pelto").PersistKeysToDbContext<PeltoContext>();
        services.AddIdentityCore<Person>().AddRoles<Role>().AddEntityFrameworkStores<PeltoContext>().AddSignInManager();
        services.AddAuthentication(IdentityConstants.ApplicationScheme)
            .AddScheme<Microsoft.AspNetCore.Authentication.AuthenticationSchemeOptions, BearerTokens>(BearerTokens.Scheme, null)
            .AddCookie(IdentityConstants.ApplicationScheme, ConfigureCookie);
        services.AddAuthorizationBuilder()
            .AddPolicy(Policies.SetUp, policy => policy.RequireAuthenticatedUser().RequireRole(Core.Access.Viewer.Administrator))
            .AddPolicy(Policies.Interface, policy => policy.AddAuthenticationSchemes(BearerTokens.Scheme).RequireAuthenticatedUser());
        services.AddAntiforgery(options => options.HeaderName = "X-Antiforgery");
        // A long order has more inputs than the framework takes by itself, and so has a long list of choices.
        services.Configure<FormOptions>(options => options.ValueCountLimit = MostInputs);
        services.Configure<MvcOptions>(options => options.MaxModelBindingCollectionSize = MostInputs);
        services.AddRazorPages(pages =>
        {
            pages.Conventions.AuthorizeFolder("/");
            foreach (var open in new[] { "/Account/SignIn", "/Account/SignOut", "/Account/Refused", "/Account/Missing", "/Outside/Form" }) pages.Conventions.AllowAnonymousToPage(open);
            pages.Conventions.AuthorizeFolder("/Setup", Policies.SetUp);
            pages.Conventions.AuthorizeFolder("/Access", Policies.SetUp);
        });
        services.AddRateLimiter(static limiter => limiter.AddPolicy(Policies.Outside, OutsideLimits.Of).OnRejected = OutsideLimits.RefuseAsync);
        services.AddHttpContextAccessor();
        services.AddScoped<CurrentRequest>();
        services.AddScoped<FormReader>();
        services.AddScoped<TargetFinder>();
        services.AddScoped<FindOrDo>();
        services.AddSingleton<OfferTokens>();
        services.AddSingleton<OfferProofs>();
        services.AddScoped<RecordForms>();
        services.AddScoped<ChoiceAdder>();
        services.AddScoped<FieldEffects>();
        services.AddSingleton<AccessGaps>();
        services.AddScoped<Origins>();
        services.AddSingleton<RecordCounts>();
        services.AddSingleton<LiveHub>();
        services.AddSingleton<Publishing>();
        services.AddHostedService<ReleaseListener>();
        services.AddSingleton<JobService>();
        services.AddHostedService(provider => provider.GetRequiredService<JobService>());
        services.AddHealthChecks().AddCheck<Readiness>("database", tags: ["ready"]);
        services.Configure<HostOptions>(options => options.ShutdownTimeout = TimeSpan.FromSeconds(4));
    }

    private static string Setting(IConfiguration configuration, string name) =>
        configuration[name] ?? throw new HostException($"The setting {name} is missing. ./pelto run sets it.");

    private static void ConfigureCookie(CookieAuthenticationOptions cookie)
    {
        cookie.Cookie.Name = "pelto";
        cookie.Cookie.HttpOnly = true;
        cookie.Cookie.SameSite = SameSiteMode.Lax;
        cookie.LoginPath = "/account/sign-in";
        cookie.AccessDeniedPath = "/account/refused";
        cookie.ReturnUrlParameter = "returnUrl";
        cookie.ExpireTimeSpan = TimeSpan.FromDays(14);
        cookie.SlidingExpiration = true;
    }

    private static void Use(WebApplication app)
    {
        app.UseMiddleware<SafetyHeaders>();
        app.UseExceptionHandler(new ExceptionHandlerOptions
        {
            ExceptionHandler = Failures.AnswerAsync,
            SuppressDiagnosticsCallback = static context => context.Exception is Data.Records.AccessRefusedException,
        });
        app.UseStatusCodePagesWithReExecute("/account/missing");
        app.UseStaticFiles(new StaticFileOptions { OnPrepareResponse = static file => file.Context.Response.Headers.CacheControl = "public, max-age=0, must-revalidate" });
        app.UseRouting();
        app.UseRateLimiter();
        app.UseAuthentication();
        app.UseAuthorization();
        app.Use(static next => context => CurrentRequest.LoadOwnAsync(context, next));
        app.MapRazorPages();
        app.MapGet("/", (CurrentRequest request) => Results.Redirect($"/records/{request.ReadableTypes().First().Code}")).RequireAuthorization();
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
    public const string Interface = "interface";
    public const string Outside = "outside";
}
