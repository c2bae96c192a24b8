namespace Pelto.Web.Pages;

/// <summary>What stands in the inputs of the field page, as text, so that nothing typed is lost.</summary>
/// <remarks>Binding gives null for an empty input; here it is the empty text.</remarks>
public sealed class FieldInput
{
    /// <summary>Says "on no screen" in the place input.</summary>
    public const string Nowhere = "-";

    /// <summary>Record type and part, such as <c>sales_order/lines</c>.</summary>
    public string Part { get; set; } = "";

    /// <summary>Other parts in which it stands, written the same way.</summary>
    public List<string> AlsoOn { get; set; } = [];

    /// <summary>The parts with which it is printed.</summary>
    public List<string> PrintedOn { get; set; } = [];

    /// <summary>What people will read.</summary>
    public string Label { get; set; } = "";

    /// <summary>Empty until somebody types one: then it follows from the label.</summary>
    public string Code { get; set; } = "";

    /// <summary>True once somebody typed the code.</summary>
    public bool CodeTyped { get; set; }

    /// <summary>For columns.</summary>
    public string Heading { get; set; } = "";

    /// <summary>Tells people what to fill in.</summary>
    public string Help { get; set; } = "";

    /// <summary>What people of other languages read.</summary>
    public List<LocalTextInput> Texts { get; set; } = [];

    /// <summary>The kind's name.</summary>
    public string Kind { get; set; } = "text";

    /// <summary>True for what points to records.</summary>
    public bool IsLink => FieldKinds.Find(Kind)?.IsLink == true;

    /// <summary>Real values that were pasted to see what size they need.</summary>
    public string Pasted { get; set; } = "";

    /// <summary>For texts and secrets; empty for the usual.</summary>
    public string Length { get; set; } = "";

    /// <summary>For decimals, money and quantities; empty for the usual.</summary>
    public string Digits { get; set; } = "";

    /// <summary>For decimals, percentages and quantities; empty for the usual.</summary>
    public string Decimals { get; set; } = "";

    /// <summary>For choices: one a line, <c>code = label</c> or a label alone.</summary>
    public string Choices { get; set; } = "";

    /// <summary>For choices: the id of a shared list; empty for choices of its own.</summary>
    public string ChoiceList { get; set; } = "";

    /// <summary>For choices of its own: whether people may add one while they enter a record.</summary>
    public bool MayAdd { get; set; }

    /// <summary>For money: codes with spaces or commas between.</summary>
    public string Currencies { get; set; } = "EUR";

    /// <summary>For quantities: codes of units, the usual one first.</summary>
    public List<string> Units { get; set; } = [];

    /// <summary>For phone numbers.</summary>
    public string Country { get; set; } = "FI";

    /// <summary>For identifiers.</summary>
    public string Scheme { get; set; } = "gtin";

    /// <summary>For identifiers of one's own.</summary>
    public string CheckDigit { get; set; } = "";

    /// <summary>For links: the code of the record type pointed to.</summary>
    public string Target { get; set; } = "";

    /// <summary>For links: whether deleting the target empties the link.</summary>
    public bool ClearsWithTarget { get; set; }

    /// <summary>For what is seen through a link: the way there.</summary>
    public string Path { get; set; } = "";

    /// <summary>For links: a condition for what is offered.</summary>
    public string Offers { get; set; } = "";

    /// <summary>For links: what people read when something else is chosen.</summary>
    public string OffersMessage { get; set; } = "";

    /// <summary>For links: codes of what stands beside number and name, with commas between.</summary>
    public string Finds { get; set; } = "";

    /// <summary>Whether the next document takes it over.</summary>
    public bool CarriedAlong { get; set; }

    /// <summary>Who or what fills it: <c>people</c>, <c>formula</c> or <c>query</c>.</summary>
    public string Filler
    {
        get;
        set => field = value ?? "people";
    } = "people";

    /// <summary>True when a formula fills it, rather than people.</summary>
    public bool Computed => Filler == "formula";

    /// <summary>True when a query fills it.</summary>
    public bool IsQueried => Filler == "query";

    /// <summary>The lasting id of the query that fills it.</summary>
    public string Query { get; set; } = "";

    /// <summary>For each query, by its id: the column that the field takes.</summary>
    public Dictionary<string, string> Columns { get; set; } = [];

    /// <summary>For each query and parameter, written <c>id:name</c>: what it is, as a formula.</summary>
    public Dictionary<string, string> With { get; set; } = [];

    /// <summary>When the query is asked.</summary>
    public QueryWhen When { get; set; }

    /// <summary>True when nobody changes what the query gave.</summary>
    public bool LockedAnswer { get; set; }

    /// <summary>What fills it; kept while people fill it, so that nothing typed is lost.</summary>
    public string Formula { get; set; } = "";

    /// <summary>When the formula fills it, and whether people may change it: one of <see cref="Ways"/>.</summary>
    public string Way
    {
        get;
        set => field = value ?? LiveWay;
    } = LiveWay;

    /// <summary>Calculated whenever it is read.</summary>
    public const string LiveWay = "live";

    /// <summary>What can be said about when a formula fills a field.</summary>
    public static IReadOnlyList<(string Way, string Name, string About)> Ways { get; } =
    [
        (LiveWay, "Live", "calculated whenever it is read, always right, nothing stored"),
        ("kept", "Kept", "stored when the record is saved, as it was then"),
        ("untouched", "Until typed over", "as kept, but people may type over it; one key brings it back"),
        ("chosen", "Carried over", "when what it is read from is chosen, such as the customer; people may change it"),
        ("locked", "Carried over and locked", "when that is chosen; nobody changes it"),
    ];

    private bool IsChangeable => Way is "untouched" or "chosen";

    /// <summary>What new records begin with.</summary>
    public string DefaultValue { get; set; } = "";

    /// <summary>Whether records on file get it too.</summary>
    public bool FillExisting { get; set; }

    /// <summary>Whether a record needs it.</summary>
    public bool Required { get; set; }

    /// <summary>A condition under which a record needs it.</summary>
    public string RequiredWhen { get; set; } = "";

    /// <summary>A condition under which it is shown.</summary>
    public string ShownWhen { get; set; } = "";

    /// <summary>The least that is taken.</summary>
    public string Minimum { get; set; } = "";

    /// <summary>The greatest that is taken.</summary>
    public string Maximum { get; set; } = "";

    /// <summary>A regular expression.</summary>
    public string Pattern { get; set; } = "";

    /// <summary>What people read when it does not fit.</summary>
    public string PatternMessage { get; set; } = "";

    /// <summary>Whether the database keeps an index for lists.</summary>
    public bool Indexed { get; set; }

    /// <summary>The sum of several says nothing.</summary>
    public bool NoTotals { get; set; }

    /// <summary>Whether values are unique.</summary>
    public bool Unique { get; set; }

    /// <summary>A formula that must hold.</summary>
    public string Check { get; set; } = "";

    /// <summary>What people read when it does not hold.</summary>
    public string CheckMessage { get; set; } = "";

    /// <summary>The id of what it stands after; empty for the end, <see cref="Nowhere"/> for no screen.</summary>
    public string After { get; set; } = "";

    /// <summary>Columns of twelve; empty for what its kind proposes.</summary>
    public string Width { get; set; } = "";

    /// <summary>The record that the proof shows it on.</summary>
    public string Record { get; set; } = "";

    /// <summary>A value to try.</summary>
    public string Sample { get; set; } = "";

    /// <summary>The inputs for a definition. Values are written as the person who looks writes them.</summary>
    public static FieldInput From(FieldDefinition field, LayerOperation? placement) =>
        new()
        {
            Part = $"{field.RecordType}/{field.Part}",
            AlsoOn = [.. field.AlsoOn.Select(place => $"{place.RecordType}/{place.Part}")],
            PrintedOn = [.. field.Places().Where(place => place.Printed).Select(place => $"{place.RecordType}/{place.Part}")],
            Label = field.Label,
            Code = field.Code,
            CodeTyped = true,
            Heading = field.Heading ?? "",
            Help = field.Help ?? "",
            Texts =
            [
                .. (field.Texts ?? new Dictionary<string, LocalText>()).Select(text => new LocalTextInput
                {
                    Language = text.Key,
                    Label = text.Value.Label ?? "",
                    Heading = text.Value.Heading ?? "",
                    Help = text.Value.Help ?? "",
                }),
            ],
            Kind = field.Kind,
            Length = Text(field.Length),
            Digits = Text(field.Digits),
            Decimals = Text(field.Decimals),
            Choices = string.Join(
                '\n',
                (field.Choices ?? []).Where(choice => choice.IsOffered).Select(choice => $"{choice.Code} = {choice.Label}")
            ),
            ChoiceList = field.ChoiceList ?? "",
            MayAdd = field.MayAdd,
            Currencies = string.Join(", ", field.Currencies ?? ["EUR"]),
            Units = [.. field.Units ?? []],
            Country = field.Country ?? "FI",
            Scheme = field.Scheme ?? "gtin",
            CheckDigit = field.CheckDigit ?? "",
            Target = field.Target ?? "",
            ClearsWithTarget = field.ClearsWithTarget,
            Path = field.Path ?? "",
            Offers = field.Offers ?? "",
            OffersMessage = field.OffersMessage ?? "",
            Finds = string.Join(", ", field.Finds ?? []),
            CarriedAlong = field.CarriedAlong,
            Filler =
                field.Query is not null ? "query"
                : field.Formula is { Length: > 0 } ? "formula"
                : "people",
            Query = field.Query?.Id ?? "",
            Columns = field.Query is { Column: { } column } use ? new() { [use.Id] = column } : [],
            With = field.Query?.With.ToDictionary(pair => $"{field.Query.Id}:{pair.Key}", pair => pair.Value) ?? [],
            When = field.Query?.When ?? QueryWhen.Change,
            LockedAnswer = field is { Query: not null, Locked: true },
            Formula = field.Formula ?? "",
            Way =
                field.Formula is not { Length: > 0 } || field.Live
                    ? LiveWay
                    : field.Fills switch
                    {
                        FillMode.Untouched => "untouched",
                        FillMode.Chosen => field.Locked ? "locked" : "chosen",
                        _ => "kept",
                    },
            DefaultValue = field.DefaultValue ?? "",
            FillExisting = field.FillExisting,
            Required = field.Required,
            RequiredWhen = field.RequiredWhen ?? "",
            ShownWhen = field.ShownWhen ?? "",
            Minimum = field.Minimum ?? "",
            Maximum = field.Maximum ?? "",
            Pattern = field.Pattern ?? "",
            PatternMessage = field.PatternMessage ?? "",
            Unique = field.Unique,
            Indexed = field.Indexed,
            NoTotals = field.NoTotals,
            Check = field.Check ?? "",
            CheckMessage = field.CheckMessage ?? "",
            After = placement?.Op == LayerOperation.Hide ? Nowhere : placement?.After ?? "",
            Width = Text(placement?.Width),
        };

    /// <summary>
    /// The definition that the inputs make, over what the draft has of the field already. What cannot be read goes to
    /// <paramref name="problems"/>.
    /// </summary>
    /// <param name="known">The field as the draft has it, or an empty one with its id.</param>
    /// <param name="taken">Codes that other fields of the part have.</param>
    /// <param name="problems">Takes what is wrong.</param>
    public FieldDefinition ToField(FieldDefinition known, IEnumerable<string> taken, List<Problem> problems)
    {
        var id = known.Id;
        var part = Part.Split('/', 2);
        if (
            Width.Trim() is { Length: > 0 } width
            && !(int.TryParse(width, NumberStyles.None, CultureInfo.InvariantCulture, out var wide) && wide is >= 1 and <= 12)
        )
            problems.Add(new(id, "width", "The width is a whole number from 1 to 12."));
        if (!CodeTyped || Code.Length == 0)
            (Code, CodeTyped) = (Codes.From(Label, taken), false);
        var kind = FieldKinds.Find(Kind);
        var isSeen = Kind == FieldKinds.ThroughLink;
        var isComputed = Computed && kind?.IsComputable == true;
        if (isComputed && string.IsNullOrWhiteSpace(Formula))
            problems.Add(new(id, "formula", "Write the formula that fills it."));
        var isAsked = IsQueried && kind?.IsAskable == true;
        if (isAsked && Query.Length == 0)
            problems.Add(new(id, "query", "Choose the query that fills it."));
        var isTyped = !isSeen && (!isComputed || IsChangeable) && !(isAsked && LockedAnswer);
        return (FieldDefinition)ReadOptions(kind, known, problems) with
        {
            RecordType = part[0],
            Part = part.Length > 1 ? part[1] : Core.Catalog.Part.HeaderCode,
            AlsoOn =
            [
                .. AlsoOn
                    .Where(place => place != Part)
                    .Select(place => place.Split('/', 2))
                    .Where(place => place.Length == 2)
                    .Select(place => new AlsoOn(place[0], place[1], PrintedOn.Contains($"{place[0]}/{place[1]}"))),
            ],
            Printed = PrintedOn.Contains(Part),
            Label = Label.Trim(),
            Code = Code.Trim(),
            Heading = OrNull(Heading),
            Help = OrNull(Help),
            Texts = ReadTexts(id, problems),
            Path = isSeen ? OrNull(Path) : null,
            Offers = IsLink ? OrNull(Offers) : null,
            OffersMessage = IsLink ? OrNull(OffersMessage) : null,
            Finds =
                IsLink
                && Finds.Split([',', ';', ' '], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                    is { Length: > 0 } finds
                    ? finds
                    : null,
            CarriedAlong = isTyped && !isAsked && CarriedAlong,
            Query =
                isAsked && Query.Length > 0
                    ? new()
                    {
                        Id = Query,
                        Column = OrNull(Columns.GetValueOrDefault(Query) ?? ""),
                        With = With.Where(pair =>
                                pair.Key.StartsWith(Query + ":", StringComparison.Ordinal) && !string.IsNullOrWhiteSpace(pair.Value)
                            )
                            .ToDictionary(pair => pair.Key[(Query.Length + 1)..], pair => pair.Value.Trim()),
                        When = When,
                    }
                    : null,
            Formula = isComputed ? OrNull(Formula) : null,
            Live = isComputed && Way == LiveWay,
            Fills = !isComputed
                ? FillMode.Always
                : Way switch
                {
                    "untouched" => FillMode.Untouched,
                    "chosen" or "locked" => FillMode.Chosen,
                    _ => FillMode.Always,
                },
            Locked = (isComputed && Way == "locked") || (isAsked && LockedAnswer),
            DefaultValue = IsLink || !isTyped ? null : OrNull(DefaultValue),
            FillExisting = !IsLink && isTyped && FillExisting && DefaultValue.Trim().Length > 0,
            Required = isTyped && Required,
            ShownWhen = OrNull(ShownWhen),
            RequiredWhen = isTyped ? OrNull(RequiredWhen) : null,
            Minimum = isTyped ? OrNull(Minimum) : null,
            Maximum = isTyped ? OrNull(Maximum) : null,
            Pattern = isTyped ? OrNull(Pattern) : null,
            PatternMessage = isTyped ? OrNull(PatternMessage) : null,
            Unique = isTyped && Unique,
            Indexed = !isSeen && !IsLink && Indexed,
            NoTotals = NoTotals && kind?.IsSummable == true,
            Check = isTyped ? OrNull(Check) : null,
            CheckMessage = isTyped ? OrNull(CheckMessage) : null,
        };
    }

    // What the inputs say of the kind; those of other kinds are hidden, and what stands in them is skipped.
    private KindOptions ReadOptions(FieldKind? kind, FieldDefinition known, List<Problem> problems)
    {
        var id = known.Id;
        var said = new FieldDefinition
        {
            Length = kind?.Takes(KindOption.Length) == true ? Number(Length, "length", "The length") : null,
            Digits = kind?.Takes(KindOption.Digits) == true ? Number(Digits, "digits", "The count of digits") : null,
            Decimals =
                kind?.Takes(KindOption.Decimals) == true ? Number(Decimals, "decimals", "The count of digits after the point") : null,
            Choices = kind?.IsChoice == true && ChoiceList.Length == 0 ? ReadChoices(id, known.Choices ?? [], problems) : null,
            ChoiceList = OrNull(ChoiceList),
            MayAdd = ChoiceList.Length == 0 && MayAdd,
            Currencies = Currencies.ToUpperInvariant().Split([' ', ',', ';'], StringSplitOptions.RemoveEmptyEntries),
            Units = Units.Count > 0 ? [.. Units] : null,
            Country = OrNull(Country)?.ToUpperInvariant(),
            Scheme = OrNull(Scheme),
            CheckDigit = Scheme == IdentifierScheme.UserDefined ? OrNull(CheckDigit) : null,
            Target = OrNull(Target),
            ClearsWithTarget = ClearsWithTarget,
            Kind = Kind,
        };
        return known.WithKindOf(said.For(kind));

        int? Number(string text, string property, string what)
        {
            if (string.IsNullOrWhiteSpace(text))
                return null;
            if (int.TryParse(text.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                return number;
            problems.Add(new(id, property, $"{what} is a whole number."));
            return null;
        }
    }

    /// <summary>Where the field is put; null at the end of its part, where it stands by itself.</summary>
    public LayerOperation? ToPlacement(string id)
    {
        int? width =
            int.TryParse(Width.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var columns) && columns is >= 1 and <= 12
                ? columns
                : null;
        return After == Nowhere ? new() { Op = LayerOperation.Hide, Part = id }
            : After.Length == 0 ? null
            : new()
            {
                Op = LayerOperation.Put,
                Part = id,
                After = After,
                Width = width,
            };
    }

    private Dictionary<string, LocalText>? ReadTexts(string id, List<Problem> problems)
    {
        var texts = new Dictionary<string, LocalText>(StringComparer.Ordinal);
        foreach (var text in Texts.Where(text => $"{text.Label}{text.Heading}{text.Help}".Trim().Length > 0))
        {
            if (text.Language.Length == 0)
                problems.Add(new(id, "texts", "Say which language these texts are in."));
            else if (!texts.TryAdd(text.Language, new(OrNull(text.Label), OrNull(text.Heading), OrNull(text.Help))))
                problems.Add(new(id, "texts", $"The language {text.Language} is there twice."));
        }

        return texts.Count == 0 ? null : texts;
    }

    // What else is known of a choice, such as its colour, stays with its code; a choice that is retired or merged is not in the input, and
    // stays too.
    private List<Choice> ReadChoices(string id, IReadOnlyList<Choice> known, List<Problem> problems)
    {
        var choices = new List<Choice>();
        var codes = known.Select(choice => choice.Code).ToHashSet(StringComparer.Ordinal);
        foreach (var line in Choices.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var cut = line.Split('=', 2, StringSplitOptions.TrimEntries);
            var (code, label) =
                cut.Length == 2 && Codes.IsChoiceCode(cut[0])
                    ? (cut[0], cut[1])
                    : (
                        known.FirstOrDefault(choice => choice.IsOffered && choice.Label == line)?.Code
                            ?? Codes.From(line, choices.Select(choice => choice.Code).Concat(codes)),
                        line
                    );
            var old = known.FirstOrDefault(choice => choice.Code == code);
            if (old is null && ChoiceRules.RefuseAnew(label, known, mayOffer: true) is { } retired)
                problems.Add(new(id, "choices", retired));
            choices.Add(old is not null ? old with { Label = label } : new(code, label));
        }

        return [.. choices, .. known.Where(choice => !choice.IsOffered && choices.TrueForAll(other => other.Code != choice.Code))];
    }

    private static string? OrNull(string text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    private static string Text(int? number) => number?.ToString(CultureInfo.InvariantCulture) ?? "";
}
