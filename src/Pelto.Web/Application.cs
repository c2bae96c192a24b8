using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Npgsql;
using Pelto.Core.Catalog;
using Pelto.Data;
using Pelto.Data.Definitions;
using Pelto.Data.Hosts;
using Pelto.Data.Records;
using Pelto.Data.Storage;
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
        AddData(services, builder.Configuration);

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
        services.AddRazorPages(pages =>
        {
            pages.Conventions.AuthorizeFolder("/");
            pages.Conventions.AllowAnonymousToFolder("/Account");
            pages.Conventions.AuthorizeFolder("/Setup", Policies.SetUp);
        });
        services.AddHttpContextAccessor();
        services.AddScoped<CurrentRequest>();
        services.AddScoped<FormReader>();
        services.AddScoped<RecordForms>();
        services.AddSingleton<RecordCounts>();
        services.AddSingleton<LiveHub>();
        services.AddSingleton<Publishing>();
        services.AddHostedService<ReleaseListener>();
        services.AddHealthChecks().AddCheck<Readiness>("database", tags: ["ready"]);
        services.Configure<HostOptions>(options => options.ShutdownTimeout = TimeSpan.FromSeconds(4));
    }

    private static void AddData(IServiceCollection services, IConfiguration configuration)
    {
        // The demo's own cluster answers on loopback; see the start script.
        var connection = configuration[DatabaseSetting] ?? throw new HostException($"Say which database to use: {DatabaseSetting} is not set. ./pelto run sets it.");
        services.AddSingleton(_ => NpgsqlDataSource.Create(new NpgsqlConnectionStringBuilder(connection) { MaxPoolSize = 60, ApplicationName = "Pelto" }));
        services.AddDbContextFactory<PeltoContext>((provider, options) => PeltoContext.Configure(options, provider.GetRequiredService<NpgsqlDataSource>()));
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton(_ => new HostReader(configuration[HostSetting] ?? throw new HostException($"Say which host description to use: {HostSetting} is not set. ./pelto run sets it.")));
        services.AddSingleton<HostDescription>(provider => provider.GetRequiredService<HostReader>().Read());
        services.AddSingleton<RecordModels>();
        services.AddSingleton<RecordStore>();
        services.AddSingleton<RecordLists>();
        services.AddSingleton<Catalogues>();
        services.AddSingleton<Drafts>();
        services.AddSingleton<FactsReader>();
        services.AddSingleton<Publisher>();
        services.AddSingleton<People>();
        services.AddSingleton<Presences>();
        services.AddSingleton<Installer>(provider => ActivatorUtilities.CreateInstance<Installer>(provider, new PasswordHasher<Person>(), new UpperInvariantLookupNormalizer()));
    }

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
        app.UseExceptionHandler(new ExceptionHandlerOptions { ExceptionHandler = Failures.AnswerAsync });
        app.UseStatusCodePagesWithReExecute("/account/missing");
        app.UseStaticFiles(new StaticFileOptions { OnPrepareResponse = static file => file.Context.Response.Headers.CacheControl = "public, max-age=0, must-revalidate" });
        app.UseRouting();
        app.UseAuthentication();
        app.UseAuthorization();
        app.MapRazorPages();
        app.MapGet("/", (CurrentRequest request) => Results.Redirect($"/records/{request.ReadableTypes().First().Code}")).RequireAuthorization();
        app.MapLive();
        app.MapLookUps();
        app.MapInterface();
        app.MapHealth();
    }
}

/// <summary>Names of authorization policies.</summary>
internal static class Policies
{
    public const string SetUp = "set-up";
    public const string Interface = "interface";
}
