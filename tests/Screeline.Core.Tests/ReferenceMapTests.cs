using System.Runtime.CompilerServices;
using System.Text.Json;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>
/// Twelve larger maps against CP-SAT (OR-Tools 9.15): model and program in bench/Screeline.CpSat, two workers, 300 seconds each,
/// its answers committed beside the maps.
/// </summary>
public sealed class ReferenceMapTests
{
    private sealed record Reference(double? Best, double Bound, bool Proven, double Seconds);

    private static readonly string Folder = Path.Combine(Here(), "reference-maps");

    private static readonly JsonSerializerOptions Json = new() { PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower };

    private static readonly Dictionary<string, Reference> Answers = JsonSerializer.Deserialize<Dictionary<string, Reference>>(File.ReadAllText(Path.Combine(Folder, "answers.json")), Json)!;

    private static string Here([CallerFilePath] string path = "") => Path.GetDirectoryName(path)!;

    public static TheoryData<string> Names => [.. Answers.Keys];

    [Theory]
    [MemberData(nameof(Names))]
    public void Equals_what_CP_SAT_proves_and_lies_between_its_bound_and_its_best_elsewhere(string name)
    {
        var reading = AccessMapReader.Read(File.ReadAllText(Path.Combine(Folder, name + ".json")));
        Assert.Empty(reading.Faults);
        var answer = RoutePlanner.Plan(new PlanRequest(reading.Map!, reading.Map!.Targets[0].Operation) { Routes = 3, Budget = TimeSpan.FromSeconds(60) });
        Assert.True(answer.Proven);
        var (ours, theirs) = ((double)answer.Routes[0].ExpectedMinutes, Answers[name]);
        if (theirs.Proven)
        {
            Assert.Equal(theirs.Best!.Value, ours, 4);
        }

        Assert.True(ours >= theirs.Bound - 1e-4, $"{ours} is under the bound {theirs.Bound}");
        Assert.True(ours <= (theirs.Best ?? double.MaxValue) + 1e-4, $"{ours} is worse than {theirs.Best}");
        Assert.All(answer.Routes, r => Assert.Null(WalkChecker.Fault(reading.Map, r)));
        Assert.All(answer.Routes, r => Assert.Equal(WalkChecker.Minutes(reading.Map, r), r.ExpectedMinutes, 12));
    }

    [Fact]
    public void There_are_twelve_and_CP_SAT_proved_some_of_them()
    {
        Assert.Equal(12, Answers.Count);
        Assert.True(Answers.Values.Count(a => a.Proven) >= 5);
        Assert.Equal(Answers.Count, Directory.GetFiles(Folder, "g*.json").Length);
    }
}
