using System.Diagnostics;
using Screeline.Core.Access.Planning;
using Screeline.Library;

namespace Screeline.Access;

/// <summary>Replanning in a job on every shipped map: from each moment of the best way, with the next operation blocked, and with its tool missing.</summary>
public static class Shipped
{
    public static void Print()
    {
        foreach (var map in ShippedLibrary.Load().Maps.Select(m => m.Map))
        {
            var best = RoutePlanner.Best(map);
            var times = new List<double>();
            for (var round = 0; round < 3; round++)
            {
                times.Clear();
                for (var k = 0; k < best.Removal.Count; k++)
                {
                    var done = best.Removal.Take(k).Select(a => a.Id).ToHashSet(StringComparer.Ordinal);
                    var next = map[best.Removal[k].Id];
                    var start = new PlanRequest(map, best.Target) { Done = done, Position = k == 0 ? null : best.Removal[k - 1].Position, Routes = 3 };
                    foreach (var request in new[] { start, start with { Blocked = new HashSet<string> { next.Id } }, start with { Tools = map.Operations.SelectMany(o => o.Tools).Except(next.Tools).ToHashSet(StringComparer.Ordinal) } })
                    {
                        var watch = Stopwatch.StartNew();
                        RoutePlanner.Plan(request);
                        times.Add(watch.Elapsed.TotalMilliseconds);
                    }
                }
            }

            times.Sort();
            Console.WriteLine($"{map.Id}: {times.Count} replans, median {times[times.Count / 2]:0.0} ms, longest {times[^1]:0.0} ms");
        }
    }
}
