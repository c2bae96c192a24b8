using Pelto.Bench;

// Each benchmark compares within one run, so that its figures mean the same on any machine.
switch (args.FirstOrDefault())
{
    case "publish":
        await PublishBench.RunAsync();
        return 0;
    case "definitions":
        await DefinitionsBench.RunAsync();
        return 0;
    case "links":
        await LinksBench.RunAsync();
        return 0;
    case "formulas":
        await FormulasBench.RunAsync();
        return 0;
    case "layout":
        await LayoutBench.RunAsync();
        return 0;
    case "access":
        await AccessBench.RunAsync();
        return 0;
    default:
        Console.Error.WriteLine("There are: ./pelto bench publish, ./pelto bench definitions, ./pelto bench links, ./pelto bench formulas, ./pelto bench layout, ./pelto bench access");
        return 2;
}
