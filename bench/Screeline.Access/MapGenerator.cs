using Screeline.Core.Access;

namespace Screeline.Access;

/// <summary>
/// Maps as a vehicle makes them: clusters of parts, each worked on from one position and with few tools, lying in layers behind
/// each other; some reached in two or three ways; here and there a lead that must be off first; on the way back steps that come
/// after something deep and before the cover over it. Maps whose best set is small, or that have few ways, are thrown away.
/// </summary>
public static class MapGenerator
{
    /// <summary>The first map that fits, counting up from a seed.</summary>
    public static AccessMap Make(int seed, int operations)
    {
        for (var attempt = 0; ; attempt++)
        {
            var map = Draft(new Random(unchecked(seed * 7919 + attempt * 104729 + operations)), operations, $"g{operations}-{seed}");
            if (MinimalSets(map, 8) is { } sets && sets.Count >= 8 && sets.Min(s => s.Count) >= 0.6 * operations)
            {
                return map;
            }
        }
    }

    private static AccessMap Draft(Random random, int n, string id)
    {
        var positionCount = random.Next(2, 5);
        var points = Enumerable.Range(0, positionCount).Select(_ => (X: random.NextDouble() * 4, Y: random.NextDouble() * 4)).ToList();
        List<Position> positions = [.. Enumerable.Range(0, positionCount).Select(i => new Position($"p{i}", $"Position {i + 1}", []))];
        var moves = new List<Move>();
        for (var a = 0; a < positionCount; a++)
        {
            for (var b = a + 1; b < positionCount; b++)
            {
                // Distances in a plane, rounded up by the half minute, and at least one: the triangle inequality survives.
                var distance = Math.Sqrt(Math.Pow(points[a].X - points[b].X, 2) + Math.Pow(points[a].Y - points[b].Y, 2));
                moves.Add(new Move($"p{a}", $"p{b}", 1 + Math.Ceiling((decimal)distance * 2) / 2));
            }
        }

        var toolCount = random.Next(5, 9);
        var operations = new List<Operation>();
        var ancestors = new List<HashSet<int>>();
        var clusters = new List<List<int>>();
        while (operations.Count < n - 1)
        {
            var place = random.Next(positionCount);
            var tools = Enumerable.Range(0, toolCount).OrderBy(_ => random.Next()).Take(random.Next(1, 4)).ToList();
            var size = Math.Min(random.Next(4, 9), n - 1 - operations.Count);
            var cluster = new List<int>();
            for (var k = 0; k < size; k++)
            {
                var i = operations.Count;
                var behind = new List<Needs>();
                Needs One(int j) => new Needs.One($"o{j:00}");
                if (k > 0)
                {
                    // Behind one or two of the cluster; sometimes either of two will do.
                    var (x, y) = (cluster[random.Next(Math.Max(0, k - 3), k)], cluster[random.Next(k)]);
                    behind.Add(x != y && random.Next(4) == 0 ? new Needs.Any([One(x), One(y)]) : One(x));
                    if (x != y && random.Next(4) == 0)
                    {
                        behind.Add(One(y));
                    }
                }

                if (clusters.Count > 0 && random.Next(k == 0 ? 2 : 6) == 0)
                {
                    var other = clusters[random.Next(clusters.Count)];
                    var (x, y) = (other[random.Next(other.Count)], other[random.Next(other.Count)]);
                    behind.Add(x != y && random.Next(2) == 0 ? new Needs.Any([One(x), One(y)]) : One(x));
                }

                cluster.Add(i);
                operations.Add(Make(i, new Needs.All(behind), random.Next(8) == 0 ? random.Next(positionCount) : place, random.Next(4) == 0 ? [] : [$"t{tools[random.Next(tools.Count)]}"]));
            }

            clusters.Add(cluster);
        }

        // The motor: the end of most clusters, and of a few others one of two.
        var ends = clusters.Select(c => c[^1]).ToList();
        var last = new List<Needs>();
        for (var c = 0; c < ends.Count; c++)
        {
            if (c + 1 < ends.Count && random.Next(4) == 0)
            {
                last.Add(new Needs.Any([new Needs.One($"o{ends[c]:00}"), new Needs.One($"o{ends[c + 1]:00}")]));
                c++;
            }
            else
            {
                last.Add(new Needs.One($"o{ends[c]:00}"));
            }
        }

        operations.Add(Make(n - 1, new Needs.All(last), random.Next(positionCount), [$"t{random.Next(toolCount)}"]));
        var steps = new List<RefitStep>();
        for (var s = 0; s < n / 8; s++)
        {
            var deep = operations[random.Next(n / 3, n)];
            var over = deep.Needs.Names.ToList();
            if (over.Count == 0)
            {
                continue;
            }

            steps.Add(new RefitStep
            {
                Id = $"s{s}", Title = $"Step {s}", Position = random.Next(3) == 0 ? positions[random.Next(positionCount)].Id : deep.Position, Minutes = Time(), Tools = random.Next(2) == 0 ? [] : [$"t{random.Next(toolCount)}"],
                AppliesIf = deep.Id, After = [deep.Id], Before = [over[random.Next(over.Count)]], Gate = random.Next(2) == 0,
            });
        }

        return new AccessMap
        {
            Id = id, Title = id, Family = "starting", StartPosition = "p0", Positions = positions, Moves = moves, DefaultMoveMinutes = 8, ToolChangeMinutes = 0.25m, LabourRatePerHour = 60,
            Operations = operations, RefitSteps = steps, Targets = [new Target("motor", operations[^1].Id)],
        };

        Minutes Time()
        {
            var likely = 0.5m * random.Next(1, 13);
            return new Minutes(likely * 0.5m, likely, likely * (1.5m + 0.5m * random.Next(3)));
        }

        Operation Make(int i, Needs needs, int place, string[] tools) => new()
        {
            Id = $"o{i:00}", Title = $"Operation {i}", Kind = random.Next(10) == 0 && i < n - 1 ? OperationKind.Once : OperationKind.Open, Position = $"p{place}", Minutes = Time(), Needs = needs, Tools = tools,
            Damage = new Damage(random.Next(5) == 0 ? 0.05m : 0, 40, "clip"), Consumes = random.Next(8) == 0 ? [new Consumable("seal", 1, 4.5m)] : [],
            // Some may be closed sooner than they were opened: only what lies directly over them must still be open.
            Close = new Closing(random.Next(3) == 0 ? Time() : null, random.Next(8) == 0 ? Needs.Nothing : null, false, null),
        };
    }

    /// <summary>The minimal sets of operations that reach the target, found by settling every choice in every way; null when there are too many choices to go through.</summary>
    public static List<HashSet<string>>? MinimalSets(AccessMap map, int enough)
    {
        var sets = new HashSet<string>(StringComparer.Ordinal);
        var found = new List<HashSet<string>>();
        var left = 20_000;
        bool Go(HashSet<string> set, Stack<Needs> open)
        {
            if (--left < 0)
            {
                return false;
            }

            while (open.TryPop(out var needs))
            {
                switch (needs)
                {
                    case Needs.One one:
                        if (set.Add(one.Operation))
                        {
                            open.Push(map[one.Operation].Needs);
                        }

                        break;
                    case Needs.All all:
                        all.Of.ToList().ForEach(open.Push);
                        break;
                    case Needs.Any any:
                        foreach (var way in any.Of)
                        {
                            var stack = new Stack<Needs>(open.Reverse());
                            stack.Push(way);
                            if (!Go([.. set], stack))
                            {
                                return false;
                            }
                        }

                        return true;
                }
            }

            if (sets.Add(string.Join(' ', set.Order(StringComparer.Ordinal))))
            {
                found.Add(set);
            }

            return true;
        }

        var whole = Go([map.Targets[0].Operation], new Stack<Needs>([map[map.Targets[0].Operation].Needs]));
        var minimal = found.Where(s => !found.Any(o => o.Count < s.Count && o.IsSubsetOf(s))).ToList();
        // Not gone through to the end: what was found so far is enough when it is many times what is wanted.
        return whole || minimal.Count >= 4 * enough ? minimal : null;
    }
}
