using Screeline.Core.Access;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;

namespace Screeline.Core.Proof;

/// <summary>Where a failed check leads.</summary>
/// <param name="Step">The action of the way back to do again; null for Find.</param>
/// <param name="Title">What is done again, or what is decided anew.</param>
/// <param name="Why">Why there.</param>
/// <param name="Again">How many ticks of the way back that takes away.</param>
public sealed record ProofLead(string? Step, string Title, string Why, int Again)
{
    /// <summary>
    /// Where a failed check leads, the likeliest first: to the steps that the map suspects, to the step that had the plug off
    /// which now does not work, to Find. Nothing while it is not failed.
    /// </summary>
    public static IReadOnlyList<ProofLead> FromCheck(Job job, ProofCheck check)
    {
        if (job.Held(check) != false || job.HandedBack is not null)
        {
            return [];
        }

        var leads = new List<ProofLead>();
        if (job.Map is { } map && job.Route is not null)
        {
            foreach (var suspect in map.Suspects.Where(s => s.Check == check.Id && job.Refitted.ContainsKey(s.Step)))
            {
                leads.Add(new ProofLead(suspect.Step, Words(map, suspect.Step), suspect.Why, job.AgainFrom(suspect.Step).Count));
            }

            if (check.Id.StartsWith("works-", StringComparison.Ordinal) && job.Removed.Keys.Where(id => check.Id.StartsWith($"works-{id}-", StringComparison.Ordinal) && job.Refitted.ContainsKey(id)).MaxBy(id => id.Length) is { } unplugged)
            {
                leads.Add(new ProofLead(unplugged, Words(map, unplugged), "It was unplugged there.", job.AgainFrom(unplugged).Count));
            }
        }

        static string Words(AccessMap map, string id) => map.Operation(id)?.UndoneWords ?? Refit.Title(map, id);
        leads.Add(new ProofLead(null, "Back to Find", "Every reading stays; this one speaks too.", job.Refitted.Count));
        return leads;
    }
}
