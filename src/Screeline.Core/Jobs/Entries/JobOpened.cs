using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>The first entry of every job.</summary>
/// <param name="Vehicle">The vehicle's id.</param>
/// <param name="VehicleName">Its name at that time.</param>
/// <param name="Model">Its model at that time, which picks the access map.</param>
/// <param name="NominalVolts">12 or 24.</param>
/// <param name="Family">starting, charging …</param>
/// <param name="Words">The customer's words.</param>
/// <param name="PromisedAt">When it is promised, or null.</param>
/// <param name="ComebackOf">The closed job whose fault has come back, or null.</param>
public sealed record JobOpened(
    Guid Vehicle, string VehicleName, string Model, decimal NominalVolts, string Family, string Words, DateTimeOffset? PromisedAt,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] Guid? ComebackOf = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("job-opened", withItself: Clash.Always, withObservations: Clash.Always, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => "job opened";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("vehicle_name", VehicleName, 200, needed: true);
        faults.Text("model", Model, 200);
        faults.Text("words", Words);
        faults.Time("promised_at", PromisedAt);
        if (NominalVolts is not (12 or 24))
        {
            faults.Add("nominal_volts", "12 or 24");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => job.Head > 1 ? "The job is open already." : null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry)
    {
        // The fold begins with it.
    }
}
