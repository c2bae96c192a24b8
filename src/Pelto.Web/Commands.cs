using Pelto.Data.Hosts;
using Pelto.Data.SigningIn;

namespace Pelto.Web;

/// <summary>What the program does when it is started: serve (without a word), or one task of the command line.</summary>
internal static class Commands
{
    public static async Task<int> RunAsync(string[] args)
    {
        var app = Application.Build(args);
        switch (args.FirstOrDefault())
        {
            case "install":
                await app.Services.GetRequiredService<Installer>().EnsureAsync();
                return 0;
            case "reset":
                await app.Services.GetRequiredService<Installer>().ResetAsync();
                return 0;
            case "newkey":
                Console.WriteLine(
                    await app.Services.GetRequiredService<Installer>().TakeKeyAsync()
                        ? "Pelto goes on with this key. Secrets are entered anew. "
                            + "Whoever has a second factor signs in once with a recovery code, or has it taken away under People."
                        : "This is the key that the database was used with. Nothing was changed."
                );
                return 0;
            case "token":
                return await TokenAsync(app, args.ElementAtOrDefault(1) ?? "");
            case "invite":
                return await InviteAsync(app, args.ElementAtOrDefault(1) ?? "");
            case "update":
                return await UpdateCommand.RunAsync(
                    app.Services,
                    args.Skip(1).TakeWhile(arg => !arg.StartsWith('-')).FirstOrDefault(),
                    args.Skip(2).TakeWhile(arg => !arg.StartsWith('-')).FirstOrDefault()
                );
            default:
                var working = app.Services.GetServices<IHostedService>().OfType<BackgroundService>().ToList();
                await app.RunAsync();

                // Whoever watches over the program has to see that it did not end because it was asked to.
                return working.Exists(service => service.ExecuteTask is { IsFaulted: true }) ? 5 : 0;
        }
    }

    private static async Task<int> TokenAsync(WebApplication app, string person)
    {
        await app.Services.GetRequiredService<Installer>().EnsureAsync();
        if (await app.Services.GetRequiredService<People>().ViewerAsync(person) is { } viewer)
        {
            Console.WriteLine(
                await app
                    .Services.GetRequiredService<Tokens>()
                    .MakeAsync(viewer, "Command line", new([], Writes: true, SetsUp: true), TokenLasts, Here)
            );
            return 0;
        }

        return SayWho("token", person);
    }

    // How the first administrator of an installation gets in, and one who has lost everything else.
    private static async Task<int> InviteAsync(WebApplication app, string person)
    {
        await app.Services.GetRequiredService<Installer>().EnsureAsync();
        if (await app.Services.GetRequiredService<People>().ViewerAsync(person) is { } viewer)
        {
            Console.WriteLine($"/account/welcome/{await app.Services.GetRequiredService<Credentials>().InviteAsync(viewer, Here)}");
            return 0;
        }

        return SayWho("invite", person);
    }

    private static readonly TimeSpan TokenLasts = TimeSpan.FromDays(90);

    private static readonly Viewer Here = new(Guid.Empty, "Pelto", []) { From = "the command line" };

    private static int SayWho(string task, string person)
    {
        Console.Error.WriteLine(
            person.Length == 0
                ? $"Say who: ./pelto {task} henna.aro, or a role such as administrator."
                : $"There is no person and no role called {person}."
        );
        return 2;
    }
}
