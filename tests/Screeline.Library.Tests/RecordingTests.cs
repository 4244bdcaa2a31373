using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Library.Tests;

/// <summary>Every kind of job that ships, recorded from nothing: it comes apart, goes back, is proved; nothing safe is lost.</summary>
public sealed class RecordingTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    // What no word tells: that this vehicle has a second battery.
    private static readonly string[] OnlyTheVehicleKnows = ["auxiliary-battery"];

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    [Theory]
    [MemberData(nameof(Maps))]
    public void A_job_recorded_from_nothing_goes_back_and_is_proved(string map)
    {
        for (var seed = 0; seed < 2; seed++)
        {
            var script = new RecordingScript(Library.Map(map).Map, new Random(seed));
            var apart = script.Job();
            Assert.Empty(apart.Disputes);
            Assert.True(apart.IsDone(Stage.TakeApart));
            Assert.Equal(script.Order.Where(id => script.Map[id].Kind == OperationKind.Open).Sum(id => script.Map[id].Fasteners.Sum(f => f.Count)), apart.Count.Out);
            var went = script.Back();
            var back = script.Job();
            Assert.Empty(back.Disputes);
            Assert.True(back.Count.Balances);
            Assert.True(back.IsDone(Stage.Refit));
            Assert.Equal(0, back.OpenOperations);
            // Each gate of the map that proves something before the covers stands in the record too, and was held.
            var proved = back.Map!.RefitSteps.SelectMany(s => s.Checks).ToHashSet(StringComparer.Ordinal);
            Assert.Subset(proved, script.Map.RefitSteps.Where(s => s.AppliesIf is null || script.Order.Contains(s.AppliesIf)).SelectMany(s => s.Checks).ToHashSet(StringComparer.Ordinal));
            // Each caution stands at the step of the record that it belongs to, on the way in and on the way back.
            var lost = script.RecordedAs.SelectMany(r => script.Map[r.Key].Cautions.Except(back.Map[r.Value].Cautions)).Distinct();
            Assert.Empty(lost.Except(OnlyTheVehicleKnows));
            var onTheWay = went.SelectMany(id => back.Map.Step(id)?.Cautions ?? back.Map[id].Cautions).ToHashSet(StringComparer.Ordinal);
            Assert.Empty(script.Map.RefitSteps.Where(s => s.AppliesIf is null || script.Order.Contains(s.AppliesIf)).SelectMany(s => s.Cautions).Except(onTheWay).Except(OnlyTheVehicleKnows));
            script.HandBack();
            // Nothing was asked for besides what the map itself asks.
            Assert.Empty(script.AskedBesides);
        }
    }

    /// <summary>With a sister's map, or only its kind of job, expected line by line: what was ticked is counted, and nothing else is there.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void An_expected_map_is_worked_line_by_line(string map)
    {
        foreach (var sizes in new[] { true, false })
        {
            var script = new RecordingScript(Library.Map(map).Map, new Random(3), Library.Map(map), sizes);
            var apart = script.Job();
            Assert.True(apart.IsDone(Stage.TakeApart));
            Assert.Equal(script.Order.Where(id => script.Map[id].Kind == OperationKind.Open).Sum(id => script.Map[id].Fasteners.Sum(f => f.Count)), apart.Count.Out);
            script.Back();
            Assert.Equal(0, script.Job().OpenOperations);
            Assert.Empty(script.HandBack().Disputes);
        }
    }

    /// <summary>Nothing that must be safe was left to chance: whatever is required was provided when it was done.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void What_the_map_requires_the_record_requires(string map)
    {
        var script = new RecordingScript(Library.Map(map).Map, new Random(7));
        var job = script.Job();
        foreach (var (id, recorded) in script.RecordedAs)
        {
            var o = job.Map![recorded];
            var kind = script.Map.Positions.First(p => p.Id == script.Map[id].Position).Kind;
            if (kind is "under" or "arch")
            {
                Assert.Contains(o.Needs.Names.Append("").Select(n => job.Map.Operation(n)).Concat(job.Removed.Keys.TakeWhile(k => k != recorded).Select(k => job.Map.Operation(k))), x => x?.Provides.Contains("vehicle-supported") == true);
            }
        }
    }
}
