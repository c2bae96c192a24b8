namespace Pelto.Web.Pages;

/// <summary>What a change of one place moved, so that a place that was taken is answered at once.</summary>
/// <param name="Sentence">What moved where, with a blank before it; empty when nothing did.</param>
/// <param name="Offer">Another place for it: after which part it would move nothing.</param>
public sealed record Moves(string Sentence, (string Part, string After, string Label)? Offer)
{
    /// <summary>Compares what stands where.</summary>
    /// <param name="before">What was in sight before.</param>
    /// <param name="after">What is in sight now.</param>
    /// <param name="operation">What was done, to which part.</param>
    /// <param name="nameOf">What a part is called.</param>
    public static Moves For(Layout before, Layout after, LayerOperation operation, Func<string, string> nameOf)
    {
        var moved = GridFlow.Moved(before, after, operation.Part);
        if (moved.Count == 0)
            return new("", null);
        var (item, was, now) = moved[0];
        var more = moved.Count > 1 ? $", and {moved.Count - 1} more with it" : "";
        return new($" {nameOf(item.Id)} moves {Whither(was, now)}{more}.", OfferOf(after, operation, nameOf));
    }

    private static (string Part, string After, string Label)? OfferOf(Layout after, LayerOperation operation, Func<string, string> nameOf)
    {
        if (operation.Op is LayerOperation.Resize or LayerOperation.Row)
            return null;
        if (after.Sections.FirstOrDefault(section => section.Items.Any(one => one.Id == operation.Part)) is not { } section)
            return null;
        var width = section.Items.First(one => one.Id == operation.Part).Width;
        return GridFlow.Gap(section, width, operation.Part) is { } gap && gap.Id != operation.After
            ? (operation.Part, gap.Id, nameOf(gap.Id))
            : null;
    }

    private static string Whither(GridCell was, GridCell now) =>
        now.Row > was.Row ? "to the next row"
        : now.Row < was.Row ? "one row up"
        : now.Column > was.Column ? $"{now.Column - was.Column} to the right"
        : $"{was.Column - now.Column} to the left";
}
