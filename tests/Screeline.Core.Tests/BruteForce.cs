using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>
/// The best walks by trying every set and every order, written from the definitions in docs/formats.md alone: tables over all
/// subsets, no bound, no shortcut.
/// </summary>
internal sealed class BruteForce(PlanRequest request)
{
    private readonly AccessMap _map = request.Map;
    private readonly List<Operation> _operations = [.. request.Map.Operations.OrderBy(o => o.Id, StringComparer.Ordinal)];

    /// <summary>All sets that lead to the target and back, with their least cost, best first.</summary>
    public List<(IReadOnlyList<string> Set, decimal Cost)> All()
    {
        var n = _operations.Count;
        var done = Enumerable.Range(0, n).Where(i => request.Done.Contains(_operations[i].Id)).Sum(i => 1 << i);
        var target = _operations.FindIndex(o => o.Id == request.Operation);
        var reached = new Dictionary<(string, string?), decimal>?[1 << n];
        reached[done] = new() { [(request.Position ?? _map.StartPosition, request.Tool)] = 0 };
        var results = new List<(IReadOnlyList<string>, decimal)>();
        for (var mask = done; mask < 1 << n; mask++)
        {
            if (reached[mask] is not { } ways)
            {
                continue;
            }

            if ((mask >> target & 1) != 0)
            {
                if (BackFrom(mask, ways) is { } cost)
                {
                    results.Add(([.. Enumerable.Range(0, n).Where(i => (mask >> i & 1) != 0).Select(i => _operations[i].Id)], cost));
                }

                // With the target done on this removal, the removal is over.
                if ((done >> target & 1) == 0)
                {
                    continue;
                }
            }

            for (var i = 0; i < n; i++)
            {
                var o = _operations[i];
                if ((mask >> i & 1) != 0 || request.Blocked.Contains(o.Id) || !HasTools(o) || !Met(o.Needs, mask))
                {
                    continue;
                }

                var extra = request.Objective == PlanObjective.Fastest ? 0 : o.Damage.Chance * o.Damage.Cost + o.Consumes.Sum(c => c.Quantity * c.Price);
                foreach (var ((position, tool), cost) in ways)
                {
                    var (next, price) = Step(position, tool, o.Position, o.Tools, o.Minutes);
                    var to = reached[mask | 1 << i] ??= [];
                    to[next] = Math.Min(to.GetValueOrDefault(next, decimal.MaxValue), cost + price + extra);
                }
            }
        }

        return [.. results.OrderBy(r => decimal.Round(r.Item2, 12)).ThenBy(r => r.Item1.Count).ThenBy(r => r.Item1, Comparer<IReadOnlyList<string>>.Create((a, b) => a.Zip(b).Select(x => string.CompareOrdinal(x.First, x.Second)).FirstOrDefault(c => c != 0)))];
    }

    private bool HasTools(Operation o) =>
        request.Tools is null || o.Tools.All(t => request.Tools.Contains(t) || (o.OrTools.TryGetValue(t, out var other) && other.Any(request.Tools.Contains)));

    private bool Met(Needs needs, int mask) => needs switch
    {
        Needs.One one => (mask >> _operations.FindIndex(o => o.Id == one.Operation) & 1) != 0,
        Needs.All all => all.Of.All(x => Met(x, mask)),
        _ => ((Needs.Any)needs).Of.Any(x => Met(x, mask)),
    };

    private ((string, string?) Next, decimal Price) Step(string position, string? tool, string at, IReadOnlyList<string> tools, Minutes minutes)
    {
        var time = (minutes.Low + 4 * minutes.Likely + minutes.High) / 6m;
        time += position == at ? 0 : _map.Moves.FirstOrDefault(m => (m.From == position && m.To == at) || (m.To == position && m.From == at))?.Minutes ?? _map.DefaultMoveMinutes;
        time += tools.Count > 0 && tool is not null && tool != tools[0] ? _map.ToolChangeMinutes : 0;
        return ((at, tools.Count > 0 ? tools[0] : tool), request.Objective == PlanObjective.Fastest ? time : time * _map.LabourRatePerHour / 60m);
    }

    // The least cost of removal and refit together for one set.
    private decimal? BackFrom(int mask, Dictionary<(string, string?), decimal> ways)
    {
        var set = Enumerable.Range(0, _operations.Count).Where(i => (mask >> i & 1) != 0).ToList();
        var opens = set.Where(i => _operations[i].Kind == OperationKind.Open).ToList();
        var steps = _map.RefitSteps.Where(s => s.AppliesIf is null || set.Any(i => _operations[i].Id == s.AppliesIf)).ToList();
        List<string> all = [.. opens.Select(i => _operations[i].Id), .. steps.Select(s => s.Id)];
        var once = set.Except(opens).Sum(i => 1 << i);
        var reached = new Dictionary<(string, string?), decimal>?[1 << all.Count];
        reached[0] = ways;
        for (var finished = 0; finished < 1 << all.Count; finished++)
        {
            if (reached[finished] is not { } here)
            {
                continue;
            }

            bool Waits(string id) => all.IndexOf(id) is >= 0 and var k && (finished >> k & 1) == 0;
            for (var k = 0; k < all.Count; k++)
            {
                if ((finished >> k & 1) != 0 || steps.Any(s => s.Id != all[k] && Waits(s.Id) && s.Before.Contains(all[k])))
                {
                    continue;
                }

                (string, IReadOnlyList<string>, Minutes) what;
                if (k < opens.Count)
                {
                    var o = _operations[opens[k]];
                    var stillOpen = once | opens.Where((i, j) => j != k && (finished >> j & 1) == 0).Sum(i => 1 << i);
                    if (!Met(o.Close.While ?? o.Needs, stillOpen))
                    {
                        continue;
                    }

                    what = (o.Position, o.Tools, o.Close.Minutes ?? o.Minutes);
                }
                else
                {
                    var s = steps[k - opens.Count];
                    if (s.After.Any(Waits))
                    {
                        continue;
                    }

                    what = (s.Position, s.Tools, s.Minutes);
                }

                foreach (var ((position, tool), cost) in here)
                {
                    var (next, price) = Step(position, tool, what.Item1, what.Item2, what.Item3);
                    var to = reached[finished | 1 << k] ??= [];
                    to[next] = Math.Min(to.GetValueOrDefault(next, decimal.MaxValue), cost + price);
                }
            }
        }

        return reached[^1]?.Values.Min();
    }
}
