using Screeline.Core.Access;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>All the pins of a picture; the latest entry counts.</summary>
/// <param name="Picture">The entry of the picture.</param>
/// <param name="Pins">All of them.</param>
public sealed record PinsSet(Guid Picture, IReadOnlyList<Pin> Pins) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("pins-set", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => Picture.ToString();

    /// <inheritdoc/>
    public override string Describe(Job job) => $"{Pins.Count} pins on a picture";

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        if (job.Pictures.All(x => x.Entry.Id != Picture))
        {
            faults.Add("picture", "no such picture");
        }

        if (Pins.Count > 200)
        {
            faults.Add("pins", "at most 200");
        }

        foreach (var (pin, i) in Pins.Select((pin, i) => (pin, i)))
        {
            if (pin.Points.Count < 1 || pin.Points.Count > (pin.Kind == PinKind.Wire ? 50 : 1))
            {
                faults.Add($"pins[{i}].points", pin.Kind == PinKind.Wire ? "a wire has 1 to 50 points" : "one point");
            }

            if (pin.Points.Any(x => x.X is < 0 or > 100 || x.Y is < 0 or > 100))
            {
                faults.Add($"pins[{i}].points", "each from 0 to 100");
            }

            faults.Text($"pins[{i}].label", pin.Label, 100);
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(this);
}

public sealed partial class Job
{
    private readonly Dictionary<Guid, IReadOnlyList<Pin>> _pins = [];

    internal void Record(PinsSet p) => _pins[p.Picture] = p.Pins;
}
