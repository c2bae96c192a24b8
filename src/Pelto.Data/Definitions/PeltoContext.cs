using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.Logging;

namespace Pelto.Data.Definitions;

/// <summary>Pelto's own tables, in schema <c>pelto</c>. Records are not here: see <see cref="Records.RecordModels"/>.</summary>
public sealed class PeltoContext(DbContextOptions<PeltoContext> options)
    : IdentityDbContext<Person, Role, Guid>(options),
        IDataProtectionKeyContext
{
    /// <summary>The schema of our own tables.</summary>
    public const string Schema = "pelto";

    /// <summary>Releases, the live one last.</summary>
    public DbSet<ReleaseRow> Releases => Set<ReleaseRow>();

    /// <summary>States of the draft.</summary>
    public DbSet<DraftRow> Drafts => Set<DraftRow>();

    /// <summary>Attempts to publish.</summary>
    public DbSet<PublishingRow> Publishings => Set<PublishingRow>();

    /// <summary>Open pages.</summary>
    public DbSet<PresenceRow> Presences => Set<PresenceRow>();

    /// <summary>Deleted records that can be brought back.</summary>
    public DbSet<DeletedRow> Deleted => Set<DeletedRow>();

    /// <summary>Bearer tokens.</summary>
    public DbSet<TokenRow> Tokens => Set<TokenRow>();

    /// <summary>That somebody asks for the draft to be published.</summary>
    public DbSet<ProposalRow> Proposals => Set<ProposalRow>();

    /// <summary>Rights to work on Pelto itself.</summary>
    public DbSet<AdminRightRow> AdminRights => Set<AdminRightRow>();

    /// <summary>Who is signed in.</summary>
    public DbSet<SessionRow> Sessions => Set<SessionRow>();

    /// <summary>Addresses by which people choose a password.</summary>
    public DbSet<InvitationRow> Invitations => Set<InvitationRow>();

    /// <summary>Codes for a second factor that was lost.</summary>
    public DbSet<RecoveryCodeRow> RecoveryCodes => Set<RecoveryCodeRow>();

    /// <summary>Tries to sign in that failed.</summary>
    public DbSet<FailureRow> Failures => Set<FailureRow>();

    /// <summary>Files that records refer to.</summary>
    public DbSet<FileRow> Files => Set<FileRow>();

    /// <summary>The audit.</summary>
    public DbSet<AuditRow> Audit => Set<AuditRow>();

    /// <summary>Work on many records.</summary>
    public DbSet<JobRow> Jobs => Set<JobRow>();

    /// <summary>What jobs changed.</summary>
    public DbSet<JobBatchRow> JobBatches => Set<JobBatchRow>();

    /// <summary>Data of removed fields.</summary>
    public DbSet<SavedDataRow> SavedData => Set<SavedDataRow>();

    /// <summary>What came in through public forms.</summary>
    public DbSet<EntryRow> Entries => Set<EntryRow>();

    /// <summary>What people arranged for themselves.</summary>
    public DbSet<PersonalLayerRow> PersonalLayers => Set<PersonalLayerRow>();

    /// <summary>Settings.</summary>
    public DbSet<SettingRow> Settings => Set<SettingRow>();

    /// <summary>Keys that cookies are protected with; here, so that sessions survive a restart and any node reads them.</summary>
    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    /// <summary>Sets the provider up, the same for the application, tests and migrations.</summary>
    public static void Configure(DbContextOptionsBuilder builder, System.Data.Common.DbDataSource? source)
    {
        if (source is null)
            builder.UseNpgsql(npgsql => npgsql.MigrationsHistoryTable("migrations", Schema));
        else
            builder.UseNpgsql(source, npgsql => npgsql.MigrationsHistoryTable("migrations", Schema));
        builder.UseSnakeCaseNamingConvention();

        // As in RecordModels: one source of connections is one installation, of which only tests have many.
        builder.ConfigureWarnings(static warnings => warnings.Ignore(CoreEventId.ManyServiceProvidersCreatedWarning));

        // Whoever asks is told of what fails, and what nobody expected is put down where requests and jobs end. Put down here as well,
        // anybody could fill the log, by sending what no text can hold.
        builder.ConfigureWarnings(static warnings =>
            warnings.Log((CoreEventId.SaveChangesFailed, LogLevel.Debug), (RelationalEventId.CommandError, LogLevel.Debug))
        );
    }

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.HasDefaultSchema(Schema);
        builder.HasSequence<long>("draft_version");
        builder.Entity<Person>().ToTable("person");
        builder.Entity<Role>().ToTable("role");
        builder.Entity<Microsoft.AspNetCore.Identity.IdentityUserRole<Guid>>().ToTable("person_role");
        builder.Entity<Microsoft.AspNetCore.Identity.IdentityUserClaim<Guid>>().ToTable("person_claim");
        builder.Entity<Microsoft.AspNetCore.Identity.IdentityUserLogin<Guid>>().ToTable("person_login");
        builder.Entity<Microsoft.AspNetCore.Identity.IdentityUserToken<Guid>>().ToTable("person_token");
        builder.Entity<Microsoft.AspNetCore.Identity.IdentityRoleClaim<Guid>>().ToTable("role_claim");
        builder.Entity<DataProtectionKey>().ToTable("key");
        builder.Entity<ReleaseRow>().ToTable("release").HasKey(row => row.Number);
        builder.Entity<ReleaseRow>().Property(row => row.Number).ValueGeneratedNever();
        builder.Entity<DraftRow>().ToTable("draft").HasKey(row => row.Version);
        builder.Entity<PublishingRow>().ToTable("publishing");

        // Those that are open are asked for all the time, and are few however many there were.
        builder
            .Entity<PublishingRow>()
            .HasIndex(row => row.StartedAt)
            .HasFilter("state IN ('Preparing', 'Finishing') OR storage_before IS NOT NULL");
        builder.Entity<PublishingRow>().Property(row => row.State).HasConversion<string>();
        builder.Entity<ProposalRow>().ToTable("proposal").HasKey(row => row.DraftVersion);
        builder.Entity<ProposalRow>().Property(row => row.DraftVersion).ValueGeneratedNever();
        builder.Entity<PresenceRow>().ToTable("presence");
        builder.Entity<DeletedRow>().ToTable("deleted");
        builder.Entity<TokenRow>().ToTable("token").HasKey(row => row.Digest);
        builder.Entity<TokenRow>().HasOne<Person>().WithMany().HasForeignKey(row => row.PersonId);
        builder.Entity<AdminRightRow>().ToTable("admin_right");
        builder.Entity<SessionRow>().ToTable("session").HasOne<Person>().WithMany().HasForeignKey(row => row.PersonId);
        builder.Entity<InvitationRow>().ToTable("invitation").HasKey(row => row.Digest);
        builder.Entity<InvitationRow>().HasOne<Person>().WithMany().HasForeignKey(row => row.PersonId);
        builder.Entity<RecoveryCodeRow>().ToTable("recovery_code").HasKey(row => new { row.PersonId, row.Digest });
        builder.Entity<RecoveryCodeRow>().HasOne<Person>().WithMany().HasForeignKey(row => row.PersonId);
        builder.Entity<FailureRow>().ToTable("failure").HasIndex(row => new { row.Name, row.At });
        builder.Entity<FileRow>().ToTable("file");
        builder.Entity<AuditRow>().ToTable("audit").HasKey(row => row.Number);
        builder.Entity<AuditRow>().Property(row => row.Number).ValueGeneratedNever();
        builder.Entity<AuditRow>().HasIndex(row => new { row.Subject, row.Number });
        builder
            .Entity<AuditRow>()
            .HasIndex(row => new
            {
                row.RecordType,
                row.Record,
                row.Number,
            });
        builder.Entity<AuditRow>().HasIndex(row => row.At);
        builder.Entity<JobRow>().ToTable("job").Property(row => row.State).HasConversion<string>();
        builder.Entity<JobBatchRow>().ToTable("job_batch").HasKey(row => new { row.JobId, row.Number });
        builder.Entity<JobBatchRow>().HasOne<JobRow>().WithMany().HasForeignKey(row => row.JobId);
        builder.Entity<SavedDataRow>().ToTable("saved_data");
        builder.Entity<ConversionRow>().ToTable("conversion").HasKey(row => row.Number);
        builder.Entity<ConversionRow>().HasIndex(row => new { row.TableName, row.ColumnName });
        builder
            .Entity<RecentRow>()
            .ToTable("recent")
            .HasKey(row => new
            {
                row.Person,
                row.RecordType,
                row.Record,
            });
        builder.Entity<EntryRow>().ToTable("entry").Property(row => row.State).HasConversion<string>();
        builder
            .Entity<EntryRow>()
            .HasIndex(row => new
            {
                row.RecordType,
                row.State,
                row.SentAt,
            });
        builder.Entity<EntryRow>().HasIndex(row => new { row.RecordType, row.RecordId });
        builder.Entity<EntryRow>().HasIndex(row => new { row.Network, row.SentAt });
        builder.Entity<PersonalLayerRow>().ToTable("personal_layer").HasKey(row => new { row.PersonId, row.RecordType });
        builder.Entity<PersonalLayerRow>().HasOne<Person>().WithMany().HasForeignKey(row => row.PersonId);
        builder.Entity<SettingRow>().ToTable("setting").HasKey(row => row.Name);
    }
}

/// <summary>Lets the migrations tool make a context without starting the application.</summary>
internal sealed class PeltoContextFactory : IDesignTimeDbContextFactory<PeltoContext>
{
    public PeltoContext CreateDbContext(string[] args)
    {
        var builder = new DbContextOptionsBuilder<PeltoContext>();
        PeltoContext.Configure(builder, null);
        return new(builder.Options);
    }
}
