namespace Screeline.Core.Jobs;

/// <summary>
/// What lists and searches show of a job. It is worked out from the entries and from nothing else, so that it can be thrown
/// away and made again.
/// </summary>
/// <param name="Vehicle">The vehicle's id.</param>
/// <param name="VehicleName">Its name when the job was opened.</param>
/// <param name="Model">Its model.</param>
/// <param name="Family">The family.</param>
/// <param name="Words">The customer's words.</param>
/// <param name="Stage">Where the work is.</param>
/// <param name="Next">What is next, in a few words.</param>
/// <param name="WaitsFor">What it waits for, or null.</param>
/// <param name="WaitsUntil">When that is expected, or null.</param>
/// <param name="PromisedAt">When it is promised, or null.</param>
/// <param name="OpenedAt">When it was opened.</param>
/// <param name="ClosedAt">When it was handed back or left for good, or null.</param>
/// <param name="Disputes">How many entries are disputed.</param>
/// <param name="Line">The section line.</param>
/// <param name="Confirmed">The repair that the closed job confirmed, or null.</param>
/// <param name="NotDriven">Why the vehicle is not driven since it ended, or null.</param>
public sealed record JobSummary(
    Guid Vehicle, string VehicleName, string Model, string Family, string Words, Stage Stage, string Next, string? WaitsFor,
    DateTimeOffset? WaitsUntil, DateTimeOffset? PromisedAt, DateTimeOffset OpenedAt, DateTimeOffset? ClosedAt, int Disputes, SectionLine Line, string? Confirmed = null, string? NotDriven = null)
{
    /// <summary>The summary of a job as it stands.</summary>
    public static JobSummary FromJob(Job job)
    {
        var opened = job.Opened.Payload;
        var parked = job.Left is { } stopped && !stopped.Payload.How.Closes() ? stopped.Payload : null;
        return new JobSummary(
            opened.Vehicle, opened.VehicleName, opened.Model, opened.Family, job.Complaint?.Payload.Words ?? opened.Words,
            job.Current, job.Next, job.Waiting?.Payload.For ?? parked?.Describe(job), job.Waiting?.Payload.Until ?? parked?.Until, opened.PromisedAt,
            job.Opened.Entry.Draft.OccurredAt, job.HandedBack?.Entry.Draft.OccurredAt ?? (job.Left is { Payload.How: var how } left && how.Closes() ? left.Entry.Draft.OccurredAt : null), job.Disputes.Count, SectionLine.ForJob(job),
            job.HandedBack is null ? null : job.Decision?.Payload.RepairId,
            job.HandedBack is null && job.Left?.Payload.How.Closes() != true ? null : job.NotDriven is { Count: > 0 } reasons ? string.Join("; ", reasons) : null);
    }
}
