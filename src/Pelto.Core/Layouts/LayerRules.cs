using Pelto.Core.Formulas;

namespace Pelto.Core.Layouts;

/// <summary>Holds layers to what they have to say, and deals out what they say to the screens that it is about.</summary>
internal sealed class LayerRules(HostDescription host, SiteDefinition site, List<Problem> problems)
{
    private const int MaxLabel = 80;
    private const int MaxText = 20_000;

    /// <summary>Layers as a whole.</summary>
    public void Check()
    {
        foreach (var twice in site.Layers.GroupBy(layer => layer.Audience, StringComparer.Ordinal).Where(group => group.Count() > 1))
            problems.Add(new(twice.Last().Id, "audience", $"There is a layer for {InWords(twice.Last())} already: {twice.First().Label}."));
        foreach (var layer in site.Layers)
        {
            if (string.IsNullOrWhiteSpace(layer.Label) || layer.Label.Length > MaxLabel)
                problems.Add(new(layer.Id, "label", $"Give the layer a name of at most {MaxLabel} characters."));
            if (layer.Audience != Layer.Everyone && string.IsNullOrWhiteSpace(layer.Comment))
                problems.Add(new(layer.Id, "comment", "Say why the layer is there."));
            if (Audience.Refuse(layer.Audience, host) is { } sentence)
                problems.Add(new(layer.Id, "audience", sentence));
            foreach (var operation in layer.Operations)
                CheckOperation(layer, operation);
        }
    }

    /// <summary>The screens of a record type, its conditions bound.</summary>
    public Screens ScreensOf(RecordType type)
    {
        var conditions = new Dictionary<string, Formula>(StringComparer.Ordinal);
        var layers = new List<Layer>();
        var made = new HashSet<string>(StringComparer.Ordinal);
        var sections = type
            .Description.Screen.Pages.SelectMany(page => page.Sections.Select(section => section.Id).Prepend(page.Id))
            .Concat(type.PointedBy.Select(LayoutSection.IdOf))
            .ToHashSet(StringComparer.Ordinal);
        var fields = type.Parts.SelectMany(part => part.Fields).Select(field => field.Id).ToHashSet(StringComparer.Ordinal);
        var lists = ListOf.All(type).ToList();
        var scratch = ScratchFields.On(type, site.Layers).ToList();
        var names = ScratchFields.Names(scratch);
        foreach (
            var twice in scratch
                .Where(one => !string.IsNullOrEmpty(one.Code))
                .GroupBy(one => one.Code, StringComparer.Ordinal)
                .Where(group => group.Count() > 1)
        )
            problems.Add(
                new("scratch", "code", $"Two scratch fields on the screen of {type.Plural.ToLowerInvariant()} have the code {twice.Key}.")
            );
        foreach (var layer in site.Layers)
        {
            var own = new List<LayerOperation>();
            foreach (var operation in layer.Operations)
            {
                if (operation.New is not null && operation.Screen == type.Code)
                    made.Add(operation.Part);
                if (operation.IsOfList)
                {
                    if (lists.Exists(list => list.Knows(operation.Part)))
                        own.Add(operation);
                    continue;
                }

                if (
                    !sections.Contains(operation.Part)
                    && !fields.Contains(operation.Part)
                    && !made.Contains(operation.Part)
                    && !type.Description.Removed.ContainsKey(operation.Part)
                    && operation.Part != "screen:" + type.Code
                )
                    continue;
                if (operation.New is { What: NewPart.Button, Does: "open", To: { } address })
                    Bind(type, layer, operation, address, DataType.Text, conditions, names);
                if (operation.New is { What: NewPart.Scratch, Formula: { Length: > 0 } formula } worked)
                    Bind(type, layer, operation, formula, ScratchFields.KindOf(worked).DataType, conditions, names);
                if (
                    string.IsNullOrWhiteSpace(operation.When)
                    || Bind(type, layer, operation, operation.When, DataType.YesNo, conditions, names)
                )
                    own.Add(operation);
            }

            if (own.Count > 0)
                layers.Add(layer with { Operations = own });
        }

        return new(type, layers, conditions);
    }

    /// <summary>
    /// What could not be carried out, for any audience: for people of that audience alone, adding a record and changing one, with all
    /// conditions holding and with none.
    /// </summary>
    public static IEnumerable<LayerClash> ClashesOf(Screens screens)
    {
        var common = screens.Layers.Where(layer => layer.For!.Kind == AudienceKind.Everyone).ToList();
        var found = new List<LayerClash>();
        foreach (var layer in screens.Layers)
        {
            IReadOnlyList<Layer> laid = common.Contains(layer) ? common : [.. common, layer];
            foreach (var mode in new[] { RecordMode.Changing, RecordMode.Adding })
            foreach (var holds in new[] { true, false })
                found.AddRange(screens.For(laid, mode, _ => holds).Clashes.Where(clash => clash.Layer == layer));
        }

        return found.DistinctBy(clash => (clash.Layer.Id, clash.Operation, clash.Sentence));
    }

    /// <summary>The same for the lists that layers shape, once the columns of all record types are known.</summary>
    public static IEnumerable<LayerClash> ClashesOfLists(Screens screens) =>
        from layer in screens.Layers
        where layer.Operations.Any(operation => operation.IsOfList)
        from list in screens.Lists
        from clash in screens
            .ListFor(list, [.. screens.Layers.Where(one => one.For!.Kind == AudienceKind.Everyone && one != layer), layer])
            .Clashes
        where clash.Layer == layer
        select clash;

    private bool Bind(
        RecordType type,
        Layer layer,
        LayerOperation operation,
        string text,
        DataType gives,
        Dictionary<string, Formula> bound,
        IReadOnlyDictionary<string, DataType> names
    )
    {
        if (bound.TryGetValue(text, out var known))
            return known.DataType == gives;
        var found = new List<FormulaProblem>();
        var formula = Formula.Bind(text, type.Header, found, parameters: names);

        // Told of what somebody wrote, without what was put around it.
        var written = text == operation.When ? operation.Written! : text;
        if (formula is null && written != text)
        {
            var inner = new List<FormulaProblem>();
            if (Formula.Bind(written, type.Header, inner, parameters: names) is not null)
                written = text;
            else
                found = inner;
        }

        foreach (var problem in found)
            problems.Add(new(layer.Id, operation.Part, $"At character {problem.At.From + 1} of {written}: {problem.Message}"));
        if (formula is null)
            return false;
        if (formula.DataType != gives && operation.New is { What: NewPart.Scratch })
            problems.Add(
                new(
                    layer.Id,
                    operation.Part,
                    $"{text} gives {Binder.NameOf(formula.DataType)}, and the scratch field is {Binder.NameOf(gives)}."
                )
            );
        else if (formula.DataType != gives)
            problems.Add(
                new(
                    layer.Id,
                    operation.Part,
                    gives == DataType.YesNo
                        ? $"A condition gives yes or no, such as {type.Header.Fields[0].Code} <> \"\"."
                        : "A web address is a text, such as \"https://example.org/\" & number."
                )
            );
        else if (formula.IsVolatile && gives == DataType.YesNo)
            problems.Add(new(layer.Id, operation.Part, $"{text} changes by itself, while nobody types."));
        else
            bound[text] = formula;
        return bound.ContainsKey(text);
    }

    private void CheckOperation(Layer layer, LayerOperation operation)
    {
        void Refuse(string sentence) => problems.Add(new(layer.Id, operation.Part, sentence));
        var kind = OperationKinds.Find(operation.Op);
        if (kind is null)
            Refuse(OperationKinds.Unknown(operation.Op));
        if (operation.On is not (null or "adding" or "changing"))
            Refuse($"“{operation.On}” is not a moment; there are adding and changing.");
        if (kind?.Refuse(operation) is { } refusal)
            Refuse(refusal);
        if (operation.Label?.Length > MaxLabel || operation.Texts?.Values.Any(text => text.Length > MaxLabel) == true)
            Refuse($"What people read has at most {MaxLabel} characters.");
        if (
            operation.IsOfList
            && (operation.On is not null || operation.When is not null || operation.New is not null || kind is { IsOfColumns: false })
        )
            Refuse(
                "A list shows many records, and nobody types in it: "
                    + "its columns are put, moved, hidden, shown, named, widened and sorted by, whatever a record holds."
            );
        if (kind is { IsOfScreens: false } && !operation.IsOfList)
            Refuse("Only lists are sorted.");
        if (operation.New is { } made)
            CheckMade(operation, made, Refuse);
    }

    private void CheckMade(LayerOperation operation, NewPart made, Action<string> refuse)
    {
        if (operation.Op != LayerOperation.Put)
            refuse("Only what is put on a screen is made.");
        if (host.RecordTypes.All(type => type.Code != operation.Screen) && site.RecordTypes.All(type => type.Code != operation.Screen))
            refuse($"There is no screen “{operation.Screen}” to make it on.");
        if (made.What is NewPart.Page or NewPart.Section or NewPart.Button or NewPart.Scratch && string.IsNullOrWhiteSpace(operation.Label))
            refuse("Say what it is called.");
        switch (made.What)
        {
            case NewPart.Page or NewPart.Section:
                break;
            case NewPart.Again when string.IsNullOrWhiteSpace(made.Field):
                refuse("Say which field stands here once more.");
                break;
            case NewPart.Guidance when string.IsNullOrWhiteSpace(made.Text):
                refuse("Write the guidance.");
                break;
            case NewPart.Guidance when made.Text!.Length > MaxText || made.Texts?.Values.Any(text => text.Length > MaxText) == true:
                refuse($"Guidance has at most {Numbers.Format(MaxText)} characters.");
                break;
            case NewPart.Button
                when made.Does is not ("print" or "fill") && (made.Does is not ("next" or "open") || string.IsNullOrWhiteSpace(made.To)):
                refuse(
                    "A button prints, fills again, makes the next document (say which), or opens a web address (say which, as a formula)."
                );
                break;
            case NewPart.Scratch:
                foreach (var refusal in ScratchFields.Refusals(made))
                    refuse(refusal);
                break;
            case not (NewPart.Again or NewPart.Guidance or NewPart.Button):
                refuse($"“{made.What}” cannot be made; there are {string.Join(", ", NewPart.All)}.");
                break;
        }
    }

    private string InWords(Layer layer) => layer.For?.InWords(host) ?? layer.Audience;
}
