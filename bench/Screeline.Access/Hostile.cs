using System.Diagnostics;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Access;

/// <summary>Maps made to hurt: two hundred operations that lean on nothing, or on any of many, from many positions with many tools.</summary>
public static class Hostile
{
    public static void Print()
    {
        foreach (var (title, map) in new[] { ("200 free operations, all wanted", Free()), ("200 operations in alternatives of eight, ten deep", Deep()), ("200 operations, every need any of three", Tangle()) })
        {
            GC.Collect();
            var before = GC.GetTotalAllocatedBytes(true);
            var peak = 0L;
            using var stop = new CancellationTokenSource();
            var watcher = Task.Run(async () =>
            {
                while (!stop.IsCancellationRequested)
                {
                    peak = Math.Max(peak, GC.GetTotalMemory(false));
                    await Task.Delay(20).ConfigureAwait(false);
                }
            });
            var watch = Stopwatch.StartNew();
            var answer = RoutePlanner.Plan(new PlanRequest(map, map.Targets[0].Operation) { Routes = 3 });
            var time = watch.Elapsed;
            stop.Cancel();
            watcher.Wait();
            Console.WriteLine($"{title}: {time.TotalSeconds:0.00} s, {(answer.Proven ? "proven" : $"gap {answer.Gap:0.0000}")}, {answer.Routes.Count} routes, {(answer.Routes.Count > 0 ? answer.Routes[0].ExpectedMinutes : 0):0} min; heap at most {peak / 1_000_000} MB, {(GC.GetTotalAllocatedBytes(true) - before) / 1_000_000} MB allocated");
        }
    }

    private static AccessMap Free()
    {
        var random = new Random(1);
        var operations = Enumerable.Range(0, 199).Select(i => Make(i, Needs.Nothing, random)).ToList();
        operations.Add(Make(199, new Needs.All([.. operations.Select(o => new Needs.One(o.Id))]), random));
        return Map(operations);
    }

    private static AccessMap Deep()
    {
        var random = new Random(2);
        var operations = new List<Operation>();
        for (var i = 0; i < 200; i++)
        {
            var layer = i / 20;
            Needs Any() => new Needs.Any([.. Enumerable.Range(0, 8).Select(_ => new Needs.One($"o{20 * (layer - 1) + random.Next(20):000}"))]);
            operations.Add(Make(i, layer == 0 ? Needs.Nothing : new Needs.All([Any(), Any()]), random));
        }

        return Map(operations);
    }

    private static AccessMap Tangle()
    {
        var random = new Random(3);
        var operations = new List<Operation>();
        for (var i = 0; i < 200; i++)
        {
            Needs Any() => new Needs.Any([.. Enumerable.Range(0, 3).Select(_ => new Needs.One($"o{random.Next(i):000}"))]);
            operations.Add(Make(i, i < 10 ? Needs.Nothing : new Needs.All([Any(), Any()]), random));
        }

        return Map(operations);
    }

    private static AccessMap Map(IReadOnlyList<Operation> operations) => new()
    {
        Id = "hostile", Title = "Hostile", Family = "starting", StartPosition = "p0", Positions = [.. Enumerable.Range(0, 12).Select(i => new Position($"p{i}", $"P{i}", []))],
        Moves = [], DefaultMoveMinutes = 2, ToolChangeMinutes = 0.25m, LabourRatePerHour = 60, Operations = operations, Targets = [new Target("t", operations[^1].Id)],
    };

    private static Operation Make(int i, Needs needs, Random random) => new()
    {
        Id = $"o{i:000}", Title = $"o{i:000}", Kind = OperationKind.Open, Position = $"p{random.Next(12)}", Minutes = new Minutes(1, 1 + random.Next(5), 8), Needs = needs, Tools = [$"t{random.Next(30)}"],
        Damage = new Damage(0, 0, ""), Consumes = [], Close = new Closing(null, null, false, null),
    };
}
