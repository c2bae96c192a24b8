using System.Text;

namespace Pelto.Core.Values;

/// <summary>What makes a list of choices wrong, and what looks like a slip in one.</summary>
public static class ChoiceRules
{
    /// <summary>The most choices that one list holds; beyond, a record type of its own serves better.</summary>
    public const int MaxChoices = 2000;

    private const int MaxLetters = 120;

    /// <summary>The choices of a definition; what is wrong with them goes to <paramref name="refuse"/>.</summary>
    public static IReadOnlyList<Choice> Checked(IReadOnlyList<Choice>? given, Action<string, string> refuse)
    {
        var choices = given ?? [];
        if (choices.Count == 0)
            refuse("choices", "Name at least one choice, one per line.");
        if (choices.Count > MaxChoices)
            refuse("choices", $"A list holds at most {Numbers.Format(MaxChoices)} choices.");
        foreach (var choice in choices)
        {
            if (string.IsNullOrWhiteSpace(choice.Label))
                refuse("choices", $"The choice {choice.Code} needs a label.");
            else if (choice.Label.Length > MaxLetters || choice.Label.Any(char.IsControl))
                refuse("choices", $"The label of {choice.Code} has more than {MaxLetters} characters or a line break.");
            else if (!Codes.IsChoiceCode(choice.Code))
                refuse(
                    "choices",
                    $"“{choice.Code}” cannot be the code of a choice: "
                        + "it begins with a letter and goes on with letters, digits and underscores, 40 at most."
                );
            if (choice.Colour is { } colour && !Choice.Colours.Contains(colour))
                refuse("choices", $"There is no colour “{colour}”. There are: {string.Join(", ", Choice.Colours)}.");
            if (
                choice.MergedInto is { } other
                && (other == choice.Code || choices.All(candidate => candidate.Code != other || candidate.MergedInto is not null))
            )
                refuse("choices", $"{choice.Label} cannot be merged into “{other}”: it is not in the list, or is merged itself.");
        }

        foreach (var language in choices.SelectMany(choice => choice.Texts?.Keys ?? []).Distinct(StringComparer.Ordinal))
            CheckLanguage(language, choices, refuse);
        if (Twice(choices.Select(choice => choice.Code)) is { } code)
            refuse("choices", $"The code {code} is used for two choices.");
        else if (Twice(choices.Where(choice => choice.IsOffered).Select(choice => choice.Label.Trim())) is { } label)
            refuse("choices", $"“{label}” is there twice.");
        return choices;
    }

    // Whoever reads that language types what they read: it must not be two of them.
    private static void CheckLanguage(string language, IReadOnlyList<Choice> choices, Action<string, string> refuse)
    {
        if (language.Length != 2 || !language.All(char.IsAsciiLetterLower))
        {
            refuse("choices", $"“{language}” is not a two-letter language code (ISO 639-1), such as fi.");
            return;
        }

        string? In(Choice choice) => choice.Texts?.GetValueOrDefault(language);
        if (choices.FirstOrDefault(choice => In(choice) is { } text && (text.Length > MaxLetters || text.Any(char.IsControl))) is { } wrong)
            refuse("choices", $"What {wrong.Label} is called in {language} has more than {MaxLetters} characters or a line break.");
        if (
            Twice(choices.Where(choice => choice.IsOffered).Select(choice => In(choice) is { Length: > 0 } text ? text : choice.Label)) is
            { } label
        )
            refuse("choices", $"“{label}” is there twice for people who read {language}.");
    }

    /// <summary>
    /// Why a new choice cannot be called so, where one that is not offered any more is; null when none is. To make its double would part
    /// what belongs together.
    /// </summary>
    public static string? RefuseAnew(string label, IEnumerable<Choice> known, bool mayOffer) =>
        known.FirstOrDefault(choice =>
            choice is { Retired: true, MergedInto: null } && choice.Labels.Any(called => Key(called) == Key(label))
        )
            is { } retired
            ? $"“{retired.Label}” exists already and is retired. "
                + $"{(mayOffer ? "Offer it again, or give the new one another label." : "Choose another, or ask an administrator to offer it again.")}"
            : null;

    /// <summary>
    /// What two labels that are probably meant to be one have in common: letters and figures, without case, accents, blanks and marks.
    /// </summary>
    public static string Key(string label)
    {
        var key = new StringBuilder();
        foreach (var c in label.Normalize(NormalizationForm.FormKD))
            if (char.IsLetterOrDigit(c))
                key.Append(char.ToUpperInvariant(c));
        return key.Length == 0 ? label : key.ToString();
    }

    private static string? Twice(IEnumerable<string> names) =>
        names.GroupBy(name => name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(group => group.Count() > 1)?.Key;
}
