using Pelto.Core.Access;
using Pelto.Core.Releases;

namespace Pelto.Core.Elements;

/// <summary>Shortcuts: links in the menu.</summary>
public sealed class ShortcutSort : ElementSort<Shortcut>
{
    /// <inheritdoc/>
    public override string Name => "shortcut";

    internal override string OrderTakes => AdminWork.Arrange;

    /// <inheritdoc/>
    public override string PageOf(string id) => "/setup/shortcuts";

    /// <inheritdoc/>
    protected override IReadOnlyList<Shortcut> All(SiteDefinition site) => site.Shortcuts;

    /// <inheritdoc/>
    protected override SiteDefinition With(SiteDefinition site, IReadOnlyList<Shortcut> all) => site with { Shortcuts = all };

    // An address may say what a list is held to: it is shown to those who arrange, and to others in the menu alone.
    /// <inheritdoc/>
    protected override bool IsShown(Shortcut element, SiteDefinition site, SiteViews views) => views.Arranges;

    internal override IEnumerable<AdminAction> Touches(string id, SiteChange change) =>
        [new(AdminWork.Arrange, AdminAction.AnyType, SiteChange.CompaniesOf([.. Both(id, change).Select(shortcut => shortcut.Audience)]))];

    /// <inheritdoc/>
    protected override IEnumerable<PlannedChange> Compare(Shortcut? before, Shortcut? after, SiteComparison of)
    {
        var shortcut = (after ?? before)!;
        var says =
            after is null ? $"Removes the shortcut {shortcut.Label} from the menu."
            : before is null ? $"Puts the shortcut {shortcut.Label} in the menu."
            : before.Label == after.Label ? $"Changes the shortcut {after.Label}."
            : $"The shortcut {before.Label} is called {after.Label}.";
        var whom = Audience.TryParse(shortcut.Audience, out var audience) ? audience.InWords(of.Draft.Host) : shortcut.Audience;
        yield return new(shortcut.Id, of.AnyType, says, after is null ? $"For {whom}." : $"For {whom}: it leads to {shortcut.Address}.");
    }
}
