using Pelto.Core.Catalog;
using Pelto.Core.Releases;

namespace Pelto.Core.Layouts;

/// <summary>Folds layers into a base screen. Pure: the same input gives the same screen.</summary>
public static class LayoutResolver
{
    /// <summary>Resolves the screen of a record type. An added field that no layer places stands at the end of its part, so that nothing defined is lost from sight.</summary>
    public static Resolved Resolve(RecordType type, IReadOnlyList<Layer> layers)
    {
        var screen = new Screen(type);
        foreach (var field in type.Parts.SelectMany(part => part.AddedFields)) screen.PutAtEnd(field);
        foreach (var layer in layers)
            foreach (var operation in layer.Operations) screen.Carry(operation, layer);
        return screen.Result();
    }

    /// <summary>The screen while it changes.</summary>
    private sealed class Screen
    {
        private readonly RecordType type;
        private readonly List<Standing> sections = [];
        private readonly HashSet<Field> hidden = [];
        private readonly Dictionary<string, string> trace = new(StringComparer.Ordinal);
        private readonly List<Problem> clashes = [];

        public Screen(RecordType type)
        {
            this.type = type;
            foreach (var (page, section) in type.Description.Screen.Pages.SelectMany(page => page.Sections.Select(section => (page, section))))
            {
                var lines = section.Lines is null ? null : type.FindPart(section.Lines);
                var part = lines ?? type.Header;
                sections.Add(new(page.Id, section.Id, section.Label, lines, [.. section.Places
                    .Where(place => part.Find(place.Field) is not null)
                    .Select(place => new LayoutPlace(part.Find(place.Field)!, place.Width))]));
            }
        }

        public void PutAtEnd(Field field) => SectionsOf(field.Part).FirstOrDefault()?.Places.Add(new(field, field.Kind.Width));

        public void Carry(LayerOperation operation, Layer layer)
        {
            if (type.PointedBy.FirstOrDefault(link => LayoutSection.IdOf(link) == operation.Part) is { } list)
            {
                CarryList(list, operation, layer);
                return;
            }

            if (!type.TryFindField(operation.Part, out var field)) return;
            switch (operation.Op)
            {
                case LayerOperation.Put:
                    Put(field, operation, layer);
                    break;
                case LayerOperation.Hide:
                    Hide(field, layer);
                    break;
                default:
                    Clash(field, $"There is no placement “{operation.Op}”; there are {LayerOperation.Put} and {LayerOperation.Hide}.");
                    break;
            }
        }

        public Resolved Result()
        {
            var pages = type.Description.Screen.Pages.Select(page => new LayoutPage(page.Id, page.Label,
                [.. sections.Where(section => section.Page == page.Id).Select(s => new LayoutSection(s.Id, s.Label, s.Lines, s.Places, s.Pointing))])).ToList();
            return new(new(pages) { HiddenLists = hidden }, trace, clashes);
        }

        // After the section that it is anchored to, and after lists that were put there before.
        private void CarryList(Field link, LayerOperation operation, Layer layer)
        {
            var id = LayoutSection.IdOf(link);
            var label = $"{link.Part.RecordType.Plural} by {link.Label}";
            sections.RemoveAll(section => section.Id == id);
            hidden.Remove(link);
            if (operation.Op == LayerOperation.Hide)
            {
                hidden.Add(link);
                trace[id] = $"{layer.Label} took the list {label} off the screen.";
                return;
            }

            var at = sections.FindIndex(section => section.Id == operation.After);
            if (at < 0)
            {
                clashes.Add(new(id, "place", $"The list {label} was to stand after {operation.After}, which is not on this screen."));
                return;
            }

            var anchor = sections[at];
            while (at + 1 < sections.Count && sections[at + 1] is { Pointing: not null } next && next.Page == anchor.Page) at++;
            sections.Insert(at + 1, new(anchor.Page, id, label, null, []) { Pointing = link });
            trace[id] = $"{layer.Label} put the list {label} after {anchor.Label}.";
        }

        private IEnumerable<Standing> SectionsOf(Part part) => sections.Where(section => section.Pointing is null && section.Lines == (part.IsLines ? part : null));

        private void Put(Field field, LayerOperation operation, Layer layer)
        {
            var width = Math.Clamp(operation.Width ?? field.Kind.Width, 1, 12);
            foreach (var section in SectionsOf(field.Part))
            {
                var places = section.Places;
                var anchor = places.FindIndex(place => place.Field.Id == operation.After && place.Field != field);
                if (anchor < 0 && section.Id != operation.After) continue;
                var after = anchor < 0 ? null : places[anchor].Field;
                Remove(field);
                places.Insert(after is null ? 0 : places.FindIndex(place => place.Field == after) + 1, new(field, width));
                trace[field.Id] = $"{layer.Label} put it {(after is null ? $"first in {section.Label}" : $"after {after.Label}")}.";
                return;
            }

            // The anchor may be hidden or gone: the field stays in sight, where it would stand without this operation.
            if (Place(field) is null) PutAtEnd(field);
            if (operation.After is { } gone && !IsKnown(gone))
                Clash(field, $"{field.Label} was to stand after {gone}, which is not on this screen.");
        }

        private bool IsKnown(string id) => type.TryFindField(id, out _);

        private void Hide(Field field, Layer layer)
        {
            if (!field.IsAdded && field.Required && field.IsTyped && field.Content.StartingValue is null)
            {
                Clash(field, $"{field.Label} cannot be hidden: it is required, is not filled by itself and has no starting value.");
                return;
            }

            Remove(field);
            trace[field.Id] = $"{layer.Label} took it off the screen.";
        }

        private LayoutPlace? Place(Field field) => sections.SelectMany(section => section.Places).FirstOrDefault(place => place.Field == field);

        private void Remove(Field field)
        {
            foreach (var section in sections) section.Places.RemoveAll(place => place.Field == field);
        }

        private void Clash(Field field, string sentence) => clashes.Add(new(field.Id, "place", sentence));
    }
    /// <summary>A section while it changes.</summary>
    private sealed record Standing(string Page, string Id, string Label, Part? Lines, List<LayoutPlace> Places)
    {
        public Field? Pointing { get; init; }
    }
}
