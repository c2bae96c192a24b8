using System.Globalization;
using Pelto.Core.Values;

namespace Pelto.Core.Catalog;

/// <summary>All kinds of field: which there are, and how a definition becomes one.</summary>
public static class FieldKinds
{
    private static readonly Dictionary<string, Func<FieldContent, Action<string, string>, FieldKind>> Makers = new(StringComparer.Ordinal)
    {
        ["text"] = Text,
        ["integer"] = (_, _) => new IntegerKind(),
        ["decimal"] = Decimal,
        ["date"] = (_, _) => new DateKind(),
        ["yes_no"] = (_, _) => new YesNoKind(),
        ["choice"] = Choice,
        ["link"] = Link,
    };

    /// <summary>The kinds that an administrator can choose, in the order in which they are offered. Links between records come from the host so far.</summary>
    public static IReadOnlyList<FieldKind> Definable { get; } =
        [new TextKind(30), new IntegerKind(), new DecimalKind(10, 2), new DateKind(), new YesNoKind(), new ChoiceKind([])];

    /// <summary>Makes the kind that a definition asks for; what is wrong goes to <paramref name="refuse"/> with the property's name, and null comes back for an unknown kind.</summary>
    public static FieldKind? Make(FieldContent content, Action<string, string> refuse)
    {
        if (Makers.TryGetValue(content.Kind, out var make)) return make(content, refuse);
        refuse("kind", content.Kind.Length == 0 ? "Choose a kind." : $"There is no kind “{content.Kind}”. There are: {string.Join(", ", Makers.Keys)}.");
        return null;
    }

    private static TextKind Text(FieldContent content, Action<string, string> refuse)
    {
        var length = content.Length ?? 30;
        if (length is < 1 or > TextKind.LongestLength)
            refuse("length", string.Create(CultureInfo.InvariantCulture, $"A text is 1 to {TextKind.LongestLength} characters long."));
        return new(Math.Clamp(length, 1, TextKind.LongestLength));
    }

    private static DecimalKind Decimal(FieldContent content, Action<string, string> refuse)
    {
        var (digits, decimals) = (content.Digits ?? 10, content.Decimals ?? 2);
        if (digits is < 1 or > DecimalKind.MostDigits)
            refuse("digits", string.Create(CultureInfo.InvariantCulture, $"A decimal has 1 to {DecimalKind.MostDigits} digits in all."));
        else if (decimals < 0 || decimals > digits)
            refuse("decimals", "After the point there can be no fewer than 0 digits and no more than there are in all.");
        digits = Math.Clamp(digits, 1, DecimalKind.MostDigits);
        return new(digits, Math.Clamp(decimals, 0, digits));
    }

    private static ChoiceKind Choice(FieldContent content, Action<string, string> refuse)
    {
        var choices = content.Choices ?? [];
        if (choices.Count == 0) refuse("choices", "Name at least one choice, one on each line.");
        foreach (var choice in choices)
        {
            if (string.IsNullOrWhiteSpace(choice.Label)) refuse("choices", $"The choice {choice.Code} needs a label.");
            else if (!Codes.IsChoiceCode(choice.Code)) refuse("choices", $"“{choice.Code}” cannot be the code of a choice: it begins with a letter and goes on with letters, digits and underscores, 40 at most.");
        }

        if (Twice(choices.Select(choice => choice.Code)) is { } code) refuse("choices", $"The code {code} stands for two choices.");
        else if (Twice(choices.Select(choice => choice.Label.Trim())) is { } label) refuse("choices", $"“{label}” is there twice.");
        return new(choices);
    }

    private static LinkKind Link(FieldContent content, Action<string, string> refuse)
    {
        if (string.IsNullOrEmpty(content.Target)) refuse("target", "Choose the record type that it points to.");
        return new(content.Target ?? "");
    }

    private static string? Twice(IEnumerable<string> names) =>
        names.GroupBy(name => name, StringComparer.OrdinalIgnoreCase).FirstOrDefault(group => group.Count() > 1)?.Key;
}
