using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>Small random maps with everything a map can hold, and random requests about them.</summary>
internal static class RandomMaps
{
    /// <summary>A map of up to <paramref name="most"/> operations; not every one has a way in or back.</summary>
    public static AccessMap Map(Random random, int most)
    {
        var n = random.Next(2, most + 1);
        List<Position> positions = [.. Enumerable.Range(0, random.Next(1, 5)).Select(i => new Position($"p{i}", $"P{i}", []))];
        // Moves between 2 and 4 minutes obey the triangle inequality whatever they are.
        var moves = new List<Move>();
        for (var a = 0; a < positions.Count; a++)
        {
            for (var b = a + 1; b < positions.Count; b++)
            {
                if (random.Next(4) > 0)
                {
                    moves.Add(new Move($"p{a}", $"p{b}", 2 + random.Next(5) * 0.5m));
                }
            }
        }

        string Place() => positions[random.Next(positions.Count)].Id;
        IReadOnlyList<string> Tools() => random.Next(4) == 0 ? [] : [$"t{random.Next(4)}", .. random.Next(5) == 0 ? [$"t{random.Next(4)}"] : Array.Empty<string>()];
        var loops = random.Next(4) == 0;
        Needs Needs(int i, int depth)
        {
            Needs One() => i == 0 ? Core.Access.Needs.Nothing : new Needs.One($"o{random.Next(loops ? n : i)}");
            return random.Next(depth == 0 ? 6 : 4) switch
            {
                0 => Core.Access.Needs.Nothing,
                1 or 4 => One(),
                2 => new Needs.All([Inner(), Inner()]),
                _ => new Needs.Any([Inner(), Inner(), .. random.Next(3) == 0 ? new[] { One() } : []]),
            };

            Needs Inner() => depth < 2 && random.Next(3) == 0 ? Needs(i, depth + 1) : One();
        }

        Minutes Minutes() => random.Next(6) == 0 ? new Minutes(0, 0, 0) : new Minutes(random.Next(2), 2 + random.Next(3), 5 + random.Next(5));
        List<Operation> operations = [.. Enumerable.Range(0, n).Select(i => new Operation
        {
            Id = $"o{i}", Title = $"o{i}", Kind = random.Next(5) == 0 ? OperationKind.Once : OperationKind.Open, Position = Place(), Minutes = Minutes(), Needs = Needs(i, 0),
            Tools = Tools(), Damage = random.Next(3) == 0 ? new Damage(0.1m * random.Next(10), random.Next(200), "") : new Damage(0, 0, ""),
            Consumes = random.Next(4) == 0 ? [new Consumable("c", random.Next(1, 4), 1.25m)] : [],
            Close = new Closing(random.Next(3) == 0 ? Minutes() : null, random.Next(5) switch { 0 => Core.Access.Needs.Nothing, 1 => Needs(n, 1), _ => null }, random.Next(5) == 0, null),
        })];
        string Any(int steps) => random.Next(4) == 0 && steps > 0 ? $"s{random.Next(steps)}" : $"o{random.Next(n)}";
        var count = random.Next(4);
        List<RefitStep> steps = [.. Enumerable.Range(0, count).Select(i => new RefitStep
        {
            Id = $"s{i}", Title = $"s{i}", Position = Place(), Minutes = Minutes(), Tools = Tools(), AppliesIf = random.Next(2) == 0 ? $"o{random.Next(n)}" : null,
            After = random.Next(3) == 0 ? [] : [Any(i)], Before = random.Next(3) == 0 ? [] : [Any(i)], Gate = random.Next(3) == 0,
        })];
        return new AccessMap
        {
            Id = "m", Title = "m", Family = "starting", StartPosition = Place(), Positions = positions, Moves = moves, DefaultMoveMinutes = 3, ToolChangeMinutes = 0.25m * random.Next(4),
            LabourRatePerHour = random.Next(8) == 0 ? 0 : 62.5m, Operations = operations, RefitSteps = steps, Targets = [new Target("t", $"o{n - 1}")],
        };
    }

    /// <summary>A request about a map: from the start or from the middle of a job, free or hemmed in.</summary>
    public static PlanRequest Request(AccessMap map, Random random)
    {
        HashSet<string> Some(int share) => [.. map.Operations.Where(_ => random.Next(share) == 0).Select(o => o.Id)];
        var plain = random.Next(2) == 0;
        return new PlanRequest(map, map.Targets[0].Operation)
        {
            Objective = random.Next(2) == 0 ? PlanObjective.Fastest : PlanObjective.Thrifty,
            Done = plain ? new HashSet<string>() : Some(4),
            Blocked = plain ? new HashSet<string>() : Some(6),
            Tools = plain || random.Next(2) == 0 ? null : new HashSet<string>(new[] { "t0", "t1", "t2", "t3" }.Where(_ => random.Next(4) > 0)),
            Position = random.Next(3) == 0 ? map.Positions[^1].Id : null,
            Tool = random.Next(3) == 0 ? $"t{random.Next(5)}" : null,
            Routes = 3,
            Budget = TimeSpan.FromSeconds(30),
        };
    }
}
