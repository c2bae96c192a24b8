using Pelto.Data.Definitions;
using Pelto.Data.Hosts;

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
            case "token":
                return await TokenAsync(app, args.ElementAtOrDefault(1) ?? "");
            case "update":
                return await UpdateCommand.RunAsync(app.Services, args.Skip(1).TakeWhile(arg => !arg.StartsWith('-')).FirstOrDefault(), args.Skip(2).TakeWhile(arg => !arg.StartsWith('-')).FirstOrDefault());
            default:
                await app.RunAsync();
                return 0;
        }
    }

    private static async Task<int> TokenAsync(WebApplication app, string person)
    {
        await app.Services.GetRequiredService<Installer>().EnsureAsync();
        if (await app.Services.GetRequiredService<People>().MakeTokenAsync(person) is { } token)
        {
            Console.WriteLine(token);
            return 0;
        }

        Console.Error.WriteLine(person.Length == 0 ? "Say whose token: ./pelto token henna.aro, or a role such as administrator." : $"There is no person and no role called {person}.");
        return 2;
    }
}
