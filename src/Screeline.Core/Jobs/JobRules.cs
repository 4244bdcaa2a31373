using Screeline.Core.Formats;

namespace Screeline.Core.Jobs;

/// <summary>What may follow what in a job, and what an entry may say at all: what all kinds share, and what each says of itself.</summary>
public static class JobRules
{
    /// <summary>
    /// Why a payload does not fit the job as it stands; null when it does. Being out of order never makes an observation
    /// untrue: it is kept and shown as disputed.
    /// </summary>
    /// <param name="job">The job as it stands.</param>
    /// <param name="payload">What is said.</param>
    /// <param name="at">When it happened; a wait that runs then is not over.</param>
    public static string? OutOfOrder(Job job, Payload payload, DateTimeOffset at) => 
        job.HandedBack is not null && !payload.SaidWhenGone() && !(payload is EntryWithdrawn back && job.Find(back.Entry)?.Payload.SaidWhenGone() == true) ? "The job was handed back."
            : job.Left is { } left && !payload.SaidWhenGone() && payload is not (EntryWithdrawn or NoteAdded) ? $"The job was left ({left.Payload.Describe(job)}): take it up again first."
            : payload.OutOfOrder(job, at);

    /// <summary>
    /// What is wrong with a payload whatever stands before it: names that do not exist, figures that cannot be. Each fault with
    /// its path inside the payload. Such an entry is refused.
    /// </summary>
    /// <param name="job">The job before the entry.</param>
    /// <param name="payload">What is said.</param>
    /// <param name="fromFile">Whether it was said before and is told by a file.</param>
    public static IReadOnlyList<FormatFault> Malformed(Job job, Payload payload, bool fromFile = false)
    {
        var faults = new EntryFaults(fromFile);
        payload.Validate(job, faults);
        return faults.All;
    }
}
