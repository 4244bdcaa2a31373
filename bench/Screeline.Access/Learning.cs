using System.Diagnostics;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Planning;

namespace Screeline.Access;

/// <summary>How good the plan is that was learned from 1, 2, 4 and 8 jobs, against the best way of what was ever opened.</summary>
public static class Learning
{
    private sealed record Way(string Title, Worker Worker, bool OnlyThis, bool Asked);

    public static void Print(int seed, int count)
    {
        Way[] ways = [new("near-best", Worker.NearBest, false, false), new("random, 15 % too much", Worker.Random, false, false), new("… with “only this” at every third", Worker.Random, true, false), new("… and three questions a job", Worker.Random, true, true)];
        foreach (var way in ways)
        {
            var (over, gaps) = (new SortedDictionary<int, List<double>>(), 0);
            var questions = new List<double>();
            foreach (var k in Enumerable.Range(seed, count))
            {
                var vehicle = HiddenVehicle.Make(k, 18, 26);
                var jobs = new List<WorkedJob>();
                for (var n = 1; n <= 8; n++)
                {
                    if (vehicle.Work(way.Worker, n) is not { } job)
                    {
                        n--;
                        continue;
                    }

                    jobs.Add(way.OnlyThis ? vehicle.WithOnlyThis(job) : job);
                    if (way.Asked)
                    {
                        var watch = Stopwatch.StartNew();
                        var asked = Questions.Worth(vehicle.Learn(jobs), jobs[^1], HiddenVehicle.Frame, HiddenVehicle.States, TimeSpan.FromSeconds(1));
                        questions.Add(watch.Elapsed.TotalSeconds);
                        foreach (var q in asked)
                        {
                            jobs[^1] = jobs[^1] with { Words = [.. jobs[^1].Words, .. vehicle.Answer(jobs[^1], q.Step)] };
                        }
                    }

                    if (n is 1 or 2 or 4 or 8)
                    {
                        // The learned map with the vehicle's own minutes, so that only the way is compared.
                        var learned = vehicle.Learn(jobs);
                        learned = MapChanges.Placed(learned, [.. learned.Operations.Select(o => o with { Minutes = vehicle.Map[o.Id].Minutes, Close = o.Close with { Minutes = vehicle.Map[o.Id].CloseMinutes } })], learned.RefitSteps, learned.Positions, [], learned.Targets);
                        var answer = RoutePlanner.Plan(new PlanRequest(learned, learned.Targets[0].Operation));
                        gaps += answer.Proven ? 0 : 1;
                        var best = vehicle.BestOf(jobs.SelectMany(j => j.Opened.Select(o => o.Id)).ToHashSet(StringComparer.Ordinal))!.Value;
                        (over.TryGetValue(n, out var list) ? list : over[n] = []).Add((double)(answer.Routes[0].ExpectedMinutes / best - 1));
                    }
                }
            }

            Console.WriteLine($"{way.Title}: " + string.Join("; ", over.Select(o => $"{o.Key} {(o.Key == 1 ? "job" : "jobs")} mean {o.Value.Average() * 100:0.0} %, within 5 % {100.0 * o.Value.Count(x => x <= 0.05) / o.Value.Count:0} %"))
                + (questions.Count > 0 ? $"; questions longest {questions.Max():0.0} s, mean {questions.Average():0.00} s" : "") + (gaps > 0 ? $"; {gaps} plans not proven" : ""));
        }
    }

    /// <summary>Time to learn from 30 jobs of about 40 operations.</summary>
    public static void PrintTime(int seed)
    {
        var random = new Random(seed);
        var vehicle = HiddenVehicle.Make(seed, 18, 26);
        var parts = Enumerable.Range(0, 46).Select(i => vehicle.Map.Operations[^1] with { Id = $"p{i:00}", Cautions = [], Position = "bay", Needs = Needs.Nothing }).ToList();
        // Any order in, any order back, a word at every third: no vehicle is like that, and none is harder to learn.
        var jobs = Enumerable.Range(0, 30).Select(n =>
        {
            List<Operation> opened = [.. parts.OrderBy(_ => random.Next()).Take(40)];
            List<string> closed = [.. opened.Select(o => o.Id).OrderBy(_ => random.Next())];
            return new WorkedJob
            {
                Job = Guid.NewGuid(), On = new DateOnly(2036, 1, 1).AddDays(n), By = ["worker"], Opened = opened, Closed = closed,
                Words = [.. opened.Where((_, i) => i % 3 == 2).Select(o => new LearnedWord(Guid.NewGuid(), "worker", default, WordKind.Only, o.Id, [.. opened.TakeWhile(x => x.Id != o.Id).Select(x => x.Id)]))],
            };
        }).ToList();
        var times = new List<double>();
        for (var i = 0; i < 20; i++)
        {
            var watch = Stopwatch.StartNew();
            vehicle.Learn(jobs);
            times.Add(watch.Elapsed.TotalMilliseconds);
        }

        times.Sort();
        Console.WriteLine($"Learning from 30 jobs of {jobs.Average(j => j.Opened.Count):0} operations: median {times[10]:0.0} ms, longest {times[^1]:0.0} ms");
    }
}
