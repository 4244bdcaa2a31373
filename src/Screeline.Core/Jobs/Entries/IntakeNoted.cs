using System.Text.Json.Serialization;
using Screeline.Core.People;

namespace Screeline.Core.Jobs;

/// <summary>What a vehicle's meter counts.</summary>
public enum MeterUnit
{
    /// <summary>Kilometres.</summary>
    Kilometres,
    /// <summary>Miles.</summary>
    Miles,
    /// <summary>Hours of running.</summary>
    Hours,
}

/// <summary>What a vehicle's meter showed.</summary>
/// <param name="Number">The number, 0 to ten million.</param>
/// <param name="Unit">Of what.</param>
public sealed record MeterReading(decimal Number, MeterUnit Unit)
{
    /// <summary>The unit as it is written.</summary>
    public static string Symbol(MeterUnit unit) => unit switch { MeterUnit.Kilometres => "km", MeterUnit.Miles => "mi", _ => "h" };

    /// <inheritdoc/>
    public override string ToString() => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{Number:0.#} {Symbol(Unit)}");
}

/// <summary>What was written down when the vehicle came in. Everything may stay open.</summary>
/// <param name="Damage">Damage that was there already, a line each.</param>
/// <param name="Plate">Plate or fleet number, or null.</param>
/// <param name="Meter">Mileage or hours; null when nobody read it.</param>
/// <param name="Contact">Whom to call, or null.</param>
public sealed record IntakeNoted(
    IReadOnlyList<string> Damage,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Plate = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] MeterReading? Meter = null,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? Contact = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Decision("intake-noted", withItself: Clash.Always, withObservations: Clash.Never, by: Role.Apprentice);

    /// <inheritdoc/>
    public override string Subject() => "";

    /// <inheritdoc/>
    public override string Describe(Job job) => string.Join(", ", new[] { "taken in", Plate, Meter?.ToString(), Damage.Count > 0 ? $"{Damage.Count} damaged before" : null }.OfType<string>());

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Text("plate", Plate, 40);
        faults.Text("contact", Contact, 200);
        if (Meter is { Number: < 0 or > 10_000_000 })
        {
            faults.Add("meter.number", "0 to 10,000,000");
        }

        if (Damage.Count > 50)
        {
            faults.Add("damage", "at most 50 lines");
        }

        for (var i = 0; i < Damage.Count; i++)
        {
            faults.Text($"damage[{i}]", Damage[i], 200, needed: true);
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    /// <summary>What was written down when it came in; null when nothing was.</summary>
    public Recorded<IntakeNoted>? Intake { get; private set; }

    internal void Record(Entry entry, IntakeNoted p) => Intake = new(entry, p);
}
