using Pelto.Core.Elements;

namespace Pelto.Web.Components;

/// <summary>Something to go to or to do.</summary>
/// <param name="Group">Under which heading it stands.</param>
/// <param name="Title">What it is.</param>
/// <param name="Detail">What tells it apart.</param>
/// <param name="Address">Where it leads.</param>
public sealed record Found(string Group, string Title, string Detail, string Address);

/// <summary>Finds everything by words: commands, screens, records of all types, and for administrators fields and record types.</summary>
public sealed class FindOrDo(RecordLists lists, CurrentRequest request)
{
    private const int MaxOfEach = 4;
    private const int MaxRecords = 16;

    /// <summary>What fits, what begins so first. With nothing typed, what one can do.</summary>
    public async Task<IReadOnlyList<Found>> FindAsync(string text, CancellationToken cancel)
    {
        var words = text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        var found = new List<Found>();
        if (words.Length > 0)
            found.AddRange(await RecordsAsync(text, cancel));
        found.AddRange(Fitting(Commands(), words));
        found.AddRange(Fitting(Screens(), words));
        if (words.Length > 0 && request.Viewer.May(AdminWork.Define))
            found.AddRange(Fitting(Fields(), words));
        return found;
    }

    private async Task<IEnumerable<Found>> RecordsAsync(string text, CancellationToken cancel)
    {
        var types = request.ReadableTypes().ToList();
        var targets = new List<IReadOnlyList<Target>>();

        // One after another: many people type at once, and each of these takes a few milliseconds.
        foreach (var type in types)
            targets.Add(await lists.PickAsync(type, text, request.Viewer, MaxOfEach, cancel: cancel));

        // Whoever types a whole number wants that record.
        return types
            .Zip(targets, (type, some) => some.Select(target => (type, target)))
            .SelectMany(some => some)
            .OrderByDescending(pair => string.Equals(pair.target.Identifier, text.Trim(), StringComparison.OrdinalIgnoreCase))
            .Take(MaxRecords)
            .Select(pair => new Found(
                "Records",
                pair.target.Name.Length == 0 || pair.target.Name == pair.target.Identifier ? pair.target.Identifier : pair.target.Name,
                pair.target.Name == pair.target.Identifier ? pair.type.Label : $"{pair.type.Label} {pair.target.Identifier}",
                $"/records/{pair.type.Code}/{pair.target.Id}"
            ));
    }

    private IEnumerable<Found> Commands()
    {
        foreach (var type in request.ReadableTypes().Where(request.Viewer.MayCreate))
            yield return new("Do", $"New {type.Label.ToLowerInvariant()}", "", $"/records/{type.Code}/new");
        foreach (var type in request.ReadableTypes().Where(type => request.Viewer.MayAt(AdminWork.Define, type.Code)))
            yield return new("Do", $"New field of {type.Plural.ToLowerInvariant()}", "", $"/setup/fields/new?type={type.Code}");
        foreach (
            var (work, title, address) in new[]
            {
                (AdminWork.Define, "New record type", "types/new"),
                (AdminWork.Define, "New choice list", "lists/new"),
                (AdminWork.Query, "New query", "queries/new"),
                (AdminWork.People, "New person", "people/new"),
                (AdminWork.Publish, "Review and publish the draft", "draft"),
            }
        )
            if (request.Viewer.May(work))
                yield return new("Do", title, "", $"/setup/{address}");
    }

    private IEnumerable<Found> Screens()
    {
        foreach (var type in request.ReadableTypes())
            yield return new("Go to", type.Plural, type.Description.Area, $"/records/{type.Code}");
        foreach (var type in request.ReadableTypes().Where(type => type.PublicForm is not null && request.Viewer.MayCreate(type)))
            yield return new("Go to", $"{type.Plural}, sent in from outside", type.Description.Area, $"/records/{type.Code}/entries");
        foreach (var shortcut in request.Shortcuts())
            yield return new("Go to", shortcut.Label, shortcut.IsOutside ? "leads away from Pelto" : "shortcut", shortcut.Address);
        yield return new("Go to", "Your settings", "", "/account/settings");
        yield return new("Go to", "Signing in", "Your settings", "/account/security");
        foreach (var (title, address, _) in SetUpPages.For(request.Viewer))
            yield return new("Go to", title, "Set-up", address);
    }

    private IEnumerable<Found> Fields()
    {
        foreach (
            var field in request
                .Catalogue.RecordTypes.SelectMany(type => type.Parts)
                .SelectMany(part => part.AddedFields)
                .Where(request.Views.SeesDefinition)
                .DistinctBy(field => field.Definition!.Id)
        )
            yield return new(
                "Fields",
                field.Label,
                $"{(field.Part.IsLines ? field.Part.Label : field.Part.RecordType.Label)}, {field.Code}",
                ElementSorts.Fields.PageOf(field.Definition!.Id)
            );
        foreach (var query in request.Catalogue.Site.Queries.Where(query => request.Views.Sees(query, request.Catalogue.Site)))
            yield return new("Fields", query.Label, ElementSorts.Queries.Name, ElementSorts.Queries.PageOf(query.Id));
        foreach (var type in request.Catalogue.Site.RecordTypes.Where(type => request.Views.SeesType(type.Code)))
            yield return new("Fields", type.Label, ElementSorts.RecordTypes.Name, ElementSorts.RecordTypes.PageOf(type.Id));
        foreach (var type in request.Catalogue.RecordTypes.Where(type => type.PublicForm is not null && request.Views.WorksAt(type.Code)))
            yield return new("Fields", type.PublicForm!.Definition.Title, "public form", $"/setup/types/{type.Definition!.Id}/form");
    }

    private static IEnumerable<Found> Fitting(IEnumerable<Found> all, string[] words) =>
        all.Select(one => (one, rank: words.Length == 0 ? 0 : words.Max(word => LookUps.Rank($"{one.Title} {one.Detail}", word))))
            .Where(pair => pair.rank < 3)
            .OrderBy(pair => pair.rank)
            .Select(pair => pair.one)
            .Take(words.Length == 0 ? 2 * MaxOfEach : MaxOfEach + 2);
}
