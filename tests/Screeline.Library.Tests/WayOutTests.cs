using Screeline.Core.Access;
using Screeline.Core.Jobs;

namespace Screeline.Library.Tests;

/// <summary>From every state that a job can come to a way out exists, nothing is unaccounted for, and coming back finds it as it stood.</summary>
public sealed class WayOutTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly DateTimeOffset Later = new(2036, 6, 4, 8, 0, 0, TimeSpan.FromHours(2));

    public static TheoryData<string> Maps => [.. Library.Maps.Select(m => m.Map.Id)];

    [Theory]
    [MemberData(nameof(Maps))]
    public void Every_state_has_every_way_out_and_the_way_back(string map)
    {
        for (var seed = 100; seed < 104; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            // Broken off anywhere, not only between steps.
            var until = told.Random.Next(1, told.Told.Count + 1);
            var said = told.Told.Take(until).ToHashSet();
            var job = told.Job(said.Contains);
            foreach (var way in WaysOut.All)
            {
                foreach (bool? drivable in new bool?[] { null, false, true })
                {
                    var leaving = new JobLeft(way, "too dear", "the owner", drivable);
                    Assert.Equal(drivable == true && job.NotDriven.Count > 0, JobRules.Malformed(job, leaving).Count > 0);
                    Assert.Null(JobRules.OutOfOrder(job, leaving, Later));
                }

                var left = told.Job(said.Contains, new JobLeft(way, "too dear", null, false));
                Assert.Empty(left.Disputes.Except(job.Disputes, Same));
                Assert.Equal(State(job), State(left));
                // A way out is not taken twice, and nothing is done meanwhile.
                Assert.NotNull(JobRules.OutOfOrder(left, new JobLeft(way, null, null, null), Later));
                Assert.NotNull(JobRules.OutOfOrder(left, new ToolBack("stands"), Later));
                var summary = JobSummary.FromJob(left);
                Assert.Equal(way.Closes(), summary.ClosedAt is not null);
                Assert.NotEqual(way.Closes(), summary.WaitsFor is not null);
                Assert.Equal(way.Closes() && job.NotDriven.Count > 0, summary.NotDriven is not null);

                Assert.Null(JobRules.OutOfOrder(left, new JobResumed(null), Later));
                var back = told.Job(said.Contains, new JobLeft(way, null, null, null), new JobResumed("paid"));
                Assert.Null(back.Left);
                Assert.Equal((job.Current, job.Next), (back.Current, back.Next));
                Assert.Equal(State(job), State(back));
                Assert.NotNull(JobRules.OutOfOrder(back, new JobResumed(null), Later));
            }
        }
    }

    /// <summary>Every fastener of what is open lies in a cell, stays in its place, or was gone; every operation that came off and did not go on again is told as apart.</summary>
    [Theory]
    [MemberData(nameof(Maps))]
    public void What_is_apart_accounts_for_everything_that_came_off(string map)
    {
        for (var seed = 200; seed < 206; seed++)
        {
            var told = new RandomJob(Library.Map(map), new Random(seed));
            told.TakeApart();
            told.Back();
            var job = told.Job();
            Assert.Equal(job.OpenOperations, job.Open.Count);
            foreach (var account in job.Count.Accounts)
            {
                Assert.Equal(!account.Refitted, job.Open.Contains(account.Step));
                Assert.True(account.Refitted || account.InCell >= account.Out - account.InPlace - account.Gone, $"{account.Step}: {account}");
            }

            // Structural joints: open ones, and those closed of which nobody said a figure.
            var structural = job.Removed.Keys.SelectMany(id => job.FastenersOf(id).Where(f => f.Structural && told.Map[id].Kind == OperationKind.Open).Select(f => (id, f))).ToList();
            var figure = structural.Count(x => job.Refitted.ContainsKey(x.id) && job.TorqueOf(x.id, x.f.Id)?.Payload.HasFigure == true);
            Assert.Equal(structural.Count - figure, job.NotDriven.Count);
        }
    }

    private static readonly IEqualityComparer<Dispute> Same = EqualityComparer<Dispute>.Create((a, b) => a?.Reason == b?.Reason, d => d.Reason.GetHashCode(StringComparison.Ordinal));

    private static List<string> State(Job job) =>
    [
        .. job.Open, .. job.NotDriven, .. job.MissingFromProof, .. job.Connections.Select(c => c.Payload.What),
        .. job.Count.InTray.Select(a => $"{a.Cell} {a.Step}/{a.Fastener.Id} {a.InCell}"), .. job.Count.Pieces.Select(p => $"{p.Piece.What} {p.On}"),
        .. job.ToolsLeft.Select(t => t.Tool), .. job.LeftOvers.Select(l => l.Found.Payload.What),
    ];
}
