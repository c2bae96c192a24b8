using Pelto.Core.Access;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;

namespace Pelto.Core.Releases;

/// <summary>What is different for one person about a screen in two releases: what they see, and what is asked of them.</summary>
/// <remarks>Found out from the two screens as that person gets them, so that it tells nothing of what they are not shown.</remarks>
/// <param name="Fields">How many fields came, went, or are something else.</param>
/// <param name="Arrangement">True when what stays stands otherwise.</param>
/// <param name="Rights">True when they may do more or less with such records.</param>
public sealed record ScreenDifference(int Fields, bool Arrangement, bool Rights)
{
    /// <summary>True when there is something to tell.</summary>
    public bool IsAny => Fields > 0 || Arrangement || Rights;

    /// <summary>Compares the screen of a record type.</summary>
    /// <param name="before">The record type in the earlier release.</param>
    /// <param name="now">The same in the later one.</param>
    /// <param name="viewer">The person.</param>
    /// <param name="mode">Whether a record is being added or changed.</param>
    public static ScreenDifference Between(RecordType before, RecordType now, Viewer viewer, RecordMode mode)
    {
        var (old, young) = (new Side(before, viewer, mode), new Side(now, viewer, mode));
        var both = old.Faces.Keys.Intersect(young.Faces.Keys).ToHashSet(StringComparer.Ordinal);
        var same = both.Count(id => old.Faces[id].IsSame(young.Faces[id]));
        var fields = old.Faces.Count + young.Faces.Count - both.Count - same;
        return new(fields, old.Arrangement(both) != young.Arrangement(both), old.Rights() != young.Rights());
    }

    // What somebody sees and feels of a field; and each choice as they may read it there: one that is new has been read by nobody yet.
    private sealed record Face(string Text, IReadOnlyDictionary<string, string> Read)
    {
        public bool IsSame(Face now) => Text == now.Text && Read.All(choice => now.Read.GetValueOrDefault(choice.Key) == choice.Value);
    }

    // The screen as it is in one of the two.
    private sealed class Side(RecordType type, Viewer viewer, RecordMode mode)
    {
        private readonly IReadOnlyList<Layer> layers = type.Screens.LayersOf(viewer);
        private readonly Layout layout = type.Screens.AtMost(viewer, mode).Layout;
        private Dictionary<string, Face>? faces;

        // Of each field that stands there for them, by its id.
        public Dictionary<string, Face> Faces =>
            faces ??= layout
                .Places.Where(place => !place.IsAgain && viewer.LevelAt(place.Field) != AccessLevel.None)
                .ToDictionary(place => place.Field.Id, FaceOf, StringComparer.Ordinal);

        public string Rights() =>
            SiteDefinition.Text(
                new
                {
                    create = viewer.MayCreate(type),
                    change = viewer.MayChange(type),
                    delete = viewer.MayDelete(type),
                    when = Conditions(type.Guarding.On(type)),
                }
            );

        // Pages, sections and what stands in them, fields only where both sides have them.
        public string Arrangement(HashSet<string> fields) =>
            SiteDefinition.Text(
                new
                {
                    pages = layout.Pages.Select(page => new
                    {
                        page.Id,
                        label = page.LabelIn(viewer.Locale),
                        sections = page
                            .Sections.Where(IsVisible)
                            .Select(section => new
                            {
                                section.Id,
                                label = section.LabelIn(viewer.Locale),
                                section.IsFolded,
                                section.Looks,
                                items = section
                                    .Items.Where(item => item is not LayoutPlace place || fields.Contains(place.Field.Id))
                                    .Select(Item),
                            }),
                    }),
                    order = layout.Tabs.Order?.Where(IsStored),
                    skipped = layout.Tabs.Skipped.Where(IsStored).Order(StringComparer.Ordinal),

                    // What conditions can bring or take is seen as soon as they hold.
                    conditional = layers.SelectMany(layer => layer.Operations).Where(IsConditionalHere),
                }
            );

        private object Item(LayoutItem item) =>
            new
            {
                item.Id,
                item.Width,
                item.StartsRow,
                extra = (item as LayoutExtra)?.Made,
                again = item is LayoutPlace { IsAgain: true } again ? again.TextIn(viewer.Locale).Label : null,
            };

        private bool IsVisible(LayoutSection section) => section.Pointing is null || viewer.LevelAt(section.Pointing) >= AccessLevel.Read;

        private bool IsConditionalHere(LayerOperation operation) =>
            !string.IsNullOrWhiteSpace(operation.When)
            && !operation.IsOfList
            && type.Screens.Standard.Names.ContainsKey(operation.Part)
            && (
                type.Screens.Standard.Fields.GetValueOrDefault(operation.Part) is not { } field || viewer.LevelAt(field) != AccessLevel.None
            );

        // What becomes of a field that they are not shown tells them that there is one.
        private bool IsStored(string place) => layout.Places.Any(one => one.Id == place && Faces.ContainsKey(one.Field.Id));

        private Face FaceOf(LayoutPlace place)
        {
            var field = place.Field;
            var (label, heading, help) = place.TextIn(viewer.Locale);
            var level = viewer.LevelAt(field);
            var access = viewer.AccessAt(type).For(field);
            var isTyped = level == AccessLevel.Write && field.IsTyped && !place.IsLocked;
            var target = field.Target ?? field.Source.Target;
            var text = SiteDefinition.Text(
                new
                {
                    label,
                    heading = field.Part.IsLines ? heading : "",
                    help,
                    of = field.IsThroughLink ? field.Path[^2].TextIn(viewer.Locale).Label : "",
                    level,
                    access.OnFile,
                    access.Sure,
                    conditions = access.IsConditional
                        ? Conditions(type.Guarding.On(field)).Append(access.Itself.Seen.Key).Append(access.Itself.Read.Key)
                        : [],
                    ending = level == AccessLevel.Masked && type.Guarding.GuardOf(field.Source)?.Ending == true,
                    place.IsLocked,
                    place.IsRequired,
                    kind = field.Source.Kind.Name,
                    field.Source.Content.Decimals,
                    field.Content.ShownWhen,
                    offered = isTyped && field.Kind.IsChoice ? Offered(field.Kind) : [],
                    mayAdd = isTyped && field.Kind.Choices?.MayAdd == true,
                    target = target is not null && isTyped ? $"{target.Label} {target.Plural} {viewer.MayCreate(target)}" : "",
                    readsTarget = target is null || viewer.MayRead(target),
                    asked = isTyped || field.IsFilled ? FillOf(field) : "",
                    rules = isTyped ? Rules(field.Content) : field.Content.Formula ?? "",
                }
            );
            return new(text, field.Source.Kind.IsChoice ? Readable(field.Source.Kind, isTyped) : []);
        }

        private Dictionary<string, string> Readable(FieldKind kind, bool isTyped) =>
            kind.Choices!.All.ToDictionary(
                choice => choice.Code,
                choice => $"{choice.LabelIn(viewer.Locale)} {(isTyped && IsPlain(kind) ? "" : choice.Colour)}",
                StringComparer.Ordinal
            );

        private IEnumerable<object> Offered(FieldKind kind) =>
            kind.Choices!.Offered(viewer.Locale)
                .Select(choice => new
                {
                    choice.Code,
                    label = choice.LabelIn(viewer.Locale),
                    colour = IsPlain(kind) ? null : choice.Colour,
                });

        // Drawn by the browser, which shows no colours.
        private static bool IsPlain(FieldKind kind) => kind is { IsOneChoice: true, Choices.IsPlain: true };

        private static string FillOf(Field field) =>
            field.Asking is not { } asking
                ? ""
                : SiteDefinition.Text(asking.Query with { Id = "", Label = "", Built = null, Columns = [], Reads = [] });

        // All that a definition says, without what is drawn from elsewhere or is nobody's business who enters a record.
        private static string Rules(FieldContent content)
        {
            content = content with { Label = "", Heading = null, Help = null, Texts = null, Choices = null, ChoiceList = null };
            content = content with { Indexed = false, NoTotals = false };
            if (content is not FieldDefinition added)
                return SiteDefinition.Text(content as FieldDescription);
            return SiteDefinition.Text(
                added with
                {
                    Id = "",
                    RecordType = "",
                    AlsoOn = [],
                    Live = false,
                    CarriedAlong = false,
                    Printed = false,
                    FillExisting = false,
                    Column = 0,
                    LastColumn = 0,
                    Table = 0,
                    StoredAs = null,
                    DropsEarlier = false,
                    ReadBack = false,
                    HeldFrom = [],
                }
            );
        }

        private IEnumerable<object> Conditions(IReadOnlyList<BoundGrant> grants) =>
            grants
                .Where(grant => grant.When is not null && viewer.AccessAt(type).IsOf(grant))
                .Select(grant => new
                {
                    grant.Grant.Does,
                    grant.Level,
                    grant.Grant.May,
                    grant.When!.Text,
                });
    }
}
