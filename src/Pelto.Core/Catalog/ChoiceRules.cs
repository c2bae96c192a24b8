using System.Text;
using Pelto.Core.Values;

namespace Pelto.Core.Catalog;

/// <summary>What makes a list of choices wrong, and what looks like a slip in one.</summary>
public static class ChoiceRules
{
    /// <summary>The most choices that one list holds; beyond, a record type of its own serves better.</summary>
    public const int MostChoices = 2000;

    /// <summary>The choices of a definition; what is wrong with them goes to <paramref name="refuse"/>.</summary>
    public static IReadOnlyList<Choice> Checked(IReadOnlyList<Choice>? given, Action<string, string> refuse)
    {
        var choices = given ?? [];
        if (choices.Count == 0) refuse("choices", "Name at least one choice, one on each line.");
        if (choices.Count > MostChoices) refuse("choices", $"A list holds at most {Numbers.Format(MostChoices)} choices.");
        foreach (var choice in choices)
        {
            if (string.IsNullOrWhiteSpace(choice.Label)) refuse("choices", $"The choice {choice.Code} needs a label.");
            else if (choice.Label.Length > 120 || choice.Label.Any(char.IsControl)) refuse("choices", $"The label of {choice.Code} has more than 120 characters or a line break.");
            else if (!Codes.IsChoiceCode(choice.Code)) refuse("choices", $"“{choice.Code}” cannot be the code of a choice: it begins with a letter and goes on with letters, digits and underscores, 40 at most.");
            if (choice.Colour is { } colour && !Choice.Colours.Contains(colour)) refuse("choices", $"There is no colour “{colour}”. There are: {string.Join(", ", Choice.Colours)}.");
            if (choice.MergedInto is { } other && (other == choice.Code || choices.All(candidate => candidate.Code != other || candidate.MergedInto is not null)))
                refuse("choices", $"{choice.Label} cannot be merged into “{other}”: it is not in the list, or is merged itself.");
        }

        if (Twice(choices.Select(choice => choice.Code)) is { } code) refuse("choices", $"The code {code} stands for two choices.");
        else if (Twice(choices.Where(choice => choice.IsOffered).Select(choice => choice.Label.Trim())) is { } label) refuse("choices", $"“{label}” is there twice.");
        return choices;
    }

    /// <summary>What two labels that are probably meant to be one have in common: letters and figures, without case, accents, blanks and marks.</summary>
    public static string Key(string label)
    {
        var key = new StringBuilder();
        foreach (var c in label.Normalize(NormalizationForm.FormKD))
            if (char.IsLetterOrDigit(c)) key.Append(char.ToUpperInvariant(c));
        return key.Length == 0 ? label : key.ToString();
    }

    private static string? Twice(IEnumerable<string> names) =>
        names.GroupBy(name => name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(group => group.Count() > 1)?.Key;
}
