using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;

namespace Screeline.Core.Proof;

/// <summary>
/// Checks that follow from a job itself: its complaint tried again as it was reported, what was unplugged on the way, and what
/// lost its power or its place. Common practice, like most of a family's own.
/// </summary>
public static class JobChecks
{
    /// <summary>The id of the check that repeats the complaint.</summary>
    public const string Complaint = "complaint-again";

    private static readonly IReadOnlyList<Choice> GoneOrNot = [new("gone", "Gone"), new("still-there", "Still there")];
    private static readonly IReadOnlyList<Choice> WorksOrNot = [new("works", "Works"), new("does-not", "Does not")];
    private static readonly IReadOnlyList<Choice> DoneOrNot = [new("restored", "Restored"), new("not-yet", "Not yet")];

    // A plain complaint, told without circumstances, that a check of the family tries anyway.
    private static bool ShownByAnother(FaultSystem system, ComplaintNoted complaint) =>
        complaint is { Tried: <= 1, When.Length: 0 } && complaint.Behaviours.All(b => system.Checks.Any(c => c.Moment == ProofMoment.End && c.Shows.Contains(b)));

    /// <summary>The checks of a job, in the order in which they are taken.</summary>
    public static IReadOnlyList<ProofCheck> ForJob(Job job)
    {
        var checks = new List<ProofCheck>();
        if (job.Complaint?.Payload is { } complaint && !ShownByAnother(job.System, complaint))
        {
            var seen = string.Join(", ", job.System.Behaviours.Where(b => complaint.Behaviours.Contains(b.Id)).Select(b => b.Title.ToLowerInvariant()));
            var tries = Math.Max(1, complaint.Tried);
            checks.Add(Check(Complaint, $"The complaint again, as it was reported: {seen}", GoneOrNot, "gone",
                $"{(tries == 1 ? "Once" : $"{tries} times")}, {(complaint.When.Length > 0 ? $"as told: {complaint.When.TrimEnd('.').ToLowerInvariant()}" : "hot and cold")}.{(complaint.Tried == 0 ? "" : $" Then it failed {complaint.Failed} of {complaint.Tried} times.")}"));
        }

        if (job.Map is { } map)
        {
            foreach (var (step, i, piece) in job.Removed.Values.OrderBy(r => r.Entry.Position).SelectMany(r => (map.Operation(r.Payload.Step)?.Off ?? []).Select((piece, i) => (r.Payload.Step, i, Piece: piece))).Where(x => x.Piece.Try is not null))
            {
                checks.Add(Check($"works-{step}-{i}", piece.Try!, WorksOrNot, "works", $"Because it was off on the way: {piece.What}.", [step]));
            }

            foreach (var restore in map.Restores)
            {
                List<string> after = [.. job.Removed.Keys.Where(id => id == restore.After || map.Operation(id)?.Provides.Contains(restore.After) == true)];
                if (after.Count > 0)
                {
                    checks.Add(Check($"restore-{restore.Id}", restore.What, DoneOrNot, "restored", restore.How, after));
                }
            }
        }

        return checks;
    }

    private static ProofCheck Check(string id, string title, IReadOnlyList<Choice> choices, string good, string how, IReadOnlyList<string>? follows = null) => new()
    {
        FollowsFrom = follows ?? [],
        Id = id, Title = title, Choices = choices, GoodChoice = good, How = how, Moment = ProofMoment.End, LimitBy = "common practice",
    };
}
