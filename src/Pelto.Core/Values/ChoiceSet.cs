using System.Text.Json.Nodes;

namespace Pelto.Core.Values;

/// <summary>The choices of a field, and finding one by what people type.</summary>
/// <param name="All">In the order in which they are offered.</param>
/// <param name="MayAdd">True when people may add a choice while they enter a record.</param>
/// <param name="IsByLabel">True when they are offered in the order of their labels, in each language for itself.</param>
public sealed record ChoiceSet(IReadOnlyList<Choice> All, bool MayAdd = false, bool IsByLabel = false)
{
    // More are looked for by typing, rather than in a list of all.
    private const int MaxAtOnce = 40;

    /// <summary>True when they are few, and all that there will be: one is picked out of a list of all.</summary>
    public bool IsPlain => !MayAdd && All.Count <= MaxAtOnce;

    /// <summary>Makes them of what a definition says; what is wrong with them goes to <paramref name="refuse"/>.</summary>
    internal static ChoiceSet From(KindOptions options, Action<string, string> refuse) =>
        new(ChoiceRules.Checked(options.Choices, refuse), options.MayAdd, options.ChoicesByLabel);

    /// <summary>Those that can be chosen, in the order in which people of a language are offered them.</summary>
    public IEnumerable<Choice> Offered(Locale locale)
    {
        var offered = All.Where(choice => choice.IsOffered);
        return IsByLabel && locale.Language.Length > 0
            ? offered.OrderBy(choice => choice.LabelIn(locale), StringComparer.Create(locale.Culture, ignoreCase: true))
            : offered;
    }

    /// <summary>Those that hold a text in what people read for them, in any language.</summary>
    public IEnumerable<Choice> Reading(string text) =>
        All.Where(choice =>
            choice.Labels.Any(label =>
                CultureInfo.InvariantCulture.CompareInfo.IndexOf(label, text, CompareOptions.IgnoreCase | CompareOptions.IgnoreNonSpace)
                >= 0
            )
        );

    /// <summary>The choice with this code.</summary>
    public Choice? Find(string code) => All.FirstOrDefault(choice => choice.Code == code);

    /// <summary>The label of a code, as it was defined or as people of a language read it; the code itself when it is unknown.</summary>
    public string LabelOf(string code, Locale? locale = null) => Find(code)?.LabelIn(locale ?? Locale.International) ?? code;

    /// <summary>
    /// The choice that somebody named. A code comes before a label, since a label may read like another choice's code; a merged choice
    /// stands for the one that took its place.
    /// </summary>
    internal Choice? Named(string text, Locale locale)
    {
        // What one of them is called in this language comes before what another one was called when it was defined, and what is offered
        // before what is not any more.
        var found = Find(text)
            ?? All.Where(choice => choice.IsCalled(text, locale))
                .OrderBy(choice => choice.MergedInto is not null)
                .ThenBy(choice => choice.Retired)
                .ThenBy(choice => !string.Equals(choice.LabelIn(locale), text, StringComparison.OrdinalIgnoreCase))
                .FirstOrDefault();
        for (var hops = 0; found?.MergedInto is { } next && hops < All.Count; hops++)
            found = Find(next);
        return found;
    }

    /// <summary>Codes as a list in SQL.</summary>
    internal string CodeList => string.Join(", ", All.Select(choice => FieldKind.Quoted(choice.Code)));

    /// <summary>Codes for a JSON Schema.</summary>
    internal JsonArray CodesForSchema(bool orNull)
    {
        var codes = new JsonArray();
        foreach (var choice in All.Where(choice => choice.MergedInto is null))
            codes.Add(choice.Code);
        if (orNull)
            codes.Add(null);
        return codes;
    }

    /// <summary>Equal when the choices are, so that an unchanged definition is seen as such.</summary>
    public bool Equals(ChoiceSet? other) =>
        other is not null && MayAdd == other.MayAdd && IsByLabel == other.IsByLabel && All.SequenceEqual(other.All);

    /// <inheritdoc/>
    public override int GetHashCode() => All.Aggregate(17, HashCode.Combine);
}
