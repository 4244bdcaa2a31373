using System.Collections.Concurrent;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// What every test would read under every fault, for one vehicle: for each fault the same sampled vehicles
/// (<see cref="SamplePlaces"/>; more of them where something is rare) are given the fault, somewhere in its range
/// (<see cref="FaultRange"/>), their circuits are solved once in each operating state (<see cref="FaultSampler"/>), and each test's
/// instrument is placed by its Thévenin equivalent. Built once per vehicle, then only read.
/// </summary>
public sealed class FaultTable
{
    /// <summary>No answer is decided by the simulated state: the fault's or the test's chances count.</summary>
    public const byte Undecided = byte.MaxValue;

    private FaultTable(FaultSystem system, VehicleSetting setting, SampledCircuit circuit)
    {
        (System, Setting) = (system, setting);
        (FirstMargin, Variables) = (new int[system.Tests.Count], system.Tests.Count);
        for (var t = 0; t < system.Tests.Count; t++)
        {
            FirstMargin[t] = Variables;
            Variables += IsDecided(system.Tests[t]) ? system.Tests[t].Choices.Count + 1 : 0;
        }

        var middle = new VehicleDraw(system, circuit.Slots, setting, system.Faults[0]).Row((_, _) => 0.5);
        Applies = [.. system.Faults.Select(f => f.When is null || f.When.At(new FormulaValues(middle, middle)) != 0)];
        RepairOf = [.. system.Faults.Select(f => system.Repairs.TakeWhile(r => r.Id != f.Repair).Count())];
        Scales = [.. system.Tests.Select(ReadingScale.Of)];
        Chances = [.. system.Tests.Select(t => t.Unit is null ? system.Faults.Select(f => ChancesOf(t, f)).ToArray() : [])];
    }

    /// <summary>The system.</summary>
    public FaultSystem System { get; }
    /// <summary>The vehicle.</summary>
    public VehicleSetting Setting { get; }
    /// <summary>By fault: the sampled vehicles that have it; none when this vehicle cannot have the fault.</summary>
    public IReadOnlyList<FaultSamples> Samples { get; private set; } = [];
    /// <summary>Whether this vehicle can have the fault at all.</summary>
    public bool[] Applies { get; }
    /// <summary>How many samples could not be solved.</summary>
    public int Unsolved { get; private set; }
    /// <summary>The repair of each fault, by its place.</summary>
    public int[] RepairOf { get; }
    /// <summary>The scale of each test's readings.</summary>
    public IReadOnlyList<ReadingScale> Scales { get; }
    /// <summary>By test and fault: chances of the answers when the state does not decide them.</summary>
    public IReadOnlyList<double[][]> Chances { get; }
    /// <summary>
    /// Where the margins of a test's answers begin among the variables of a density: one for each answer and one for that none is
    /// decided. The first variables are the tests' numbers, by test.
    /// </summary>
    public int[] FirstMargin { get; }
    /// <summary>How many variables there are.</summary>
    public int Variables { get; }
    /// <summary>By fault: how all that can be read varies together, one density for each set of fuses that are blown.</summary>
    public IReadOnlyList<IReadOnlyList<FaultDensity>> Densities { get; private set; } = [];
    /// <summary>Bytes held.</summary>
    public long Bytes => Samples.Sum(s => s.Bytes) + Densities.Sum(f => f.Sum(d => d.Bytes));

    /// <summary>Builds the table.</summary>
    /// <param name="system">The family.</param>
    /// <param name="setting">The vehicle; must have no faults.</param>
    /// <param name="sampling">How many vehicles; the usual sampling when null.</param>
    /// <exception cref="ArgumentOutOfRangeException">There is no field of so many levels (<see cref="SamplePlaces"/>).</exception>
    public static FaultTable Build(FaultSystem system, VehicleSetting setting, Sampling? sampling = null)
    {
        var circuit = new SampledCircuit(system);
        var table = new FaultTable(system, setting, circuit);
        var sampled = new FaultSampler(table, circuit).Sample(sampling ?? Sampling.Usual);
        var densities = new IReadOnlyList<FaultDensity>[sampled.Length];
        // One at a time: some take four times as long as others.
        Parallel.ForEach(Partitioner.Create(Enumerable.Range(0, sampled.Length), EnumerablePartitionerOptions.NoBuffering), f => densities[f] = table.DensitiesOf(system.Faults[f], sampled[f].Faulty, sampled[f].Sound));
        foreach (var (faulty, sound) in sampled)
        {
            (faulty.Margins, sound.Margins) = ([], []);
        }

        (table.Samples, table.Densities, table.Unsolved) = ([.. sampled.Select(s => s.Faulty)], densities, sampled.Sum(s => s.Faulty.Solved.Count(x => !x)));
        return table;
    }

    /// <summary>Whether the simulated state decides a test's answers at all.</summary>
    internal static bool IsDecided(FaultTest test) => test.Unit is null && test.Measure != Measure.Attempts;

    private IReadOnlyList<FaultDensity> DensitiesOf(Fault fault, FaultSamples samples, FaultSamples good)
    {
        var solved = samples.WhichSolved();
        var none = new float[solved.Length];
        static float[] At(ReadOnlySpan<float> values, int[] at)
        {
            var picked = new float[at.Length];
            for (var k = 0; k < at.Length; k++)
            {
                picked[k] = values[at[k]];
            }

            return picked;
        }

        IEnumerable<float[]> Of(FaultSamples which, int[] at) =>
            Enumerable.Range(0, System.Tests.Count).Select(t => System.Tests[t].Unit is null ? none : At(which.Numbers(t), at)).Concat(which.Margins.Select(m => At(m, at)));
        return FaultDensity.Of([.. Of(samples, solved), .. fault.IsIntermittent ? Of(good, Array.ConvertAll(solved, i => samples.Vehicles[i])) : []], Array.ConvertAll(solved, i => (double)samples.Weights[i]), Array.ConvertAll(solved, i => samples.Blown[i]), v => v % Variables >= System.Tests.Count);
    }

    private static double[] ChancesOf(FaultTest test, Fault fault)
    {
        var given = fault.Signs.GetValueOrDefault(test.Id) ?? test.Usual;
        var n = test.Choices.Count;
        var left = 1 - given.Values.Sum();
        var unnamed = test.Choices.Count(c => !given.ContainsKey(c.Id));
        // What is named takes its chance, the rest is shared by the others; nothing is quite impossible.
        return [.. test.Choices.Select(c => Reading.Heard(given.TryGetValue(c.Id, out var chance) ? chance + (unnamed == 0 ? left / n : 0) : left / unnamed, n))];
    }

}

/// <summary>
/// A scale on which an instrument's error is the same everywhere: s = asinh(r·y/a)/r for a standard error √(a² + (r·y)²) (a
/// variance-stabilising transformation; Bartlett 1947, from memory). One unit of s is one standard error.
/// </summary>
/// <param name="Fixed">a, in base units, above zero.</param>
/// <param name="Relative">r, may be zero.</param>
public readonly record struct ReadingScale(double Fixed, double Relative)
{
    /// <summary>The scale of a test's readings.</summary>
    public static ReadingScale Of(FaultTest test) => new(test.Accuracy * (double)(test.Unit?.Factor ?? 1), test.Relative);

    /// <summary>From a value in the base unit to the scale.</summary>
    public float To(double value) => (float)(Relative == 0 ? value / Fixed : Math.Asinh(Relative * value / Fixed) / Relative);

    /// <summary>Back to the base unit.</summary>
    public double From(double scaled) => Relative == 0 ? scaled * Fixed : Math.Sinh(Relative * scaled) * Fixed / Relative;
}

/// <summary>
/// How many vehicles are sampled for each fault: the cube of the levels (<see cref="SamplePlaces"/>). Where a share hangs on
/// few of the coarse ones, and for two faults at once, the fine ones are taken (decision 0026).
/// </summary>
/// <param name="Coarse">Levels for most faults.</param>
/// <param name="Fine">Levels where something is rare.</param>
/// <param name="CoarseShuffling">Seed of the coarse ones' shuffling; null for the one picked for the levels.</param>
/// <param name="FineShuffling">That of the fine ones.</param>
public readonly record struct Sampling(int Coarse, int Fine, int? CoarseShuffling = null, int? FineShuffling = null)
{
    /// <summary>729 and 2,197 vehicles.</summary>
    public static Sampling Usual { get; } = new(9, 13);

    /// <summary>
    /// A shuffling with which the densities of the usual 12 V vehicles lie near those of 24,389: picked of 200 for 9 levels, of 420 for 13,
    /// of 60 for 17, of 24 for 23; for 7 and 11 levels of 60 by the shares of answers alone (bench, --shufflings; decisions 0033, 0034).
    /// </summary>
    public static int ShufflingOf(int levels) => levels switch { 9 => 275, 11 => 31, 13 => 209, 17 => 5, 23 => 3, _ => 36 };

    // Places that are usual are the same for every vehicle: laid out once.
    private const int Columns = 64;
    private static readonly ConcurrentDictionary<int, double[][]> Laid = new();

    /// <summary>The places of so many columns, not to be written to.</summary>
    internal static double[][] PlacesOf(int levels, int? shuffling, int columns) =>
        shuffling is null && columns <= Columns && (levels == Usual.Coarse || levels == Usual.Fine) ? Laid.GetOrAdd(levels, l => SamplePlaces.Of(Columns, l, ShufflingOf(l)))[..columns]
        : SamplePlaces.Of(columns, levels, shuffling ?? ShufflingOf(levels));
}
