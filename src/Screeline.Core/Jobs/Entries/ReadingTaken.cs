using System.Text.Json.Serialization;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Core.Proof;

namespace Screeline.Core.Jobs;

/// <summary>A reading or an answer to a test.</summary>
/// <param name="Test">The test.</param>
/// <param name="Value">The number, or null.</param>
/// <param name="Choice">The answer, or null.</param>
/// <param name="Celsius">The temperature at the vehicle, °C, −40 to 60; null where nobody said.</param>
public sealed record ReadingTaken(string Test, Figure? Value, string? Choice, [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] double? Celsius = null) : Payload
{
    /// <summary>The kind.</summary>
    public static EntryKind EntryKind { get; } = EntryKind.Observation("reading-taken", withItself: Clash.SameSubject, by: Role.Apprentice);

    /// <summary>Most readings that stand in a job: each is gone through for every fault.</summary>
    public const int MostReadings = 300;

    /// <inheritdoc/>
    public override string Subject() => Test;

    /// <inheritdoc/>
    public override string Describe(Job job) => job.System.Test(Test) is { } test ? $"{test.Title}: {ProofSheet.AnswerWords(test, Value, Choice)}" : Test;

    /// <inheritdoc/>
    protected internal override void Validate(Job job, EntryFaults faults)
    {
        faults.Answer(job, job.System.Test(Test), "test", Test, Value, Choice);
        faults.Temperature(Celsius);
        if (job.Readings.Count >= MostReadings)
        {
            faults.Add("test", $"a job holds at most {MostReadings} readings: withdraw some");
        }
    }

    /// <inheritdoc/>
    protected internal override string? OutOfOrder(Job job, DateTimeOffset at) => null;

    /// <inheritdoc/>
    protected internal override void Apply(Job job, Entry entry) => job.Record(entry, this);
}

public sealed partial class Job
{
    private readonly List<Recorded<ReadingTaken>> _readings = [];

    /// <summary>Readings that stand, oldest first.</summary>
    public IReadOnlyList<Recorded<ReadingTaken>> Readings => _readings;

    internal void Record(Entry entry, ReadingTaken p) => _readings.Add(new(entry, p));
}
