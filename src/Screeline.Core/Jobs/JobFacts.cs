using Screeline.Core.Access;

namespace Screeline.Core.Jobs;

/// <summary>Minutes at one kind of place: what was planned and what was spent on the steps whose time is known.</summary>
/// <param name="Place">A kind of <see cref="Position"/>, its id when it has none, or <see cref="Waiting"/>.</param>
/// <param name="Planned">Expected minutes of those steps.</param>
/// <param name="Spent">Minutes they took.</param>
/// <param name="Unplanned">Minutes of steps that nobody had estimated: recorded as they went.</param>
public sealed record PlaceMinutes(string Place, decimal Planned, decimal Spent, decimal Unplanned = 0)
{
    /// <summary>Waits that ran: cooling, soaking, curing.</summary>
    public const string Waiting = "waiting";
}

/// <summary>Something found otherwise than expected, for whoever does this job next.</summary>
/// <param name="Step">The operation.</param>
/// <param name="Fastener">The group.</param>
/// <param name="Found">How.</param>
/// <param name="Count">How many.</param>
/// <param name="Size">The drive that fitted, or null.</param>
public sealed record LearnedFinding(string Step, string Fastener, FastenerState Found, int Count, string? Size);

/// <summary>
/// What a closed job adds to the shop's experience: worked out from its entries alone, so that it can be thrown away and made
/// again.
/// </summary>
/// <param name="Map">The map's id, or null when nothing came apart.</param>
/// <param name="Repair">The repair by the family's id, or null.</param>
/// <param name="Act">On what ground.</param>
/// <param name="PartCondemned">Whether the motor itself was exchanged.</param>
/// <param name="Cause">What killed it, or null.</param>
/// <param name="Expected">Minutes of the way taken, there and back, as planned.</param>
/// <param name="Planned">Of those, of the steps whose time is known.</param>
/// <param name="Spent">What those took.</param>
/// <param name="Waited">Minutes from the first thing it waited for being said to its end, over the whole job.</param>
/// <param name="Places">Minutes by kind of place.</param>
/// <param name="Findings">What was found otherwise.</param>
/// <param name="Unplanned">Minutes of steps that nobody had estimated.</param>
/// <param name="CameOff">What came off in order, "word@place", as far as words are known for it.</param>
public sealed record JobFacts(
    string? Map, string? Repair, DecisionAct? Act, bool PartCondemned, string? Cause, decimal Expected, decimal Planned, decimal Spent, decimal Waited,
    IReadOnlyList<PlaceMinutes> Places, IReadOnlyList<LearnedFinding> Findings, decimal Unplanned, IReadOnlyList<string> CameOff)
{
    /// <summary>The facts of a closed job.</summary>
    public static JobFacts FromJob(Job job)
    {
        var decision = job.Decision?.Payload;
        var places = new Dictionary<string, (decimal Planned, decimal Spent, decimal Unplanned)>(StringComparer.Ordinal);
        void Add(string place, decimal planned, decimal spent, decimal unplanned = 0)
        {
            var so = places.GetValueOrDefault(place);
            places[place] = (so.Planned + planned, so.Spent + spent, so.Unplanned + unplanned);
        }

        var map = job.Map;
        foreach (var time in map is null ? [] : WorkTime.InJob(job))
        {
            var position = map!.Step(time.Action)?.Position ?? map[time.Action].Position;
            var estimate = PlannedMinutes(map, time);
            Add(map.Positions.First(p => p.Id == position).Kind ?? position, estimate, estimate > 0 ? time.Minutes : 0, estimate > 0 ? 0 : time.Minutes);
        }

        var (planned, spent) = (places.Values.Sum(p => p.Planned), places.Values.Sum(p => p.Spent));
        var waits = job.Timers.Sum(t => (decimal)Math.Clamp((t.EndsAt - t.StartedAt).TotalMinutes, 0, 24 * 60));
        if (waits > 0)
        {
            Add(PlaceMinutes.Waiting, job.Timers.Sum(t => t.Payload.Minutes), Math.Round(waits, 1));
        }

        return new JobFacts(
            map is null || job.IsRecorded ? null : map.Id, decision?.RepairId, decision?.Act,
            decision is { Act: not DecisionAct.Elsewhere } && (decision.RepairId is null || job.System.Repair(decision.RepairId) is { IsMotor: true }),
            job.Cause?.Cause, ExpectedOf(job), Math.Round(planned, 2), Math.Round(spent, 2), WaitedFor(job),
            [.. places.Select(p => new PlaceMinutes(p.Key, Math.Round(p.Value.Planned, 2), Math.Round(p.Value.Spent, 2), Math.Round(p.Value.Unplanned, 2)))],
            map is null ? [] : [.. job.Found.Select(f => new LearnedFinding(f.Payload.Step, f.Payload.Fastener, f.Payload.Found, f.Payload.Count, f.Payload.Size))],
            Math.Round(places.Values.Sum(p => p.Unplanned), 2), CameOffIn(job));
    }

    // In the words of the trade: what another vehicle's next step may be.
    private static IReadOnlyList<string> CameOffIn(Job job) => job.Map is not { } map || job.Route is not { } route ? [] :
    [
        .. from id in route.Payload.Removal
           let o = map.Operation(id)
           where o is { Kind: OperationKind.Open } && job.Removed.ContainsKey(id) && job.System.Frame.Find(id) is null
           let word = job.Words.About(o.Title, job.System.Id)
           where word is not null
           select $"{word.Id}@{map.Positions.FirstOrDefault(p => p.Id == o.Position)?.Kind ?? ""}",
    ];

    private static decimal PlannedMinutes(AccessMap map, WorkTime time) =>
        map.Step(time.Action)?.Minutes.Mean ?? (time.Phase == WorkPhase.Refit ? map[time.Action].CloseMinutes.Mean : map[time.Action].Minutes.Mean);

    private static decimal ExpectedOf(Job job) =>
        job.Map is { } map && job.Route?.Payload is { } route ? Math.Round(WalkCost.Price(map, route.Removal, route.Refit).Sum(a => a.MoveMinutes + a.ToolChangeMinutes + a.Work.Mean), 2) : 0;

    // Parts, outside work, people: from the word that it waits to the word that it does no longer, or to the next thing done.
    private static decimal WaitedFor(Job job)
    {
        var total = 0.0;
        DateTimeOffset? since = null;
        foreach (var entry in job.History.Where(h => h.WithdrawnBy is null).Select(h => h.Entry))
        {
            if (since is { } from && entry.Payload is not (NoteAdded or PartChosen or PictureTaken or SeenBeside or SeenSettled or WorkClocked))
            {
                total += Math.Max(0, (entry.Draft.OccurredAt - from).TotalMinutes);
                since = null;
            }

            if (entry.Payload is WaitingSet { For: not null })
            {
                since = entry.Draft.OccurredAt;
            }
        }

        return Math.Round((decimal)total, 1);
    }
}
