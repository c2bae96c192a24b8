namespace Pelto.Core.Maps;

/// <summary>A node with its place in the drawing.</summary>
/// <param name="Node">The node.</param>
/// <param name="Layer">How many steps it is from the inputs.</param>
/// <param name="X">Its left edge.</param>
/// <param name="Y">Its upper edge.</param>
public sealed record PlacedNode(MapNode Node, int Layer, double X, double Y);

/// <summary>An edge with the points that it goes through, from the right edge of one node to the left edge of another.</summary>
/// <param name="Edge">The edge.</param>
/// <param name="Points">At least two.</param>
/// <param name="GoesBack">True for an edge that closes a circle.</param>
public sealed record PlacedEdge(MapEdge Edge, IReadOnlyList<(double X, double Y)> Points, bool GoesBack);

/// <summary>A drawing of the map in layers, from inputs at the left to results at the right.</summary>
/// <remarks>
/// In four steps, after K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of hierarchical system structures" (IEEE
/// Transactions on Systems, Man, and Cybernetics, 1981; cited from memory):
/// edges that close circles are set aside, each node stands one layer after the last that leads to it, nodes of a layer are put in order by
/// the middle of their neighbours, and long edges get a lane in each layer that they pass.
/// </remarks>
public sealed class MapLayout
{
    /// <summary>The width of a node.</summary>
    public const double NodeWidth = 188;

    /// <summary>The height of a node.</summary>
    public const double NodeHeight = 40;

    private const double Gap = 10;
    private const double Lane = 12;
    private const double Between = 72;
    private const double Margin = 8;
    private const int Sweeps = 8;

    private readonly FillMap map;
    private readonly List<(MapEdge Edge, bool GoesBack)> edges = [];
    private readonly Dictionary<string, int> layer = new(StringComparer.Ordinal);
    private readonly List<List<string>> order = [];
    private readonly Dictionary<(string From, string To), List<string>> chains = [];
    private readonly Dictionary<string, double> tops = new(StringComparer.Ordinal);
    private readonly HashSet<string> real;

    private MapLayout(FillMap map) => (this.map, real) = (map, map.Nodes.Select(node => node.Id).ToHashSet(StringComparer.Ordinal));

    /// <summary>The nodes.</summary>
    public IReadOnlyList<PlacedNode> Nodes { get; private set; } = [];

    /// <summary>The edges.</summary>
    public IReadOnlyList<PlacedEdge> Edges { get; private set; } = [];

    /// <summary>The width of the whole.</summary>
    public double Width { get; private set; }

    /// <summary>The height of the whole.</summary>
    public double Height { get; private set; }

    /// <summary>Lays a map out; the same map always gives the same drawing.</summary>
    public static MapLayout For(FillMap map)
    {
        var layout = new MapLayout(map);
        layout.SetCirclesAside();
        layout.Layer();
        layout.MakeLanes();
        layout.Order();
        layout.Place();
        return layout;
    }

    // Depth first: an edge to a node that is still being gone through closes a circle.
    private void SetCirclesAside()
    {
        var next = map.Edges.ToLookup(edge => edge.From, StringComparer.Ordinal);
        var state = new Dictionary<string, bool>(StringComparer.Ordinal);
        foreach (var node in map.Nodes)
            Visit(node.Id);

        void Visit(string id)
        {
            if (!state.TryAdd(id, false))
                return;
            foreach (var edge in next[id])
            {
                var goesBack = edge.To == id || (state.TryGetValue(edge.To, out var isDone) && !isDone);
                edges.Add((edge, goesBack));
                if (!goesBack)
                    Visit(edge.To);
            }

            state[id] = true;
        }
    }

    // Each node one layer after the last that leads to it; then inputs move as far right as what they lead to lets them, so that edges are
    // short.
    private void Layer()
    {
        var leading = edges.Where(edge => !edge.GoesBack).ToLookup(edge => edge.Edge.To, edge => edge.Edge.From, StringComparer.Ordinal);
        var following = edges.Where(edge => !edge.GoesBack).ToLookup(edge => edge.Edge.From, edge => edge.Edge.To, StringComparer.Ordinal);
        foreach (var node in map.Nodes)
            Depth(node.Id);
        foreach (var node in map.Nodes.Where(node => !leading[node.Id].Any() && following[node.Id].Any()))
            layer[node.Id] = following[node.Id].Min(to => layer[to]) - 1;

        int Depth(string id)
        {
            if (layer.TryGetValue(id, out var known))
                return known;
            layer[id] = 0;
            return layer[id] = leading[id].Select(from => Depth(from) + 1).DefaultIfEmpty(0).Max();
        }
    }

    private void MakeLanes()
    {
        for (var at = 0; at <= layer.Values.DefaultIfEmpty(0).Max(); at++)
            order.Add([]);
        foreach (var node in map.Nodes)
            order[layer[node.Id]].Add(node.Id);
        foreach (var (edge, goesBack) in edges)
        {
            var chain = new List<string> { edge.From };
            for (var at = layer[edge.From] + 1; !goesBack && at < layer[edge.To]; at++)
            {
                var lane = $"{edge.From}>{edge.To}@{at}";
                order[at].Add(lane);
                chain.Add(lane);
            }

            chain.Add(edge.To);
            chains[(edge.From, edge.To)] = chain;
        }
    }

    private void Order()
    {
        var (left, right) = (
            new Dictionary<string, List<string>>(StringComparer.Ordinal),
            new Dictionary<string, List<string>>(StringComparer.Ordinal)
        );
        foreach (var (edge, goesBack) in edges.Where(edge => !edge.GoesBack))
        {
            foreach (var (from, to) in chains[(edge.From, edge.To)].Zip(chains[(edge.From, edge.To)].Skip(1)))
            {
                (left.TryGetValue(to, out var before) ? before : left[to] = []).Add(from);
                (right.TryGetValue(from, out var after) ? after : right[from] = []).Add(to);
            }
        }

        for (var sweep = 0; sweep < Sweeps; sweep++)
        {
            var fromLeft = sweep % 2 == 0;
            foreach (
                var at in fromLeft
                    ? Enumerable.Range(1, Math.Max(0, order.Count - 1))
                    : Enumerable.Range(0, Math.Max(0, order.Count - 1)).Reverse()
            )
            {
                var (neighbours, beside) = (fromLeft ? left : right, order[at + (fromLeft ? -1 : 1)]);
                var position = beside
                    .Select((id, index) => (id, index))
                    .ToDictionary(pair => pair.id, pair => (double)pair.index / Math.Max(1, beside.Count), StringComparer.Ordinal);
                order[at] =
                [
                    .. order[at]
                        .Select(
                            (id, index) =>
                                (
                                    id,
                                    index,
                                    middle: neighbours.TryGetValue(id, out var some)
                                        ? some.Average(other => position[other])
                                        : (double)index / Math.Max(1, order[at].Count)
                                )
                        )
                        .OrderBy(one => one.middle)
                        .ThenBy(one => one.index)
                        .Select(one => one.id),
                ];
            }
        }
    }

    private void Place()
    {
        var heights = order.Select(ids => ids.Sum(id => real.Contains(id) ? NodeHeight + Gap : Lane)).ToList();
        Height = heights.DefaultIfEmpty(0).Max() + (2 * Margin);
        Width = (order.Count * NodeWidth) + (Math.Max(0, order.Count - 1) * Between) + (2 * Margin);
        foreach (var (ids, height) in order.Zip(heights))
        {
            var y = Margin + ((Height - (2 * Margin) - height) / 2);
            foreach (var id in ids)
            {
                tops[id] = y;
                y += real.Contains(id) ? NodeHeight + Gap : Lane;
            }
        }

        Nodes = [.. map.Nodes.Select(node => new PlacedNode(node, layer[node.Id], X(layer[node.Id]), tops[node.Id]))];
        Edges = [.. edges.Select(edge => new PlacedEdge(edge.Edge, [.. PointsOf(edge.Edge, edge.GoesBack)], edge.GoesBack))];
    }

    private IEnumerable<(double X, double Y)> PointsOf(MapEdge edge, bool goesBack)
    {
        var chain = chains[(edge.From, edge.To)];
        yield return (X(layer[edge.From]) + NodeWidth, tops[edge.From] + (NodeHeight / 2));
        var at = layer[edge.From];
        foreach (var lane in chain.Skip(1).SkipLast(1))
        {
            at++;
            yield return (X(at), tops[lane] + (Lane / 2));
            yield return (X(at) + NodeWidth, tops[lane] + (Lane / 2));
        }

        yield return (X(layer[edge.To]), tops[edge.To] + (NodeHeight / 2) + (goesBack ? 8 : 0));
    }

    private static double X(int layer) => Margin + (layer * (NodeWidth + Between));
}
