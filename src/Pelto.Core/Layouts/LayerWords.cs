namespace Pelto.Core.Layouts;

/// <summary>Says in a few words what an operation of a layer does.</summary>
public static class LayerWords
{
    /// <summary>What it did to a part that is known, such as “moved it after Currency, when adding”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Done(LayerOperation operation, Func<string, string> nameOf) => Say(operation, "it", nameOf);

    /// <summary>What it will do, with the part's name, such as “moves Payment terms after Currency”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Coming(LayerOperation operation, Func<string, string> nameOf)
    {
        var said = Whole(operation, nameOf);
        var verb = said.IndexOf(' ');
        return said[..verb] switch
            {
                "put" => "puts",
                "moved" => "moves",
                "hid" => "hides",
                "showed" => "shows",
                "called" => "calls",
                "made" => "makes",
                "unlocked" => "unlocks",
                "locked" => "locks",
                "asked" => "asks",
                "had" => "has",
                "sorted" => "sorts",
                "unfolded" => "unfolds",
                "folded" => "folds",
                "kept" => "keeps",
                "let" => "lets",
                var other => other,
            } + said[verb..];
    }

    /// <summary>What it did, with the part's name, such as “moved Payment terms after Currency”.</summary>
    /// <param name="operation">The operation.</param>
    /// <param name="nameOf">What a part is called, by its id.</param>
    public static string Whole(LayerOperation operation, Func<string, string> nameOf) => Say(operation, nameOf(operation.Part), nameOf);

    private static string Say(LayerOperation operation, string name, Func<string, string> nameOf)
    {
        var where = operation.After is { } after ? $" after {nameOf(after)}" : "";
        var said = operation.Op switch
        {
            LayerOperation.Put => operation.New is { } made ? $"put {Made(made, name)} here{where}" : $"put {name}{where}",
            LayerOperation.Move => $"moved {name}{where}",
            LayerOperation.Hide => $"hid {name}",
            LayerOperation.Show => $"showed {name}",
            LayerOperation.Relabel => operation.Label is { Length: > 0 } label
                ? $"called {name} “{label}”"
                : $"called {name} otherwise in {string.Join(", ", (operation.Texts ?? new Dictionary<string, string>()).Select(text => $"{text.Key} (“{text.Value}”)"))}",
            LayerOperation.Resize => $"made {name} {operation.Width} of 12 wide",
            LayerOperation.Lock => operation.Off ? $"unlocked {name}" : $"locked {name}",
            LayerOperation.Require => operation.Off ? $"asked for {name} no more than it is defined" : $"asked for {name}",
            LayerOperation.Sort => $"sorted by {name}{(operation.Off ? ", downwards" : "")}",
            LayerOperation.Fold => operation.Off ? $"unfolded {name}" : $"folded {name}",
            LayerOperation.Row => operation.Off ? $"let {name} follow on in its row" : $"let {name} begin a row",
            LayerOperation.Own => operation.Off
                ? $"kept people from arranging {name} for themselves"
                : $"let people arrange {name} for themselves",
            LayerOperation.Tab => operation.Off ? $"had Tab pass by {name}"
            : operation.After is null ? $"had Tab stop at {name}"
            : $"had Tab come to {name}{where}",
            _ => $"did “{operation.Op}” to {name}",
        };
        var on = operation.On switch
        {
            "adding" => ", when adding",
            "changing" => ", when changing",
            _ => "",
        };
        return $"{said}{on}{(string.IsNullOrWhiteSpace(operation.When) ? "" : $", where {operation.When}")}";
    }

    private static string Made(NewPart made, string name) =>
        made.What switch
        {
            NewPart.Page => $"the page {name}",
            NewPart.Section => $"the section {name}",
            NewPart.Guidance => "guidance",
            NewPart.Button => $"the button {name}",
            NewPart.Scratch => $"the scratch field {name}",
            _ => $"{name} once more",
        };
}
