namespace Pelto.Core.Layouts;

/// <summary>How wide a place has to be for what stands in it.</summary>
public static class Widths
{
    // Pixels, as the style sheets have them on a page of 1280: twelve columns and the gaps between them, what an input has left and right
    // of its text, an arrow, and a letter of the application's font at 14 px, on average (6.33, measured in Chromium on names of the sample
    // company).
    private const double Column = 75.2;
    private const double Gap = 14;
    private const double Around = 20;
    private const double Arrow = 20;
    private const double Letter = 6.4;

    /// <summary>Columns of twelve that a text of so many letters needs.</summary>
    /// <param name="letters">How many letters.</param>
    /// <param name="hasArrow">True for an input with an arrow at its right, such as a choice or a link.</param>
    public static int Needed(int letters, bool hasArrow) =>
        Math.Clamp((int)Math.Ceiling(((letters * Letter) + Around + (hasArrow ? Arrow : 0) + Gap) / (Column + Gap)), 1, 12);

    /// <summary>
    /// The letters of the widest value that a kind can hold, where that follows from the kind; null where values on file have to be looked
    /// at.
    /// </summary>
    public static int? LettersOf(Field field) =>
        field.Kind.Letters ?? (field.Kind.IsFigure && field.Content.Digits is { } digits ? digits + (digits / 3) + 1 : null);
}
