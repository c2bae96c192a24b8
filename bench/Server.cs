using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Npgsql;

namespace Pelto.Bench;

/// <summary>Pelto as a process of its own, on a database of its own that is thrown away afterwards.</summary>
internal sealed partial class Server : IAsyncDisposable
{
    private const string Database = "pelto_bench";

    private readonly string server = Environment.GetEnvironmentVariable("PELTO_BENCH_SERVER") ?? throw new InvalidOperationException("Run this with ./pelto bench.");
    private readonly string dll = Environment.GetEnvironmentVariable("PELTO_DLL") ?? throw new InvalidOperationException("Run this with ./pelto bench.");
    private Process? process;

    public Uri Address { get; private set; } = default!;

    public string Connection => new NpgsqlConnectionStringBuilder(server) { Database = Database, CommandTimeout = 900 }.ConnectionString;

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
        for (var i = 0; i < 300; i++)
        {
            try
            {
                if ((await client.GetAsync(new Uri(Address, "/health/ready"))).IsSuccessStatusCode) return;
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
        var made = Start("token", person);
        var token = (await made.StandardOutput.ReadToEndAsync()).Trim();
        await made.WaitForExitAsync();
        return new(new SocketsHttpHandler { MaxConnectionsPerServer = 100 }) { BaseAddress = new(Address, "/api/v1/"), Timeout = Timeout.InfiniteTimeSpan, DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", token) } };
    }

    public async Task<HttpClient> BrowserAsync()
    {
        var client = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer(), MaxConnectionsPerServer = 100 }) { BaseAddress = Address, Timeout = Timeout.InfiniteTimeSpan };
        var page = await client.GetStringAsync("/account/sign-in");
        var form = new FormUrlEncodedContent([new("pick", Picks().Match(page).Groups[1].Value), new("__RequestVerificationToken", Tokens().Match(page).Groups[1].Value)]);
        (await client.PostAsync("/account/sign-in", form)).EnsureSuccessStatusCode();
        return client;
    }

    /// <summary>The token that a form of a page is sent with.</summary>
    public static string TokenIn(string page) => Tokens().Match(page).Groups[1].Value;

    public static async Task PublishAsync(HttpClient administrator, JsonObject draft)
    {
        foreach (var answer in new[] { await administrator.PutAsJsonAsync("setup/draft", draft), await administrator.PostAsJsonAsync("setup/publish", new { comment = "Measured" }) })
            if (!answer.IsSuccessStatusCode) throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
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
        foreach (var role in new[] { "queries", "app" }) await AdministerAsync($"DROP ROLE IF EXISTS {Database}_{role}");
    }

    private async Task AdministerAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(server) { Database = "postgres", Pooling = false }.ConnectionString);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private Process Start(params string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet", [dll, .. arguments, "--contentRoot", Path.GetFullPath("src/Pelto.Web")]) { RedirectStandardOutput = true };
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
