namespace Pelto.Core.Values;

/// <summary>All kinds of field: which there are, and how a definition becomes one.</summary>
public static class FieldKinds
{
    /// <summary>Names no kind of its own: a field of another record, seen through a link, has the kind that it has there.</summary>
    public const string ThroughLink = "seen";

    /// <summary>Whole numbers, which is what links of the host are kept in.</summary>
    public const string Integer = "integer";

    private delegate FieldKind Maker(KindOptions options, Action<string, string> refuse);

    // One line for each kind: as the administrator is first offered it, and its maker, where there is something to say about it.
    private static readonly (FieldKind Sample, Maker Make)[] Kinds =
    [
        (new TextKind(30), TextKind.Make),
        (new LongTextKind(2000), LongTextKind.Make),
        (new FormattedTextKind(10000), FormattedTextKind.Make),
        Plain(new IntegerKind()),
        (new DecimalKind(10, 2), DecimalKind.Make),
        (new MoneyKind(12, ["EUR"]), MoneyKind.Make),
        (new PercentKind(1), PercentKind.Make),
        (new QuantityKind(10, 2, [Units.All[0]]), QuantityKind.Make),
        Plain(new DateKind()),
        Plain(new TimeKind()),
        Plain(new MomentKind()),
        Plain(new DurationKind()),
        Plain(new YesNoKind()),
        (new ChoiceKind(new ChoiceSet([])), ChoiceKind.Make),
        (new SeveralChoicesKind(new ChoiceSet([])), SeveralChoicesKind.Make),
        Plain(new FileKind()),
        Plain(new ImageKind()),
        Plain(new WebAddressKind()),
        Plain(new EmailKind()),
        (new PhoneKind("FI"), PhoneKind.Make),
        (new IdentifierKind("gtin"), IdentifierKind.Make),
        (new SecretKind(100), SecretKind.Make),
        (new LinkKind(""), LinkKind.Make),
        (new LinksKind(""), LinksKind.Make),
    ];

    private static readonly Dictionary<string, Maker> Makers = Kinds.ToDictionary(
        kind => kind.Item1.Name,
        kind => kind.Item2,
        StringComparer.Ordinal
    );

    /// <summary>The kinds that an administrator can choose, in the order in which they are offered.</summary>
    public static IReadOnlyList<FieldKind> Definable { get; } = [.. Kinds.Select(kind => kind.Sample)];

    /// <summary>The names of the kinds of which something is so, with a blank between them.</summary>
    /// <param name="which">What is so.</param>
    public static string Names(Func<FieldKind, bool> which) => string.Join(' ', Definable.Where(which).Select(kind => kind.Name));

    /// <summary>The kind of a name, as an administrator is first offered it; null for none.</summary>
    public static FieldKind? Find(string name) => Definable.FirstOrDefault(kind => kind.Name == name);

    /// <summary>
    /// Makes the kind that a definition asks for; what is wrong goes to <paramref name="refuse"/> with the property's name, and null comes
    /// back for an unknown kind.
    /// </summary>
    public static FieldKind? Make(KindOptions options, Action<string, string> refuse)
    {
        if (Makers.TryGetValue(options.Kind, out var make))
            return make(options, refuse);
        refuse(
            "kind",
            options.Kind.Length == 0 ? "Choose a kind." : $"There is no kind “{options.Kind}”. There are: {string.Join(", ", Makers.Keys)}."
        );
        return null;
    }

    private static (FieldKind Sample, Maker Make) Plain(FieldKind kind) => (kind, (_, _) => kind);
}
