namespace Pelto.Core.Binding;

/// <summary>What a field is called, in each language, and its code.</summary>
internal static class FieldTexts
{
    /// <summary>Checks them.</summary>
    /// <param name="definition">The field.</param>
    /// <param name="refuse">Takes what is wrong: the property, and a sentence.</param>
    public static void Check(FieldDefinition definition, Action<string, string> refuse)
    {
        if (string.IsNullOrWhiteSpace(definition.Label))
            refuse("label", "Give it a label, as people will read it.");
        else if (definition.Label.Length > 80)
            refuse("label", "A label has at most 80 characters.");
        foreach (var (property, text) in new[] { ("label", definition.Label), ("heading", definition.Heading), ("help", definition.Help) })
            if (text?.Any(char.IsControl) == true)
                refuse(property, "A line break or another control character cannot stand here.");
        if (definition.Heading?.Length > 40)
            refuse("heading", "A column heading has at most 40 characters.");
        if (definition.Help?.Length > 500)
            refuse("help", "A help text has at most 500 characters.");

        foreach (var (language, text) in definition.Texts ?? new Dictionary<string, LocalText>())
        {
            if (language.Length != 2 || !language.All(char.IsAsciiLetterLower))
                refuse("texts", $"“{language}” is not a two-letter language code (ISO 639-1), such as fi.");
            if (text.Label?.Length > 80 || text.Heading?.Length > 40 || text.Help?.Length > 500)
                refuse("texts", $"A text in {language} is too long: labels have 80 characters at most, headings 40, help texts 500.");
        }

        if (definition.Code.Length == 0)
            refuse("code", "Give it a code.");
        else if (!Codes.IsCode(definition.Code))
            refuse("code", $"“{definition.Code}” cannot be a code: {Codes.Rule}");
        else if (Codes.IsReserved(definition.Code))
            refuse("code", $"Every table has a column {definition.Code} of its own; choose another code.");
    }
}
