using Screeline.Core.Access.Learning;

namespace Screeline.Core.Access;

/// <summary>A map as a drawing: a lane for each position, deeper things further down, nothing on top of anything else.</summary>
/// <param name="Lanes">Positions that have operations, left to right.</param>
/// <param name="Nodes">Operations with their place.</param>
/// <param name="Edges">Who needs whom.</param>
/// <param name="Rows">How many rows there are.</param>
public sealed record MapLayout(IReadOnlyList<Position> Lanes, IReadOnlyList<MapNode> Nodes, IReadOnlyList<MapEdge> Edges, int Rows)
{
    /// <summary>Lays out a map.</summary>
    public static MapLayout ForMap(AccessMap map)
    {
        // Stored full, shown reduced.
        map = ShownNeeds.Reduced(map);
        var sure = ShownNeeds.Sure(map);
        var depth = Depths(map);
        List<Position> lanes = [.. map.Positions.Where(p => map.Operations.Any(o => o.Position == p.Id))];
        var lane = lanes.Select((p, i) => (p.Id, i)).ToDictionary(x => x.Id, x => x.i, StringComparer.Ordinal);
        var (nodes, row) = (new List<MapNode>(), 0);
        // A layer is as high as its fullest lane; within a lane the map's order, so that the drawing stays put while it is edited.
        foreach (var layer in map.Operations.GroupBy(o => depth[o.Id]).OrderBy(g => g.Key))
        {
            var lanesHere = layer.GroupBy(o => lane[o.Position]).ToList();
            foreach (var group in lanesHere)
            {
                nodes.AddRange(group.Select((o, i) => new MapNode(o.Id, group.Key, row + i)));
            }

            row += lanesHere.Max(g => g.Count());
        }

        List<MapEdge> edges = [.. map.Operations.SelectMany(EdgesOf).Where(e => depth.ContainsKey(e.From)).Select(e => e with { Sure = sure is null || sure.Contains((e.From, e.To)) })];
        return new MapLayout(lanes, nodes, Plain(edges, depth), row);
    }

    // What follows from other needs is not drawn: where c needs b and b needs a, c's need of a adds nothing to the picture.
    private static List<MapEdge> Plain(List<MapEdge> edges, Dictionary<string, int> depth)
    {
        var sure = edges.Where(e => !e.Either).ToLookup(e => e.To, e => e.From, StringComparer.Ordinal);
        bool Leads(string from, string to, MapEdge without)
        {
            var (seen, open) = (new HashSet<string>(StringComparer.Ordinal) { to }, new Stack<string>([to]));
            while (open.TryPop(out var at))
            {
                foreach (var needed in sure[at].Where(n => (n, at) != (without.From, without.To) && depth[n] < depth[at] && seen.Add(n)))
                {
                    open.Push(needed);
                }
            }

            return seen.Contains(from);
        }

        return [.. edges.Where(e => e.Either || !Leads(e.From, e.To, e))];
    }

    // The longest way from outside, through any of the needs; loops of needs do not deepen anything.
    private static Dictionary<string, int> Depths(AccessMap map)
    {
        var depth = new Dictionary<string, int>(StringComparer.Ordinal);
        int Of(string id, HashSet<string> under)
        {
            if (depth.TryGetValue(id, out var known))
            {
                return known;
            }

            if (!under.Add(id))
            {
                return -1;
            }

            var deepest = map[id].Needs.Names.Where(n => map.Operation(n) is not null).Select(n => Of(n, under)).DefaultIfEmpty(-1).Max();
            under.Remove(id);
            return depth[id] = deepest + 1;
        }

        foreach (var operation in map.Operations)
        {
            Of(operation.Id, []);
        }

        return depth;
    }

    // What every alternative needs is needed; what only some do is one of several.
    private static IEnumerable<MapEdge> EdgesOf(Operation o)
    {
        if (!o.Needs.HasFewAlternatives)
        {
            return o.Needs.Names.Distinct().Select(id => new MapEdge(id, o.Id, true));
        }

        var alternatives = o.Needs.Alternatives();
        return alternatives.SelectMany(a => a).Distinct().Select(id => new MapEdge(id, o.Id, !alternatives.All(a => a.Contains(id))));
    }
}

/// <summary>An operation in the drawing.</summary>
/// <param name="Id">The operation.</param>
/// <param name="Lane">Which lane, from 0.</param>
/// <param name="Row">Which row, from 0; each lane has one operation in a row at most.</param>
public sealed record MapNode(string Id, int Lane, int Row);

/// <summary>One operation needs another.</summary>
/// <param name="From">What is needed.</param>
/// <param name="To">What needs it.</param>
/// <param name="Either">Another will do as well.</param>
/// <param name="Sure">Somebody said so, or the family asks for it; else it was off each time and never tried without.</param>
public sealed record MapEdge(string From, string To, bool Either, bool Sure = true);
