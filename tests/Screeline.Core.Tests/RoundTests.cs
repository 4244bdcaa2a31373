using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>The round: where one is counts, several tests in one visit, nothing that cannot be done.</summary>
public sealed class RoundTests
{
    private static readonly VehicleSetting Setting = VehicleSetting.Usual.With(VehicleSetting.Volts, 12);

    private static readonly Dictionary<string, Lazy<DiagnosisEngine>> Engines = JobStory.Library.Systems.ToDictionary(s => s.Id, s => new Lazy<DiagnosisEngine>(() => new DiagnosisEngine(FaultTable.Build(s, Setting, 192))));

    private static readonly Dictionary<string, double> Own = [];

    public static TheoryData<string> Families => [.. JobStory.Library.Systems.Select(s => s.Id)];

    /// <summary>Against every order: none takes less than the one that is proposed.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void No_order_takes_less(string family)
    {
        var (system, random) = (JobStory.Library.System(family)!, new Random(5));
        FaultTest[] tests = [.. system.Tests.Where(t => !t.Complaint)];
        for (var i = 0; i < 40; i++)
        {
            var some = random.GetItems(tests, 6).Distinct().ToList();
            var from = new Whereabouts(random.Next(2) == 0 ? null : tests[random.Next(tests.Length)].Where, random.Next(3) == 0, random.Next(3) == 0);
            var open = system.Access.Where(_ => random.Next(3) == 0).SelectMany(a => a.Needs.Append(a.Id)).ToHashSet();
            var tour = new Tour(system, Own);
            var least = Orders(some).Min(o => tour.MinutesOf(from, open, o));
            Assert.Equal(least, tour.MinutesOf(from, open, Tour.Ordered(from, some)), 1e-9);
        }
    }

    private static IEnumerable<IReadOnlyList<FaultTest>> Orders(IReadOnlyList<FaultTest> tests) =>
        tests.Count == 0 ? [[]] : tests.SelectMany(first => Orders([.. tests.Where(t => t != first)]).Select(rest => (IReadOnlyList<FaultTest>)[first, .. rest]));

    /// <summary>The set that completes the proof is the cheapest of all sets that do.</summary>
    [Fact]
    public void What_the_proof_lacks_is_the_cheapest_set_that_completes_it()
    {
        var system = JobStory.Library.System("starting")!;
        var c = FindTests.CaseOf(system, 12, "one-clunk", "battery-rest=12.6;battery-cranking=12.3;starter-volts-cranking=12.1;starter-volts-cranking=12.1");
        var judgement = Engines["starting"].Value.Judge(new Inquiry(c));
        Assert.Equal("starter", judgement.Repairs[0].Repair.Id);
        Assert.True(judgement.Round.ForProof);
        var tour = new Tour(system, Own);
        var least = FourWayProof.WaysForMotor(c).Min(w => Orders(w).Min(o => tour.MinutesOf(Whereabouts.Nowhere, new HashSet<string>(), o)));
        Assert.Equal(least, judgement.Round.Minutes, 1e-9);
        var told = c with { Readings = [.. c.Readings, .. judgement.Round.Tests.SelectMany(t => FindTests.CaseOf(system, 12, "", t.Id + "=" + (t.Unit is null ? t.GoodChoice : t.Good!.Low is { } low ? low + 2 : 0.05m)).Readings)] };
        Assert.True(FourWayProof.Assess(told).Proves(system.Repairs.First(r => r.IsMotor)));
    }

    /// <summary>
    /// Random cases of every family: whoever is there can do what is offered, nothing that is known forbids it, it was not done before, the decision's
    /// test is the top of what comes next, and after the proof nothing is proposed as a round.
    /// </summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void Nothing_is_offered_that_cannot_be_done(string family)
    {
        var (system, random) = (JobStory.Library.System(family)!, new Random(9));
        var (engine, offers) = (Engines[family].Value, 0);
        while (offers < 1500)
        {
            var readings = random.GetItems(system.Tests.Where(t => !t.Complaint || random.Next(3) == 0).ToArray(), random.Next(5)).DistinctBy(t => t.Id).Select(t => t.Unit is null
                ? new Evidence(t.Id, null, t.Choices[random.Next(t.Choices.Count)].Id)
                : new Evidence(t.Id, new Figure(decimal.Round(t.Plausible!.Value.Low + (t.Plausible.Value.High - t.Plausible.Value.Low) * (decimal)random.NextDouble(), 2), t.Unit), null)).ToList();
            var c = new FindCase(system, 12, random.Next(2) == 0 ? [] : [system.Behaviours[random.Next(system.Behaviours.Count)].Id], readings);
            var at = new Whereabouts(random.Next(2) == 0 ? null : system.Tests[^1].Where, random.Next(2) == 0, random.Next(2) == 0);
            var judgement = engine.Judge(new Inquiry(c) { At = at });
            Assert.Equal(judgement.Next.FirstOrDefault()?.Test, judgement.Decision.Test);
            Assert.Equal(judgement.Round.Tests.FirstOrDefault(), judgement.Decision.Act == Act.Proven ? null : judgement.Decision.Test);
            Assert.Equal(judgement.Round.Tests.Count, judgement.Round.Tests.Distinct().Count());
            foreach (var next in judgement.Next)
            {
                offers++;
                Assert.True(at.Can(next.Test), next.Test.Id);
                Assert.All(next.Test.Wants, x => Assert.NotEqual(false, FourWayProof.Holds(c, x)));
                Assert.Equal(next.Test.Where == at.Place, next.GoingMinutes is 0 or Whereabouts.CallingMinutes);
            }
        }
    }

    /// <summary>Underneath with a helper, the next test there costs no second way; out from there it does again; alone nothing is offered for two without a way of its own.</summary>
    [Fact]
    public void Where_one_is_counts_until_one_comes_out()
    {
        var story = new JobStory().Noted();
        Assert.Equal(Whereabouts.Nowhere, story.Job.Whereabouts);
        story.Say(new ReadingTaken("starter-volts-cranking", new Figure(11.9m, Units.Volt), null));
        var test = story.Job.System.Test("cable-drop-cranking")!;
        Assert.Equal((test.Where, true), (story.Job.Whereabouts.Place, story.Job.Whereabouts.HasHelper));
        Assert.Contains("raised", story.Job.OpenedForReadings);
        Assert.Equal(6, new Tour(story.Job.System, Own).MinutesOf(story.Job.Whereabouts, story.Job.OpenedForReadings, [test]));
        story.Say(new PlaceTold(true, false));
        Assert.Equal(Whereabouts.Nowhere, story.Job.Whereabouts);
        Assert.Empty(story.Job.OpenedForReadings);
        Assert.Equal(6 + 6 + Whereabouts.MovingMinutes + Whereabouts.CallingMinutes, new Tour(story.Job.System, Own).MinutesOf(story.Job.Whereabouts, story.Job.OpenedForReadings, [test]));
        story.Say(new PlaceTold(false, true));
        Assert.True(story.Job.Whereabouts.IsAlone);
        Assert.Equal((double)test.Alone!.Minutes, story.Job.Whereabouts.MinutesOf(test));
        Assert.False(story.Job.Whereabouts.Can(story.Job.System.Test("starter-tapped")!));
    }

    /// <summary>Whoever works alone is told a safe way: out of gear, braked and chocked where the engine may turn, and nobody underneath.</summary>
    [Theory]
    [MemberData(nameof(Families))]
    public void A_way_alone_says_what_keeps_one_safe(string family)
    {
        foreach (var test in JobStory.Library.System(family)!.Tests.Where(t => t.Alone is not null))
        {
            Assert.True(test.People > 1, test.Id);
            if (family == "starting" && test.Commanded)
            {
                Assert.All(new[] { "out of gear", "brake", "chocks", "nobody underneath" }, words => Assert.Contains(words, test.Alone!.How, StringComparison.Ordinal));
            }
        }
    }
}
