using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Options;
using Pelto.Data.Auditing;
using Pelto.Data.Hosts;
using Pelto.Data.Jobs;
using Pelto.Data.Queries;
using Pelto.Data.Records;
using Pelto.Data.Releases;
using Pelto.Data.Rights;
using Pelto.Data.SigningIn;
using Pelto.Data.Storage;

namespace Pelto.Data;

/// <summary>The services of this project, put together the same way for the application, the tests and the benchmarks.</summary>
public static class PeltoData
{
    // PBKDF2 with HMAC-SHA-512 (RFC 8018), as often as OWASP's password storage cheat sheet asks (from memory).
    private const int PasswordIterations = 210_000;

    /// <summary>Adds them.</summary>
    /// <param name="services">Where to.</param>
    /// <param name="connection">The connection string of the database.</param>
    /// <param name="hostFolder">The folder of the host description.</param>
    /// <param name="keyFile">The file with the key of secrets; made when it is not there.</param>
    public static IServiceCollection AddPeltoData(this IServiceCollection services, string connection, string hostFolder, string keyFile)
    {
        services.AddSingleton(provider => ActivatorUtilities.CreateInstance<OwnerDatabase>(provider, connection));
        services.AddSingleton(provider => ActivatorUtilities.CreateInstance<ApplicationRole>(provider, connection));
        services.AddSingleton(provider => provider.GetRequiredService<ApplicationRole>().Connect());
        services.AddDbContextFactory<PeltoContext>(
            (provider, options) => PeltoContext.Configure(options, provider.GetRequiredService<Npgsql.NpgsqlDataSource>())
        );
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton(_ => new HostReader(hostFolder));
        services.AddSingleton<HostVersions>();
        services.AddSingleton<SampleCompany>();
        services.AddSingleton<RecordModels>();
        services.AddSingleton<RecordReader>();
        services.AddSingleton<RecordWriter>();
        services.AddSingleton<RecordStore>();
        services.AddSingleton<RecordSaver>();
        services.AddSingleton<RecordDeleter>();
        services.AddSingleton<SecretShowing>();
        services.AddSingleton<QueryOffers>();
        services.AddSingleton<StockLevels>();
        services.AddSingleton<RecordLists>();
        services.AddSingleton<FormulaProofs>();
        services.AddSingleton<FormulaTrials>();
        services.AddSingleton<Pointers>();
        services.AddSingleton<Chains>();
        services.AddSingleton<Entries>();
        services.AddSingleton<Catalogues>();
        services.AddSingleton<AuditTrail>();
        services.AddSingleton<AuditReader>();
        services.AddSingleton<Drafts>();
        services.AddSingleton<ReleaseHistory>();
        services.AddSingleton(_ => new Secrets(keyFile));
        services.AddSingleton<KeyCheck>();
        services.AddSingleton(provider => ActivatorUtilities.CreateInstance<QueryRole>(provider, connection));
        services.AddSingleton<QueryRunner>();
        services.AddSingleton<QueryFills>();
        services.AddSingleton<AwaitedAnswers>();
        services.AddSingleton<LateQueries>();
        services.AddSingleton<Files>();
        services.AddSingleton<ValueConversion>();
        services.AddSingleton<DataSaver>();
        services.AddSingleton<JobRunner>();
        services.AddSingleton<FactsReader>();
        services.AddSingleton<SigningIn.FactorDemand>();
        services.AddSingleton<Proposals>();
        services.AddSingleton<PublishingWatch>();
        services.AddSingleton<TakingBack>();
        services.AddSingleton<PublishingProgress>();
        services.AddSingleton<StepRunner>();
        services.AddSingleton<ReleaseSwitch>();
        services.AddSingleton<Rollout>();
        services.AddSingleton<PublishingQueue>();
        services.AddSingleton<ReleasePlans>();
        services.AddSingleton<Publisher>();
        services.AddSingleton<People>();
        services.AddSingleton<DemoSetting>();
        services.AddSingleton<Tokens>();
        services.AddSingleton<Sessions>();
        services.AddSingleton<IPasswordHasher<Person>>(
            new PasswordHasher<Person>(Options.Create(new PasswordHasherOptions { IterationCount = PasswordIterations }))
        );
        services.AddSingleton<Credentials>();
        services.AddSingleton<WaysInReader>();
        services.AddSingleton<SignInTries>();
        services.AddSingleton<ILookupNormalizer, UpperInvariantLookupNormalizer>();
        services.AddSingleton<PeopleAdmin>();
        services.AddSingleton<PeopleSettings>();
        services.AddSingleton<Presences>();
        services.AddSingleton<PersonalArrangements>();
        services.AddSingleton<Installer>(provider => ActivatorUtilities.CreateInstance<Installer>(provider));
        return services;
    }
}
