using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;

namespace Screeline.Library.Tests;

/// <summary>
/// A job that is sent back asks for exactly what a job would ask for that never came so far: random jobs on every shipped map,
/// told once whole and once without what hangs on the steps that are undone.
/// </summary>
public sealed class SentBackTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly DateTimeOffset Begin = new(2036, 5, 4, 8, 0, 0, TimeSpan.FromHours(2));

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    [Theory]
    [MemberData(nameof(Maps))]
    public void To_a_step_it_asks_for_what_a_job_asks_that_never_closed_it(string map)
    {
        for (var seed = 0; seed < 5; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            var closed = told.Job().Refitted.Keys.Order(StringComparer.Ordinal).ToList();
            if (closed.Count == 0)
            {
                continue;
            }

            var step = closed[told.Random.Next(closed.Count)];
            var again = told.Job().AgainFrom(step);
            Assert.Contains(step, again);
            var sent = told.Job(_ => true, new SentBack(null, step, "Seen on the way."));
            var never = told.Job(said => !said.Back || (said.Of.Count > 0 && !said.Of.Any(again.Contains)));
            Assert.Equal(Asks(never, told), Asks(sent, told));
        }
    }

    [Theory]
    [MemberData(nameof(Maps))]
    public void To_find_it_asks_for_what_a_job_asks_that_never_closed_anything(string map)
    {
        for (var seed = 0; seed < 5; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed)) { AllToolsTold = true };
            told.TakeApart();
            told.Back();
            var job = told.Job();
            var open = job.Removed.Keys.Where(id => !job.Refitted.ContainsKey(id)).ToHashSet(StringComparer.Ordinal);
            open = open.Any(id => told.Map[id].Kind == OperationKind.Open) ? open : [];
            SentBack toFind = new(null, null, "It is something else.");
            Payload[] anew = [told.Decision, told.Route, .. told.Plan.Removal.Where(a => !open.Contains(a.Id)).Select(a => new StepDone(WorkPhase.Apart, a.Id, told.Map[a.Id].Fasteners.Count > 0 ? 90 : null, []))];
            bool Stays(Said said) => said.Of.Count == 0 ? !said.End : !said.Back && said.Of.All(open.Contains);
            foreach (Payload[] then in new Payload[][] { [], anew })
            {
                Assert.Equal(Asks(told.Job(Stays, [toFind, .. then]), told), Asks(told.Job(_ => true, [toFind, .. then]), told));
            }
        }
    }

    /// <summary>What nobody told back is still in or under the vehicle, wherever the job is sent.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void A_tool_that_nobody_told_back_is_asked_for_wherever_the_job_is_sent(string map)
    {
        for (var seed = 0; seed < 3; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            var before = NotBack(told.Job());
            Assert.Subset(NotBack(told.Job(_ => true, new SentBack(null, null, "It is something else."))), before);
            foreach (var step in told.Job().Refitted.Keys)
            {
                Assert.Subset(NotBack(told.Job(_ => true, new SentBack(null, step, "Seen on the way."))), before);
            }
        }
    }

    [Fact]
    public void Stands_under_a_vehicle_that_is_raised_again_are_asked_for_again()
    {
        var told = new RandomJob(Library.Map("tideway-starter"), new Random(1)) { AllToolsTold = true, All = true };
        told.TakeApart();
        told.Back();
        Assert.Empty(NotBack(told.Job()));
        var again = told.Job(_ => true, new SentBack("five-starts", "main-nut", "Loose?"));
        Assert.Superset(new HashSet<string> { "stands", "chocks" }, NotBack(again));
        // It is told what must be opened first, until something is closed again.
        Assert.Superset(new HashSet<string> { "raised", "negative-off", "main-nut" }, again.OpenAgain.ToHashSet());
        Assert.Equal(again.OpenAgain, told.Plan.Removal.Select(a => a.Id).Where(again.OpenAgain.Contains));
        Assert.Empty(told.Job(_ => true, new SentBack("five-starts", "main-nut", "Loose?"), new StepDone(WorkPhase.Refit, "main-nut", null, [])).OpenAgain);
        Assert.Empty(NotBack(told.Job(_ => true, new SentBack("five-starts", null, "Not the starter?"))));
        Payload[] anew = [told.Decision, told.Route, .. told.Plan.Removal.Select(a => new StepDone(WorkPhase.Apart, a.Id, null, []))];
        Assert.Superset(new HashSet<string> { "stands", "chocks" }, NotBack(told.Job(_ => true, [new SentBack("five-starts", null, "Not the starter?"), .. anew])));
    }

    private static HashSet<string> NotBack(Job job) => [.. job.ToolsLeft.Select(t => t.Tool).Where(t => !job.ToolsBack.ContainsKey(t))];

    // Everything a job can ask for, in words.
    private static List<string> Asks(Job job, RandomJob told)
    {
        List<string> asks = [$"stage {job.Current}", .. job.MissingFromProof.Order(StringComparer.Ordinal), .. Refit.Order(job).Where(id => !job.Refitted.ContainsKey(id)).Select(id => $"left {id}")];
        asks.AddRange(NotBack(job).Order(StringComparer.Ordinal).Select(t => $"tool {t}"));
        asks.AddRange(job.NotCarried.Select(p => $"piece {p.Id}"));
        asks.AddRange(job.SecondsMissing.Select(s => $"second {s.Why}"));
        asks.AddRange(job.OpenTimers.Select(t => $"wait {t.Payload.Step} {t.Payload.Kind}"));
        asks.AddRange(job.Count.Accounts.OrderBy(a => a.Step, StringComparer.Ordinal).ThenBy(a => a.Fastener.Id, StringComparer.Ordinal).Select(a => $"count {a.Step} {a.Fastener.Id} out {a.Out} back {a.Back}+{a.Renewed}+{a.Missing} in place {a.InPlace} gone {a.Gone} signed {job.IsSigned(a)}"));
        asks.AddRange(job.Count.Pieces.OrderBy(p => p.Step, StringComparer.Ordinal).Select(p => $"on {p.Step} {p.Piece.What} {p.On}"));
        foreach (var id in job.Removed.Keys.Where(id => !job.Refitted.ContainsKey(id)).Order(StringComparer.Ordinal))
        {
            foreach (var f in job.FastenersOf(id))
            {
                var expected = FastenerCount.Expected(job, id, f);
                asks.Add($"goes back {id} {f.Id}: {expected.Back}+{expected.Renewed}+{expected.Missing}, counted {job.Counted(WorkPhase.Refit, id, f.Id)}, tightened {job.Torques.Any(t => t.Payload.Step == id && t.Payload.Fastener == f.Id)}");
            }
        }

        // What a step would be refused for.
        foreach (var id in told.Plan.Refit.Select(a => a.Id).Where(id => !job.Refitted.ContainsKey(id)))
        {
            asks.Add($"{id}: {JobRules.OutOfOrder(job, new StepDone(WorkPhase.Refit, id, null, []), Begin.AddDays(9))}");
        }

        return asks;
    }
}
