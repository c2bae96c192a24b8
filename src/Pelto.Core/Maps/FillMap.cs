using Pelto.Core.Access;
using Pelto.Core.Formulas;
using Pelto.Core.Layouts;
using Pelto.Core.Queries;

namespace Pelto.Core.Maps;

/// <summary>What a node of the map stands for.</summary>
public enum MapKind
{
    /// <summary>A field that people fill, or the ERP does.</summary>
    Input,

    /// <summary>A field that something fills.</summary>
    Filled,

    /// <summary>A saved query.</summary>
    Query,

    /// <summary>The screen of a record type.</summary>
    Screen,
}

/// <summary>A node of the map.</summary>
/// <param name="Id">The lasting id of the field or query; for a screen, the code of its record type behind <c>screen:</c>.</param>
/// <param name="Kind">What it stands for.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Where">The part, or how it is filled.</param>
/// <param name="RecordType">The code of its record type; null for queries.</param>
/// <param name="Problem">What is wrong with it, as a sentence.</param>
public sealed record MapNode(string Id, MapKind Kind, string Label, string Where, string? RecordType, string? Problem = null);

/// <summary>An edge: what goes from one node to another, and how.</summary>
public sealed record MapEdge(string From, string To, string How);

/// <summary>What fills what: fields, queries and screens, and the ways between them.</summary>
/// <param name="Nodes">In the order of record types and their fields.</param>
/// <param name="Edges">Each pair once.</param>
public sealed record FillMap(IReadOnlyList<MapNode> Nodes, IReadOnlyList<MapEdge> Edges)
{
    /// <summary>Draws the map of a catalogue.</summary>
    /// <param name="catalogue">The catalogue, of a draft too.</param>
    /// <param name="notes">
    /// What is known to be wrong beyond what the definitions say, by lasting id, such as values that have grown old.
    /// </param>
    public static FillMap For(Catalogue catalogue, IReadOnlyDictionary<string, string>? notes = null)
    {
        var problems = catalogue
            .Problems.Where(problem => problem.Element.Length > 0)
            .GroupBy(problem => problem.Element)
            .ToDictionary(group => group.Key, group => group.First().Sentence);
        string? Problem(string id, string element) => problems.GetValueOrDefault(element) ?? notes?.GetValueOrDefault(id);
        var (nodes, edges) = (new Dictionary<string, MapNode>(StringComparer.Ordinal), new Dictionary<(string, string), string>());
        MapNode Add(Field field) =>
            nodes.TryGetValue(field.Id, out var known)
                ? known
                : nodes[field.Id] = NodeOf(field, Problem(field.Id, field.Definition?.Id ?? field.Id) ?? Missing(field));
        foreach (
            var field in catalogue
                .RecordTypes.SelectMany(type => type.Parts)
                .SelectMany(part => part.Fields)
                .Where(field => field.IsFilled || field.IsThroughLink || field.Asking is not null)
        )
        {
            var node = Add(field);
            foreach (var (from, how) in Sources(field))
                edges.TryAdd((Add(from).Id, node.Id), how);
            if (field.Asking is not { } asking)
                continue;
            var query = asking.Query;
            if (nodes.TryAdd(query.Id, new(query.Id, MapKind.Query, query.Label, "query", null, Problem(query.Id, query.Id))))
                foreach (var read in asking.Reads)
                    edges.TryAdd((Add(read).Id, query.Id), "read by");
            edges.TryAdd((query.Id, node.Id), asking.When == QueryWhen.Offer ? "offers" : "answers");
            foreach (var input in asking.Arguments.SelectMany(argument => argument.Reads.Concat(argument.RelatedFields)))
            {
                if (edges.Remove((input.Id, node.Id)))
                    edges.TryAdd((Add(input).Id, query.Id), "asked with");
            }
        }

        foreach (var type in catalogue.RecordTypes)
        {
            var shown = type
                .Screens.Anywhere.Where(field => nodes.TryGetValue(field.Id, out var node) && node.Kind == MapKind.Filled)
                .ToList();
            if (shown.Count == 0)
                continue;
            var screen = new MapNode("screen:" + type.Code, MapKind.Screen, type.Label, "screen", type.Code);
            nodes[screen.Id] = screen;
            foreach (
                var field in shown.Where(field =>
                    !edges.Keys.Any(edge => edge.Item1 == field.Id && nodes[edge.Item2].RecordType == type.Code)
                )
            )
                edges.TryAdd((field.Id, screen.Id), "shown on");
        }

        return new([.. nodes.Values], [.. edges.Select(edge => new MapEdge(edge.Key.Item1, edge.Key.Item2, edge.Value))]);
    }

    /// <summary>The part of the map that holds these nodes alone.</summary>
    public FillMap Only(Func<MapNode, bool> isShown)
    {
        var shown = Nodes.Where(isShown).ToList();
        var ids = shown.Select(node => node.Id).ToHashSet(StringComparer.Ordinal);
        return new(shown, [.. Edges.Where(edge => ids.Contains(edge.From) && ids.Contains(edge.To))]);
    }

    /// <summary>The part of the map that has to do with a record type: its nodes, and all that lead to them or from them.</summary>
    public FillMap About(string recordType) =>
        Only(
            Nodes
                .Where(node => node.RecordType == recordType)
                .SelectMany(node =>
                    Edges
                        .Where(edge => edge.From == node.Id || edge.To == node.Id)
                        .SelectMany(edge => new[] { edge.From, edge.To })
                        .Append(node.Id)
                )
        );

    /// <summary>The part of the map that leads to a node and from it, however far.</summary>
    public FillMap Following(string id) =>
        Only(Connected(id, edge => edge.To, edge => edge.From).Concat(Connected(id, edge => edge.From, edge => edge.To)));

    private FillMap Only(IEnumerable<string> ids)
    {
        var stored = ids.ToHashSet(StringComparer.Ordinal);
        return new(
            [.. Nodes.Where(node => stored.Contains(node.Id))],
            [.. Edges.Where(edge => stored.Contains(edge.From) && stored.Contains(edge.To))]
        );
    }

    private HashSet<string> Connected(string id, Func<MapEdge, string> here, Func<MapEdge, string> there)
    {
        var reached = new HashSet<string>(StringComparer.Ordinal) { id };
        var next = Edges.ToLookup(here, there, StringComparer.Ordinal);
        var open = new Stack<string>([id]);
        while (open.TryPop(out var at))
            foreach (var other in next[at].Where(reached.Add))
                open.Push(other);
        return reached;
    }

    private static IEnumerable<(Field From, string How)> Sources(Field field)
    {
        if (field.IsThroughLink)
        {
            yield return (field.Source, $"seen through {field.Path[0].Label}");
            yield break;
        }

        foreach (var carried in field.CarriedFrom)
            yield return (carried.From, $"carried along from {carried.Follow.Source.Label.ToLowerInvariant()}");
        var how = field.Mode == FillMode.Chosen && field.Asking is null ? "carried over" : "formula";
        foreach (var formula in field.Formulas)
        {
            foreach (var reached in formula.RelatedFields)
                yield return (reached, field.Mode == FillMode.Chosen ? "carried over" : "read through a link");
            foreach (var read in formula.Reads)
                yield return (
                    read,
                    read.Part.IsLines && !field.Part.IsLines ? $"over {read.Part.Plural.ToLowerInvariant()}"
                    : read.Target is not null && formula.RelatedFields.Count > 0 ? "leads there"
                    : how
                );
        }
    }

    // What something is filled from and nobody can fill.
    private static string? Missing(Field field) =>
        field is { IsTyped: true, IsFilled: false, Content.DefaultValue: null }
        && !field.Part.RecordType.Description.Maintained
        && !field.Part.RecordType.Screens.Anywhere.Contains(field)
            ? $"It is on no screen of {field.Part.RecordType.Plural.ToLowerInvariant()}: "
                + "nobody can fill it, and other fields are filled from it."
            : null;

    // What keeps it from people, as far as the chain brings it here.
    private static string? Guarded(Field field) =>
        field.Part.RecordType.Guarding is var guarding && guarding.GuardOf(field) is not null ? "guarded"
        : guarding.On(field).Any(grant => grant.Grant.Does == Grant.Open) ? "opened"
        : guarding.Restrains(field) ? "guarded with it"
        : null;

    private static MapNode NodeOf(Field field, string? problem)
    {
        var part = field.Part.IsLines
            ? $"{field.Part.RecordType.Label}, {field.Part.Plural.ToLowerInvariant()}"
            : field.Part.RecordType.Label;
        var filled =
            field.IsThroughLink ? "seen"
            : field.Asking is not null ? "query"
            : field.Formula is null && field.CarriedFrom.Count == 0 ? null
            : field.IsLive ? "live"
            : field.Mode switch
            {
                FillMode.Chosen => "carried over",
                FillMode.Untouched => "until typed over",
                _ => "kept",
            };
        return new(
            field.Id,
            field.IsFilled || field.IsThroughLink ? MapKind.Filled : MapKind.Input,
            field.Label,
            string.Join(" · ", new[] { part, filled, Guarded(field) }.OfType<string>()),
            field.Part.RecordType.Code,
            problem
        );
    }
}
