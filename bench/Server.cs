using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Npgsql;

namespace Pelto.Bench;

/// <summary>Pelto as a process of its own, on a database of its own that is thrown away afterwards.</summary>
internal sealed partial class Server : IAsyncDisposable
{
    private const string Database = "pelto_bench";

    private readonly string server = Environment.GetEnvironmentVariable("PELTO_BENCH_SERVER")
        ?? throw new InvalidOperationException("Run this with ./pelto bench.");
    private readonly string dll = Environment.GetEnvironmentVariable("PELTO_DLL")
        ?? throw new InvalidOperationException("Run this with ./pelto bench.");
    private Process? process;

    public Uri Address { get; private set; } = default!;

    public string Connection => new NpgsqlConnectionStringBuilder(server) { Database = Database, CommandTimeout = 900 }.ConnectionString;

    /// <summary>The memory that the server holds, in megabytes.</summary>
    public double Megabytes
    {
        get
        {
            process!.Refresh();
            return process.WorkingSet64 / 1e6;
        }
    }

    public async Task InstallAsync()
    {
        await AdministerAsync($"DROP DATABASE IF EXISTS {Database} WITH (FORCE)");
        await AdministerAsync($"CREATE DATABASE {Database}");
        await Start("install").WaitForExitAsync();
    }

    public async Task ServeAsync()
    {
        Address = new($"http://127.0.0.1:{FreePort()}");
        process = Start("--urls", Address.ToString());
        using var client = new HttpClient();
        for (var i = 0; i < 1200; i++)
        {
            try
            {
                if ((await client.GetAsync(new Uri(Address, "/health/ready"))).IsSuccessStatusCode)
                    return;
            }
            catch (HttpRequestException)
            {
                // Not listening yet.
            }

            await Task.Delay(100);
        }

        throw new InvalidOperationException("The server did not become ready.");
    }

    public async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    public async Task<object?> ScalarAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return await command.ExecuteScalarAsync();
    }

    public async Task<HttpClient> InterfaceAsync(string person)
    {
        // Put where ./pelto token would put it, which starts the whole program for each.
        var token = "pelto_" + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        var digest = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
        await ExecuteAsync(
            $"""
            INSERT INTO pelto.token (digest, person_id, name, types, writes, sets_up, made_at, ends_at)
            SELECT '{digest}', p.id, 'To measure', ARRAY[]::text[], true, true, now(), now() + interval '1 day'
            FROM pelto.person p LEFT JOIN pelto.person_role l ON l.user_id = p.id LEFT JOIN pelto.role r ON r.id = l.role_id WHERE '{person}' IN (p.user_name, r.name) ORDER BY p.position LIMIT 1
            """
        );
        return With(token);
    }

    private HttpClient With(string token) =>
        new(new SocketsHttpHandler { MaxConnectionsPerServer = 100 })
        {
            BaseAddress = new(Address, "/api/v1/"),
            Timeout = Timeout.InfiniteTimeSpan,
            DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", token) },
        };

    /// <summary>As many people as one wants, all with the roles of one, each with a token of their own.</summary>
    public async Task<IReadOnlyList<HttpClient>> PeopleAsync(string like, int count)
    {
        var people = new List<HttpClient> { await InterfaceAsync(like) };
        await ExecuteAsync(
            $"""
            CREATE TEMP TABLE made AS SELECT n, gen_random_uuid() AS id, t.person_id, 'pelto_' || repeat(md5('person ' || n), 2) AS token
              FROM generate_series(2, {count}) n, (SELECT person_id FROM pelto.token ORDER BY made_at DESC LIMIT 1) t;
            INSERT INTO pelto.person SELECT (jsonb_populate_record(p, jsonb_build_object('id', m.id, 'user_name', 'person.' || n, 'normalized_user_name', 'PERSON.' || n))).* FROM made m JOIN pelto.person p ON p.id = m.person_id;
            INSERT INTO pelto.person_role SELECT m.id, r.role_id FROM made m JOIN pelto.person_role r ON r.user_id = m.person_id;
            INSERT INTO pelto.token SELECT (jsonb_populate_record(t, jsonb_build_object('person_id', m.id, 'digest', encode(sha256(token::bytea), 'hex')))).* FROM made m, pelto.token t WHERE t.digest = (SELECT digest FROM pelto.token ORDER BY made_at DESC LIMIT 1);
            """
        );
        for (var n = 2; n <= count; n++)
        {
            var half = Convert.ToHexStringLower(
                MD5.HashData(Encoding.UTF8.GetBytes(string.Create(System.Globalization.CultureInfo.InvariantCulture, $"person {n}")))
            );
            people.Add(With($"pelto_{half}{half}"));
        }

        return people;
    }

    public async Task<HttpClient> BrowserAsync()
    {
        var client = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer(), MaxConnectionsPerServer = 100 })
        {
            BaseAddress = Address,
            Timeout = Timeout.InfiniteTimeSpan,
        };
        var page = await client.GetStringAsync("/account/sign-in");
        var form = new FormUrlEncodedContent([
            new("pick", Picks().Match(page).Groups[1].Value),
            new("__RequestVerificationToken", Tokens().Match(page).Groups[1].Value),
        ]);
        (await client.PostAsync("/account/sign-in", form)).EnsureSuccessStatusCode();
        return client;
    }

    /// <summary>The token that a form of a page is sent with.</summary>
    public static string TokenIn(string page) => Tokens().Match(page).Groups[1].Value;

    public static async Task PublishAsync(HttpClient administrator, JsonObject draft)
    {
        foreach (
            var answer in new[]
            {
                await administrator.PutAsJsonAsync("setup/draft", draft),
                await administrator.PostAsJsonAsync("setup/publish", new { comment = "Measured" }),
            }
        )
            if (!answer.IsSuccessStatusCode)
                throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
    }

    public async ValueTask DisposeAsync()
    {
        if (process is not null)
        {
            process.Kill();
            await process.WaitForExitAsync();
        }

        NpgsqlConnection.ClearAllPools();
        await AdministerAsync($"DROP DATABASE IF EXISTS {Database} WITH (FORCE)");
        foreach (var role in new[] { "queries", "app" })
            await AdministerAsync($"DROP ROLE IF EXISTS {Database}_{role}");
    }

    private async Task AdministerAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(server) { Database = "postgres", Pooling = false }.ConnectionString
        );
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private Process Start(params string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet", [dll, .. arguments, "--contentRoot", Path.GetFullPath("src/Pelto.Web")])
        {
            RedirectStandardOutput = true,
        };
        start.Environment["PELTO_DATABASE"] = Connection;
        start.Environment["ASPNETCORE_ENVIRONMENT"] = "Production";
        return Process.Start(start)!;
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    [GeneratedRegex("name=\"pick\" value=\"([^\"]+)\"")]
    private static partial Regex Picks();

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Tokens();
}
