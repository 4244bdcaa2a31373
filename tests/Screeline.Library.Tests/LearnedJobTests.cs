using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Planning;
using Screeline.Core.Jobs;

namespace Screeline.Library.Tests;

/// <summary>Every kind of job that ships: recorded from nothing, learned, planned again.</summary>
public sealed class LearnedJobTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    private static IReadOnlyList<string> States(string caution) => Library.Cautions.GetValueOrDefault(caution) ?? [];

    private static AccessMap Learn(AccessMap map, Job job, IReadOnlyDictionary<string, string>? same = null, Guid id = default)
    {
        var (worked, frame) = (WorkedWay.Of(job, _ => "Ansa", null) with { Job = id }, job.System.Frame);
        return LearnedMap.With(map, worked with { Names = LearnedMap.Names(map, worked, false, same ?? new Dictionary<string, string>(), frame) }, frame, States);
    }

    private static AccessMap Nothing(RecordingScript script) => LearnedMap.New("learned", "Learned", script.System.Id, script.Map.AppliesTo[0].Model, null, 60);

    [Theory]
    [MemberData(nameof(Maps))]
    public void What_was_recorded_is_planned_the_next_time(string map)
    {
        var script = new RecordingScript(Library.Map(map).Map, new Random(4));
        script.Back();
        var job = script.HandBack();
        var learned = Learn(Nothing(script), job);
        var reading = AccessMapReader.Read(AccessMapWriter.Write(learned), Library.Cautions);
        Assert.True(reading.Faults.Count == 0, string.Join("\n", reading.Faults));

        var plan = RoutePlanner.Best(learned);
        var worked = learned.Learned!.Jobs[0].Named();
        var cost = WalkCost.Price(learned, worked.Opened.Select(o => o.Id), worked.Closed).Sum(a => a.MoveMinutes + a.ToolChangeMinutes + a.Work.Mean);
        Assert.True(plan.ExpectedMinutes <= cost + 0.001m, $"{plan.ExpectedMinutes} planned, {cost} worked");
        // Sizes, counts, cautions and gates of what is on the way are there.
        foreach (var o in plan.Removal.Select(a => learned[a.Id]).Where(o => script.RecordedAs.Values.Contains(o.Id)))
        {
            var own = job.Map![o.Id];
            Assert.Equal(job.FastenersOf(o.Id).Select(f => (f.Kind, f.Drive, f.Count)), o.Fasteners.Select(f => (f.Kind, f.Drive, f.Count)));
            Assert.Equal(own.Cautions, o.Cautions);
        }

        Assert.Superset(job.Map!.RefitSteps.Where(s => s.Gate).Select(s => s.Id).ToHashSet(StringComparer.Ordinal), learned.RefitSteps.Where(s => s.Gate).Select(s => s.Id).ToHashSet(StringComparer.Ordinal));
        Assert.Equal(job.Map.RefitSteps.SelectMany(s => s.Checks).Order(), plan.Refit.SelectMany(a => learned.Step(a.Id)?.Checks ?? []).Order());
    }

    /// <summary>Somebody else does the same job in another order, tells the program which is which, and takes it back again.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void A_second_job_widens_the_map_and_goes_without_a_trace(string map)
    {
        var first = new RecordingScript(Library.Map(map).Map, new Random(11));
        first.Back();
        var once = Learn(Nothing(first), first.HandBack());
        var second = new RecordingScript(Library.Map(map).Map, new Random(12));
        second.Back();
        var job = second.HandBack();
        var likely = LearnedMap.LikelyNames(once, WorkedWay.Of(job, _ => "Bram", null), false, Library.PartWords, job.System.Frame);
        // What is called the same is asked about.
        Assert.Superset(job.Things.Select(t => job.Map![t.Id].Title).Intersect(once.Operations.Select(o => o.Title)).ToHashSet(), likely.Select(l => l.Title).ToHashSet());
        var twice = Learn(once, job, likely.Where(l => l.Title == l.KnownTitle).ToDictionary(l => l.Thing, l => l.Known), Guid.AllBitsSet);
        var js = twice.Learned!.Jobs.Select(j => j.Named()).ToList();
        Assert.True(AccessMapReader.Read(AccessMapWriter.Write(twice), Library.Cautions).Faults.Count == 0, string.Join("\n", js.Select(j => string.Join(' ', j.Opened.Select(o => o.Id)) + " || " + string.Join(' ', j.Closed))));
        Assert.True(RoutePlanner.Best(twice).Set.Count <= Math.Max(RoutePlanner.Best(once).Set.Count, second.Order.Count));
        foreach (var worked in twice.Learned!.Jobs.Select(j => j.Named()))
        {
            var progress = worked.Opened.Select(o => o.Id).ToList();
            Assert.All(progress.Select((id, i) => (id, i)), x => Assert.True(WalkRules.MayRemove(twice[x.id], progress.Take(x.i).ToHashSet(StringComparer.Ordinal)), x.id));
        }

        Assert.Contains(twice.Operations, o => twice.Learned.Certainty(o.Id) is (2, _));
        Assert.Equal(AccessMapWriter.Write(once), AccessMapWriter.Write(LearnedMap.Without(twice, Guid.AllBitsSet, job.System.Frame, States)));
        Assert.Equal(AccessMapWriter.Write(once), AccessMapWriter.Write(AccessMapReader.ReadKept(AccessMapWriter.Write(once))!));
    }

    /// <summary>Two things under one name are parted, one thing under two names is told to be one: both can be taken back.</summary>
    [Fact]
    public void Names_are_merged_and_parted_again()
    {
        var script = new RecordingScript(Library.Map("tideway-starter").Map, new Random(1));
        script.Back();
        var job = script.HandBack();
        var once = Learn(Nothing(script), job);
        var again = WorkedWay.Of(job, _ => "Bram", null) with { Job = Guid.NewGuid() };
        AccessMap With(IReadOnlyDictionary<string, string> same) => LearnedMap.With(once, again with { Names = LearnedMap.Names(once, again, false, same, job.System.Frame) }, job.System.Frame, States);
        var likely = LearnedMap.LikelyNames(once, again, false, Library.PartWords, job.System.Frame);
        Assert.Equal(job.Things.Count, likely.Count);
        var merged = With(likely.ToDictionary(l => l.Thing, l => l.Known));
        Assert.Equal(once.Operations.Select(o => o.Id), merged.Operations.Select(o => o.Id));
        var parted = With(likely.Skip(1).ToDictionary(l => l.Thing, l => l.Known));
        Assert.Equal(once.Operations.Count + 1, parted.Operations.Count);
        Assert.Equal(parted.Operations.Count, parted.Operations.Select(o => o.Title).Distinct().Count());
        Assert.Equal((1, 1), parted.Learned!.Certainty(likely[0].Known));
        Assert.Equal((2, 2), merged.Learned!.Certainty(likely[0].Known));
    }
}
