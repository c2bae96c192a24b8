using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;

namespace Pelto.Web.Tests.SecondWorld;

/// <summary>
/// Two installations that differ only in what somebody may not know must answer that person alike, whatever is asked and in whichever order
/// (noninterference, after Goguen and Meseguer 1982; from memory).
/// </summary>
/// <remarks>
/// A sequence that is told apart is printed with its seed; <c>PELTO_SEED</c>, <c>PELTO_SEQUENCES</c> and <c>PELTO_ASKER</c> ask it again,
/// ask many more, or as one person.
/// </remarks>
public sealed class SecondWorldTests
{
    private const int Sequences = 1_500;

    // What is called so may not be known even by name to most.
    private const string Hush = "hush";

    // Once something was told the worlds may go on differing; so many new ones are made to find what else is told.
    private const int MostTold = 40;

    private static int Setting(string name, int usual) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), NumberStyles.None, CultureInfo.InvariantCulture, out var said)
            ? said
            : usual;

    [Fact(
        DisplayName = "Nobody can tell by what they ask, in up to five steps, "
            + "which of two worlds they are in that differ in what they may not know"
    )]
    public async Task Worlds_are_alike()
    {
        var (seed, end) = (Setting("PELTO_SEED", 1), Setting("PELTO_SEED", 1) + Setting("PELTO_SEQUENCES", Sequences));
        var (told, count) = (new List<string>(), end - seed);
        Components.RecordCounts.Good = TimeSpan.Zero;
        while (seed < end && told.Count < MostTold)
        {
            await using var worlds = new Worlds();
            await worlds.InitializeAsync();
            var (addresses, handlers) = await EndpointsAsync(worlds);
            Assert.True(
                addresses.Count > 60 && handlers.Count > 60,
                $"{addresses.Count} addresses and {handlers.Count} handlers are listed."
            );
            var visitors = new Dictionary<(App, Asker), Visitor>();
            foreach (var world in new[] { worlds.One, worlds.Two })
            foreach (var asker in Worlds.People)
                visitors[(world, asker)] =
                    asker == Worlds.Outside
                        ? new(world.CreateClient(new() { AllowAutoRedirect = false }), await world.InterfaceAsync(null), Worlds.Form)
                        : new(
                            await world.BrowserAsync(asker.Name),
                            await world.InterfaceAsync(asker.Name.ToLowerInvariant().Replace(' ', '.'))
                        );
            for (var isAlike = true; seed < end && isAlike; seed++)
            {
                var random = new Random(seed);
                var asker = Worlds.People[random.Next(Worlds.People.Count)];
                if (Environment.GetEnvironmentVariable("PELTO_ASKER") is { Length: > 0 } name)
                    asker = Worlds.People.First(one => one.Name == name);
                var steps = new Sequences(random, worlds, addresses, handlers).Next(asker);
                isAlike = await AskAsync(
                    steps,
                    one => (visitors[(worlds.One, one)], visitors[(worlds.Two, one)]),
                    said => told.Add($"seed {seed}, {said}")
                );
                if (steps.Any(one => one.Asker.Works.Length > 0 && one.Step.MayDefine))
                    await worlds.ResetAsync();
                if (steps.Any(one => one.Asker == Worlds.Outside))
                    await worlds.ForgetSendersAsync();
            }
        }

        if (Environment.GetEnvironmentVariable("PELTO_TOLD") is { Length: > 0 } file)
            await File.WriteAllTextAsync(file, string.Join("\n\n", told));
        Assert.True(told.Count == 0, $"{told.Count} of {count} sequences tell the worlds apart:\n{string.Join("\n", told.Take(12))}");
    }

    private static async Task<bool> AskAsync(
        IReadOnlyList<(Asker Asker, Step Step)> steps,
        Func<Asker, (Visitor, Visitor)> visitors,
        Action<string> tell
    )
    {
        var (one, two) = (new Plain(), new Plain());
        for (var at = 0; at < steps.Count; at++)
        {
            var (asker, step) = steps[at];
            var (first, second) = visitors(asker);
            var answers = await Task.WhenAll(AnswerAsync(step, first, one), AnswerAsync(step, second, two));
            var (here, there) = (answers[0], answers[1]);
            if (here.StartsWith('5') || there.StartsWith('5'))
                tell($"a crash at {Said(steps, at)}\n    {here[..Math.Min(300, here.Length)]}");
            if (asker.IsStranger && here.IndexOf(Hush, StringComparison.OrdinalIgnoreCase) is >= 0 and var hush)
                tell($"named at {Said(steps, at)}\n    …{Around(here, hush)}");
            if (here == there)
                continue;
            tell($"{Said(steps, at)}\n    one: …{Around(here, Differ(here, there))}\n    two: …{Around(there, Differ(here, there))}");
            return false;
        }

        return true;
    }

    private static Task<string> AnswerAsync(Step step, Visitor visitor, Plain plain) =>
        Task.Run(async () => await plain.OfAsync(await step.AskAsync(visitor)));

    private static async Task<(IReadOnlyList<string> Addresses, IReadOnlyList<string> Handlers)> EndpointsAsync(Worlds worlds)
    {
        var services = worlds.One.Services;
        var addresses = services
            .GetServices<EndpointDataSource>()
            .SelectMany(source => source.Endpoints)
            .OfType<RouteEndpoint>()
            .Where(endpoint => endpoint.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods.Contains("GET") != false)
            .Select(endpoint => "/" + endpoint.RoutePattern.RawText!.TrimStart('/'))
            .Where(path => !path.Contains("{*", StringComparison.Ordinal))
            .Distinct()
            .Order(StringComparer.Ordinal)
            .ToList();
        var loader = services.GetRequiredService<PageLoader>();
        var handlers = new List<string>();
        foreach (
            var page in services
                .GetRequiredService<IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<PageActionDescriptor>()
        )
        foreach (
            var handler in (await loader.LoadAsync(page, EndpointMetadataCollection.Empty)).HandlerMethods.Where(handler =>
                handler.HttpMethod == "Post"
            )
        )
            if (!page.AttributeRouteInfo!.Template!.StartsWith("account/", StringComparison.OrdinalIgnoreCase))
                handlers.Add($"/{page.AttributeRouteInfo.Template}?type=partner&record=5&handler={handler.Name}");
        return (addresses, [.. handlers.Order(StringComparer.Ordinal)]);
    }

    private static string Said(IReadOnlyList<(Asker Asker, Step Step)> steps, int at) =>
        string.Join(
            " | ",
            steps
                .Take(at + 1)
                .Select(one =>
                    $"{one.Asker.Name}: {(one.Step is Fill fill ? $"Fill {fill.Page} {fill.Handler} {string.Join(' ', fill.Typed)}" : one.Step.ToString())}"
                )
        );

    private static int Differ(string here, string there) => here.Zip(there).TakeWhile(pair => pair.First == pair.Second).Count();

    private static string Around(string text, int at) =>
        text[Math.Max(0, at - 120)..Math.Min(text.Length, at + 90)].ReplaceLineEndings(" ");
}
