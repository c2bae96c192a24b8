namespace Pelto.Web.Components;

/// <summary>What a layer says of one part of a screen, as its settings show it and as they are sent.</summary>
public sealed class PartSettings
{
    /// <summary>The id of the part.</summary>
    public string Part { get; set; } = "";

    /// <summary>What it is called here; empty as it is without this layer.</summary>
    public string Label { get; set; } = "";

    /// <summary>The same in other languages, one per line: <c>nb: Leveringsbetingelse</c>.</summary>
    public string Texts { get; set; } = "";

    /// <summary>Columns of twelve; null as it is without this layer.</summary>
    public int? Width { get; set; }

    /// <summary>
    /// When it is shown: empty as without this layer, or <c>always</c>, <c>never</c>, <c>adding</c>, <c>changing</c>, <c>where</c>.
    /// </summary>
    public string Shown { get; set; } = "";

    /// <summary>For <c>where</c>: the condition.</summary>
    public string When { get; set; } = "";

    /// <summary>Empty as without this layer, or <c>on</c>, <c>off</c>, <c>where</c>.</summary>
    public string Lock { get; set; } = "";

    /// <summary>For lock under a condition: the condition.</summary>
    public string LockWhen { get; set; } = "";

    /// <summary>Empty as without this layer, or <c>on</c>, <c>off</c>, <c>where</c>.</summary>
    public string Require { get; set; } = "";

    /// <summary>For require under a condition: the condition.</summary>
    public string RequireWhen { get; set; } = "";

    /// <summary>Empty as one reads, or <c>skip</c>, or the id of the place that Tab comes from.</summary>
    public string Tab { get; set; } = "";

    /// <summary>What is chosen of the operations that are a choice of a few, by their names; empty as without this layer.</summary>
    public Dictionary<string, string?> Choices { get; set; } = [];

    /// <summary>For guidance: its text.</summary>
    public string Text { get; set; } = "";

    /// <summary>For a button: what it does.</summary>
    public string? Does { get; set; }

    /// <summary>For a button: what it leads to.</summary>
    public string To { get; set; } = "";

    /// <summary>For a scratch field: the name by which formulas read it.</summary>
    public string Code { get; set; } = "";

    /// <summary>For a scratch field: its kind.</summary>
    public string Kind { get; set; } = "";

    /// <summary>For a scratch field: what calculates it; people type it when empty.</summary>
    public string Formula { get; set; } = "";

    /// <summary>What a layer says of a part.</summary>
    public static PartSettings For(Layer layer, string part)
    {
        var settings = new PartSettings { Part = part };
        foreach (var operation in layer.Operations.Where(operation => operation.Part == part))
        {
            if (operation.New is { } made)
                (settings.Text, settings.Does, settings.To, settings.Code, settings.Kind, settings.Formula) = (
                    made.Text ?? "",
                    made.Does,
                    made.To ?? "",
                    made.Code ?? "",
                    made.Kind ?? "",
                    made.Formula ?? ""
                );
            if (operation.Op == LayerOperation.Relabel || operation.New is not null)
                (settings.Label, settings.Texts) = (
                    operation.Label ?? "",
                    string.Join(
                        "\n",
                        (
                            (operation.New is { What: NewPart.Guidance } guidance ? guidance.Texts : operation.Texts)
                            ?? new Dictionary<string, string>()
                        ).Select(text => $"{text.Key}: {text.Value.ReplaceLineEndings(" ")}")
                    )
                );
            if (operation.Width is { } width)
                settings.Width = width;
            switch (operation.Op)
            {
                case LayerOperation.Hide:
                    (settings.Shown, settings.When) = operation.When is { } when
                        ? ("where", Undo(when))
                        : (
                            operation.On switch
                            {
                                "adding" => "changing",
                                "changing" => "adding",
                                _ => "never",
                            },
                            ""
                        );
                    break;
                case LayerOperation.Show:
                    settings.Shown = "always";
                    break;
                case LayerOperation.Lock:
                    (settings.Lock, settings.LockWhen) = (
                        operation.When is null
                            ? operation.Off
                                ? "off"
                                : "on"
                            : "where",
                        operation.When ?? ""
                    );
                    break;
                case LayerOperation.Require:
                    (settings.Require, settings.RequireWhen) = (
                        operation.When is null
                            ? operation.Off
                                ? "off"
                                : "on"
                            : "where",
                        operation.When ?? ""
                    );
                    break;
                case LayerOperation.Tab:
                    settings.Tab = operation.Off ? "skip" : operation.After ?? "";
                    break;
                default:
                    if (OperationKinds.Find(operation.Op)?.Choice is { } choice)
                        settings.Choices[operation.Op] = choice.Read(operation);
                    break;
            }
        }

        return settings;
    }

    /// <summary>The layer with what these settings say of the part, in place of what it said.</summary>
    public Layer PutInto(Layer layer)
    {
        var made = layer.Operations.FirstOrDefault(operation => operation.Part == Part && operation.New is not null);
        var texts = ReadTexts();
        var stored = layer
            .Operations.Where(operation => operation.Part != Part || IsPlace(operation))
            .Select(operation =>
                operation == made ? Remade(made, texts)
                : operation.Part == Part && Width is not null ? operation with { Width = null }
                : operation
            )
            .ToList();
        void Say(LayerOperation operation) => stored.Add(operation with { Part = Part });
        if (made is null && (!string.IsNullOrWhiteSpace(Label) || texts is { Count: > 0 }))
            Say(
                new()
                {
                    Op = LayerOperation.Relabel,
                    Label = string.IsNullOrWhiteSpace(Label) ? null : Label.Trim(),
                    Texts = texts,
                }
            );
        if (made is null && Width is { } width)
            Say(new() { Op = LayerOperation.Resize, Width = width });
        switch (Shown)
        {
            case "always":
                Say(new() { Op = LayerOperation.Show });
                break;
            case "never":
                Say(new() { Op = LayerOperation.Hide });
                break;
            case "adding":
                Say(new() { Op = LayerOperation.Hide, On = "changing" });
                break;
            case "changing":
                Say(new() { Op = LayerOperation.Hide, On = "adding" });
                break;
            case "where" when !string.IsNullOrWhiteSpace(When):
                Say(new() { Op = LayerOperation.Hide, When = $"NOT({When.Trim()})" });
                break;
        }

        Either(Lock, LockWhen, LayerOperation.Lock, Say);
        Either(Require, RequireWhen, LayerOperation.Require, Say);
        stored.AddRange(layer.Operations.Where(operation => operation.Part == Part && !IsSet(operation)));
        foreach (var kind in OperationKinds.All)
            if (kind.Choice is { } choice && Choices.GetValueOrDefault(kind.Name) is { Length: > 0 } chosen)
                Say(choice.Write(chosen));
        if (Tab.Length > 0)
            Say(Tab == "skip" ? new() { Op = LayerOperation.Tab, Off = true } : new() { Op = LayerOperation.Tab, After = Tab });
        return layer with { Operations = stored };
    }

    // What stands where is kept in its place; what no setting says, and what the settings say anew, comes after.
    private static bool IsPlace(LayerOperation operation) => operation.Op is LayerOperation.Put or LayerOperation.Move;

    private static bool IsSet(LayerOperation operation) =>
        IsPlace(operation) || OperationKinds.Find(operation.Op) is null or { IsSetting: true };

    private static void Either(string what, string when, string op, Action<LayerOperation> say)
    {
        if (what is "on" or "off")
            say(new() { Op = op, Off = what == "off" });
        else if (what == "where" && !string.IsNullOrWhiteSpace(when))
            say(new() { Op = op, When = when.Trim() });
    }

    private LayerOperation Remade(LayerOperation made, Dictionary<string, string>? texts) =>
        made with
        {
            Label = string.IsNullOrWhiteSpace(Label) ? made.Label : Label.Trim(),
            Texts = made.New!.What == NewPart.Guidance ? null : texts,
            Width = Width ?? made.Width,
            New = made.New with
            {
                Text = made.New.What == NewPart.Guidance ? Text : made.New.Text,
                Texts = made.New.What == NewPart.Guidance ? texts : null,
                To = string.IsNullOrWhiteSpace(To) ? made.New.To : To.Trim(),
                Does = Does ?? made.New.Does,
                Code = Code.Length > 0 ? Code.Trim() : made.New.Code,
                Kind = Kind.Length > 0 ? Kind : made.New.Kind,
                Formula = made.New.What != NewPart.Scratch || string.IsNullOrWhiteSpace(Formula) ? null : Formula.Trim(),
            },
        };

    // A section that is shown where something holds is hidden where it does not.
    private static string Undo(string when) =>
        new LayerOperation { Op = LayerOperation.Hide, When = when }.Written is { } written && written != when ? written : $"NOT({when})";

    /// <summary>Why what was typed in other languages cannot be kept as it is; null when it can.</summary>
    public string? Refusal
    {
        get
        {
            var lines = Lines().ToList();
            if (lines.FirstOrDefault(line => line.Language is null) is { Line: { } wrong })
                return $"“{wrong}” does not begin with its language: write it as “nb: "
                    + "Merke”, with the two letters of the language, a colon and the words.";
            return lines.CountBy(line => line.Language!).FirstOrDefault(language => language.Value > 1).Key is { } twice
                ? $"The language {twice} is there twice."
                : null;
        }
    }

    private Dictionary<string, string>? ReadTexts() =>
        Lines()
            .Where(line => line.Language is not null)
            .GroupBy(line => line.Language!)
            .ToDictionary(group => group.Key, group => group.Last().Words)
            is { Count: > 0 } read
            ? read
            : null;

    private IEnumerable<(string Line, string? Language, string Words)> Lines() =>
        Texts
            .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(line =>
                line.Split(':', 2, StringSplitOptions.TrimEntries) is [{ Length: 2 } language, { Length: > 0 } words]
                && language.All(char.IsAsciiLetter)
                    ? (line, language.ToLowerInvariant(), words)
                    : (line, (string?)null, "")
            );
}
