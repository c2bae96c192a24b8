using Pelto.Core.Formulas;

namespace Pelto.Web.Components;

/// <summary>Names that can stand where somebody is typing in a formula, as the page's script reads them.</summary>
internal static class NamesFound
{
    /// <summary>None: what is asked about is not chosen yet.</summary>
    public static JsonResult None { get; } = Answer((0, []));

    /// <summary>What was found, and from where on it takes the place of what stands there.</summary>
    public static JsonResult Answer((int From, IReadOnlyList<Completion> Found) names) =>
        new(
            new
            {
                from = names.From,
                found = names.Found.Select(one => new
                {
                    text = one.Text,
                    label = one.Label,
                    about = one.About,
                    goesOn = one.GoesOn,
                }),
            }
        );
}
