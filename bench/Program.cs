using Pelto.Bench;

// Each benchmark compares within one run, so that its figures mean the same on any machine.
var all = new Dictionary<string, Func<Task>>(StringComparer.Ordinal)
{
    ["publish"] = PublishBench.RunAsync,
    ["definitions"] = DefinitionsBench.RunAsync,
    ["links"] = LinksBench.RunAsync,
    ["formulas"] = FormulasBench.RunAsync,
    ["layout"] = LayoutBench.RunAsync,
    ["access"] = AccessBench.RunAsync,
    ["screens"] = ScreensBench.RunAsync,
    ["releases"] = ReleasesBench.RunAsync,
};
Scale.IsSmall = args.Contains("small");
var wanted = args.Where(name => name != "small").ToList();
if (wanted is ["all"])
    wanted = [.. all.Keys];
if (wanted.Count == 0 || wanted.Exists(name => !all.ContainsKey(name)))
{
    Console.Error.WriteLine(
        $"There are: {string.Join(", ", all.Keys.Select(name => "./pelto bench " + name))}; and ./pelto bench all small, which shows that each works."
    );
    return 2;
}

var failed = 0;
foreach (var name in wanted)
{
    try
    {
        await all[name]();
        if (Scale.IsSmall)
            Console.WriteLine($"bench {name}: works");
    }
    catch (Exception error) when (Scale.IsSmall)
    {
        failed++;
        Console.WriteLine($"bench {name}: FAILED, {error.Message}");
    }
}

return failed == 0 ? 0 : 1;
