using System.Diagnostics;
using System.Globalization;
using Screeline.Access;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

// The planner on generated maps: how long until a proof, how often none, with which gap. See docs/performance.md.
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
string Get(string name, string usual) => Array.IndexOf(args, name) is >= 0 and var i && i + 1 < args.Length ? args[i + 1] : usual;
var seed = int.Parse(Get("--seed", "1"));
var count = int.Parse(Get("--maps", "100"));
if (args.Contains("--shipped"))
{
    Shipped.Print();
    return;
}

if (args.Contains("--likely"))
{
    Likely.Print();
    return;
}

if (args.Contains("--learning"))
{
    Learning.PrintTime(seed);
    Learning.Print(seed, count);
    return;
}

if (args.Contains("--hostile"))
{
    Hostile.Print();
    return;
}

if (Get("--write", "") is { Length: > 0 } folder)
{
    foreach (var size in Get("--sizes", "14,18,22,26,30,34,38,42,46,50,55,60").Split(',').Select(int.Parse))
    {
        var map = MapGenerator.Make(seed, size);
        File.WriteAllText(Path.Combine(folder, map.Id + ".json"), AccessMapWriter.Write(map));
    }

    return;
}

foreach (var size in Get("--sizes", "40,60").Split(',').Select(int.Parse))
{
    var maps = Enumerable.Range(seed, count).Select(s => MapGenerator.Make(s, size)).ToList();
    RoutePlanner.Plan(new PlanRequest(maps[0], maps[0].Targets[0].Operation));
    var (times, gaps) = (new List<double>(), new List<double>());
    foreach (var map in maps)
    {
        var watch = Stopwatch.StartNew();
        var answer = RoutePlanner.Plan(new PlanRequest(map, map.Targets[0].Operation));
        times.Add(watch.Elapsed.TotalMilliseconds);
        if (!answer.Proven)
        {
            gaps.Add(answer.Gap);
        }

        if (args.Contains("--verbose"))
        {
            Console.WriteLine($"{map.Id}: {times[^1]:0} ms, {(answer.Proven ? "proven" : $"gap {answer.Gap:0.000}")}, {answer.Routes[0].ExpectedMinutes:0.00} min, {answer.Routes[0].Set.Count} of {size}");
        }
    }

    times.Sort();
    Console.WriteLine($"{size} operations, {count} maps from seed {seed}: median {times[count / 2]:0} ms, p95 {times[count * 95 / 100]:0} ms, longest {times[^1]:0} ms; not proven {gaps.Count}{(gaps.Count > 0 ? $", worst gap {gaps.Max():0.000}" : "")}");
}
