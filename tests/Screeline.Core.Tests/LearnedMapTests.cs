using Screeline.Access;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Planning;

namespace Screeline.Core.Tests;

/// <summary>
/// What a map learned from jobs allows, held against vehicles whose rules only their workers know: random maps with alternatives, things done once, steps of the
/// way back and a frame; random valid jobs; truthful words. (Monotone functions from positive examples and questions: D. Angluin, Queries and Concept Learning,
/// Machine Learning 2, 1988; the invariants follow from it.)
/// </summary>
public sealed class LearnedMapTests
{
    private const int Maps = 2000;

    [Fact]
    public void Every_order_that_was_worked_is_valid_in_the_learned_map_and_every_walk_valid_there_is_valid_on_the_vehicle()
    {
        var walks = 0;
        Parallel.For(0, Maps, seed =>
        {
            var (vehicle, jobs, random) = Worked(seed, 1 + seed % 4);
            var learned = vehicle.Learn(jobs);
            var target = learned.Targets[0].Operation;
            foreach (var job in jobs)
            {
                Assert.True(WalkChecker.Fault(learned, target, [.. job.Opened.Select(o => o.Id)], job.Closed) is not { } fault, $"seed {seed}: {WalkChecker.Fault(learned, target, [.. job.Opened.Select(o => o.Id)], job.Closed)}");
            }

            for (var i = 0; i < 20; i++)
            {
                var (removal, refit) = RandomWalk(learned, target, random);
                if (removal.Count == 0)
                {
                    continue;
                }

                Interlocked.Increment(ref walks);
                Assert.True(WalkChecker.Fault(vehicle.Map, target, removal, refit) is null, $"seed {seed}: {WalkChecker.Fault(vehicle.Map, target, removal, refit)}; in {string.Join(' ', removal)}; back {string.Join(' ', refit)}");
            }

            var best = RoutePlanner.Best(learned);
            Assert.Null(WalkChecker.Fault(vehicle.Map, best));
        });
        Assert.True(walks > 2 * Maps, $"{walks} walks");
    }

    [Fact]
    public void Taking_back_a_job_or_a_word_leaves_no_trace()
    {
        Parallel.For(0, Maps / 4, seed =>
        {
            var (vehicle, jobs, random) = Worked(seed, 2 + seed % 3);
            var from = vehicle.Learn(jobs).Learned!;
            var gone = jobs[random.Next(jobs.Count)];
            string Text(LearnedFrom learned) => AccessMapWriter.Write(Learner.Learn(MapChanges.Learned(vehicle.Head, learned), HiddenVehicle.Frame, HiddenVehicle.States));
            Assert.Equal(AccessMapWriter.Write(vehicle.Learn([.. jobs.Where(j => j != gone)])), Text(from.Without(gone.Job)));

            if (jobs.SelectMany(j => j.Words).Where(w => w.Kind != WordKind.Because).Select(w => w.Entry).Distinct().ToList() is { Count: > 0 } entries)
            {
                var word = entries[random.Next(entries.Count)];
                Assert.Equal(AccessMapWriter.Write(vehicle.Learn([.. jobs.Select(j => j with { Words = [.. j.Words.Where(w => w.Entry != word)] })])), Text(from.WithoutWord(word)));
            }
        });
    }

    [Fact]
    public void A_learned_map_is_read_as_it_was_written_and_stands_up_to_the_checks_of_all_maps()
    {
        Parallel.For(0, Maps / 10, seed =>
        {
            var (vehicle, jobs, _) = Worked(seed, 1 + seed % 4);
            var learned = vehicle.Learn(jobs);
            var text = AccessMapWriter.Write(learned);
            var reading = AccessMapReader.Read(text, new Dictionary<string, IReadOnlyList<string>> { ["live"] = HiddenVehicle.States("live") });
            Assert.Empty(reading.Faults);
            Assert.Equal(text, AccessMapWriter.Write(reading.Map!));
            Assert.Equal(text, AccessMapWriter.Write(Learner.Learn(reading.Map!, HiddenVehicle.Frame, HiddenVehicle.States)));
        });
    }

    [Fact]
    public void No_example_and_no_word_loosens_what_place_and_dangers_ask_for()
    {
        Parallel.For(0, Maps / 4, seed =>
        {
            var (vehicle, jobs, _) = Worked(seed, 2);
            // Somebody swears that nothing was in the way of anything.
            jobs = [.. jobs.Select(j => j with { Words = [.. j.Words, .. j.Opened.Select(o => new LearnedWord(Guid.NewGuid(), "worker", default, WordKind.Only, o.Id, []))] })];
            var learned = vehicle.Learn(jobs);
            foreach (var o in learned.Operations)
            {
                Assert.True(o.Position != "under" || !o.Needs.Hold(id => id != "raised"), $"seed {seed}: {o.Id} under it without stands");
                Assert.True(!o.Cautions.Contains("live") || !o.Needs.Hold(id => id != "negative"), $"seed {seed}: {o.Id} live");
                Assert.True(o.Kind == OperationKind.Once || o.Position != "under" || !o.CloseWhile.Hold(id => id != "raised"), $"seed {seed}: {o.Id} goes back without stands");
            }
        });
    }

    [Fact]
    public void The_more_jobs_the_shorter_the_plan()
    {
        Parallel.For(0, 200, seed =>
        {
            var (vehicle, jobs, _) = Worked(seed, 4);
            var planned = Enumerable.Range(1, 4).Select(n => RoutePlanner.Best(vehicle.Learn([.. jobs.Take(n)]))).ToList();
            var own = jobs.Select(j => Price(vehicle.Learn(jobs), j)).ToList();
            Assert.True(planned[3].ExpectedMinutes <= own.Min() + 0.001m, $"seed {seed}: {planned[3].ExpectedMinutes} planned, {own.Min()} worked");
        });
    }

    private static decimal Price(AccessMap map, WorkedJob job) => WalkCost.Price(map, job.Opened.Select(o => o.Id), job.Closed).Sum(a => a.MoveMinutes + a.ToolChangeMinutes + a.Work.Mean);

    private static (HiddenVehicle Vehicle, List<WorkedJob> Jobs, Random Random) Worked(int seed, int count)
    {
        var vehicle = HiddenVehicle.Make(seed, 3, 11, small: true);
        var (jobs, random) = (new List<WorkedJob>(), new Random(seed));
        for (var tries = 0; jobs.Count < count && tries < 50; tries++)
        {
            if (vehicle.Work(tries % 3 == 2 ? Worker.NearBest : Worker.Random, jobs.Count) is { } job)
            {
                job = seed % 2 == 0 ? vehicle.WithOnlyThis(job, 2) : job;
                // Some answer what they are asked at the end, about any part.
                foreach (var part in seed % 3 == 0 ? job.Opened.OrderBy(_ => random.Next()).Take(2).Select(o => o.Id).ToList() : [])
                {
                    job = job with { Words = [.. job.Words, .. vehicle.Answer(job, part)] };
                }

                jobs.Add(job);
            }
        }

        return (vehicle, jobs, random);
    }

    // Any order that the map allows, to the target and back; empty where it ran into a corner.
    private static (List<string> Removal, List<string> Refit) RandomWalk(AccessMap map, string target, Random random)
    {
        var (removal, done) = (new List<string>(), new HashSet<string>(StringComparer.Ordinal));
        while (map.Operations.Where(o => WalkRules.MayRemove(o, done)).OrderBy(_ => random.Next()).FirstOrDefault() is { } next)
        {
            removal.Add(next.Id);
            done.Add(next.Id);
            if (next.Id == target)
            {
                break;
            }
        }

        if (!done.Contains(target))
        {
            return ([], []);
        }

        var (progress, refit) = (new RefitProgress(done, new HashSet<string>(), new HashSet<string>()), new List<string>());
        var actions = WalkRules.RefitActions(map, done);
        while (actions.Where(id => !refit.Contains(id) && WalkRules.MayRefit(map, id, progress)).OrderBy(_ => random.Next()).FirstOrDefault() is { } next)
        {
            refit.Add(next);
            progress = WalkRules.After(map, next, progress);
        }

        return refit.Count == actions.Count ? (removal, refit) : ([], []);
    }
}
