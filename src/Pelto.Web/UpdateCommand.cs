using Pelto.Core.Updates;
using Pelto.Data.Hosts;
using Pelto.Web.Pages;

namespace Pelto.Web;

/// <summary>Goes to another version of the ERP from the command line: first says what it would do, and does it when told to.</summary>
internal static class UpdateCommand
{
    private const string Go = "go";

    public static async Task<int> RunAsync(IServiceProvider services, string? version, string? go)
    {
        await services.GetRequiredService<Installer>().EnsureAsync();
        var (catalogues, hosts) = (services.GetRequiredService<Catalogues>(), services.GetRequiredService<HostVersions>());
        await catalogues.CatchUpAsync();
        var live = catalogues.Live;
        if (string.IsNullOrEmpty(version))
        {
            foreach (var host in hosts.All)
                Console.WriteLine($"{host.Label} {host.Version}{(host.Version == live.Host.Version ? ", live" : "")}");
            foreach (var unusable in hosts.Unusable)
                Console.WriteLine($"{unusable.Version} cannot be used: {unusable.Sentence}");
            return 0;
        }

        if (hosts.Find(version) is not { } to)
            return Refuse($"There is no version {version}. ./pelto update lists those that there are.");
        if (to.Version == live.Host.Version)
            return Refuse($"{to.Label} {to.Version} is live already.");
        var update = HostUpdate.Make(live, to);
        Show(update);
        if (!update.IsPossible)
            return Refuse("It cannot be done as it is; see above.");
        if (go != Go)
        {
            Console.WriteLine(
                $"\nNothing is done yet. ./pelto update {to.Version} {Go} does it, while everyone works; ./pelto update {live.Host.Version} {Go} goes back."
            );
            return go is null ? 0 : Refuse($"“{go}” says nothing here; write {Go}.");
        }

        return await GoAsync(services, update);
    }

    private static async Task<int> GoAsync(IServiceProvider services, HostUpdate update)
    {
        var (drafts, publisher) = (services.GetRequiredService<Drafts>(), services.GetRequiredService<Publisher>());
        var queue = services.GetRequiredService<PublishingQueue>();
        if (await services.GetRequiredService<People>().ViewerAsync(Viewer.Administrator) is not { } viewer)
            return Refuse("There is no administrator in whose name it could be done.");
        if (await drafts.CountAsync() is > 0 and var count)
            return Refuse(
                $"The draft holds {count} {(count == 1 ? "change" : "changes")} that would go live with it. "
                    + $"Publish or discard {(count == 1 ? "it" : "them")} first, or update on the page ERP version."
            );
        var draft = await drafts.ChangeAsync(_ => update.Site, $"{update.To.Label} {update.To.Version}", viewer);
        try
        {
            var row = await queue.RunAsync(await publisher.StartAsync($"{update.To.Label} {update.To.Version}", viewer, draft.Version));
            Console.WriteLine(row.Saying);
            return row.State == PublishingState.Done ? 0 : 1;
        }
        catch (PublishRefusedException refused)
        {
            await drafts.UndoAsync(viewer);
            return Refuse(refused.Message);
        }
    }

    private static void Show(HostUpdate update)
    {
        Console.WriteLine($"{update.To.Label}, from {update.From.Version} to {update.To.Version}");
        Section("What the ERP itself changes", update.Changes.Select(change => $"{change.RecordType}: {change.Sentence}"));
        foreach (var layer in update.Fates.GroupBy(fate => fate.Layer.Id))
            Section(
                $"{layer.First().Layer.Label}: {string.Join(", ", layer.GroupBy(fate => fate.Fate).OrderBy(group => group.Key).Select(group => $"{group.Count()} {UpdateModel.InWords(group.Key, group.Count())}"))}",
                layer.Where(fate => fate.Sentence is not null).Select(fate => $"{fate.RecordType}: {fate.Says} - {fate.Sentence}")
            );
        Section(
            "What is rewritten",
            update.Rewritings.Select(rewriting => $"{rewriting.What}: {rewriting.Before} becomes {rewriting.After}")
        );
        Section("What stands in the way", update.Problems.Select(problem => problem.Sentence).Distinct());
    }

    private static void Section(string heading, IEnumerable<string> lines)
    {
        Console.WriteLine($"\n{heading}");
        foreach (var line in lines.DefaultIfEmpty("nothing to tell"))
            Console.WriteLine($"  {line}");
    }

    private static int Refuse(string sentence)
    {
        Console.Error.WriteLine(sentence);
        return 2;
    }
}
