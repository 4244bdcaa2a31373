using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;
using Screeline.CpSat;

// The committed maps by CP-SAT and by our own planner, one after the other; writes what CP-SAT came to as answers.json.
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var folder = args[0];
var seconds = double.Parse(args.Length > 1 ? args[1] : "300");
var workers = args.Length > 2 ? int.Parse(args[2]) : 2;
var (answers, ratios) = (new SortedDictionary<string, Reference>(StringComparer.Ordinal), new List<double>());
foreach (var file in Directory.GetFiles(folder, "*.json").Where(f => Path.GetFileName(f) != "answers.json").Order(StringComparer.Ordinal))
{
    var reading = AccessMapReader.Read(File.ReadAllText(file));
    var map = reading.Map ?? throw new InvalidDataException($"{file}: {string.Join("; ", reading.Faults)}");
    var request = new PlanRequest(map, map.Targets[0].Operation);
    RoutePlanner.Plan(request);
    var watch = Stopwatch.StartNew();
    var ours = RoutePlanner.Plan(request);
    var time = watch.Elapsed.TotalSeconds;
    var theirs = WalkModel.Solve(map, seconds, workers);
    answers[map.Id] = theirs;
    ratios.Add(theirs.Seconds / time);
    Console.WriteLine($"{map.Id}: {map.Operations.Count} operations; ours {ours.Routes[0].ExpectedMinutes:0.0000} in {time * 1000:0} ms ({(ours.Proven ? "proven" : "not proven")}); CP-SAT {theirs.Best:0.0000}, bound {theirs.Bound:0.0000}, {(theirs.Proven ? "proven" : "not proven")} in {theirs.Seconds:0.0} s; ratio {ratios[^1]:0}");
    File.WriteAllText(Path.Combine(folder, "answers.json"), JsonSerializer.Serialize(answers, new JsonSerializerOptions { WriteIndented = true, PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower }) + "\n");
}

ratios.Sort();
Console.WriteLine($"median ratio {ratios[ratios.Count / 2]:0}");
