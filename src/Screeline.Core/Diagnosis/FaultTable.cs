using System.Collections.Concurrent;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// What every test would read under every fault, for one vehicle: for each fault the same sampled vehicles
/// (<see cref="SamplePlaces"/>; more of them where something is rare) are given the fault, somewhere in its range
/// (<see cref="FaultRange"/>), their circuits are solved once in each operating state, and each test's instrument is placed by its
/// Thévenin equivalent. Built once per vehicle, then only read.
/// </summary>
public sealed class FaultTable
{
    /// <summary>No answer is decided by the simulated state: the fault's or the test's chances count.</summary>
    public const byte Undecided = byte.MaxValue;

    // Into how many parts a fault's range is divided to see where readings change.
    private const int Parts = 16;

    // How many vehicles, at most, one thread solves one after the other.
    private const int Part = 343;

    private readonly SampledCircuit _circuit;
    private readonly int[] _fuses;

    private FaultTable(FaultSystem system, VehicleSetting setting)
    {
        (System, Setting) = (system, setting);
        _circuit = new SampledCircuit(system);
        _fuses = [.. _circuit.Slots.Fuses()];
        (FirstMargin, Variables) = (new int[system.Tests.Count], system.Tests.Count);
        for (var t = 0; t < system.Tests.Count; t++)
        {
            FirstMargin[t] = Variables;
            Variables += IsDecided(system.Tests[t]) ? system.Tests[t].Choices.Count + 1 : 0;
        }

        var middle = Of(system.Faults[0]).Row((_, _) => 0.5);
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
    public int Unsolved => Samples.Sum(s => s.Solved.Count(x => !x));
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
        var (coarse, fine, shuffling) = sampling ?? Sampling.Usual;
        var table = new FaultTable(system, setting);
        int[] order = [.. table.ByInfluence()];
        Vehicles few = table.VehiclesOf(coarse, shuffling, order), many = fine == coarse ? few : table.VehiclesOf(fine, shuffling, order);
        var (samples, densities) = (new FaultSamples[system.Faults.Count], new IReadOnlyList<FaultDensity>[system.Faults.Count]);
        void Fill(int fault)
        {
            var f = system.Faults[fault];
            samples[fault] = !table.Applies[fault] ? new FaultSamples(system, 0, 0)
                : (f.Set.Count(s => s.Value.Kind != Spread.None) > 1 ? null : table.FillUnlessRare(f, few)) ?? table.Fill(f, many);
            densities[fault] = table.DensitiesOf(f, samples[fault], samples[fault].Count == few.Count ? few.Samples : many.Samples);
        }

        samples[0] = many.Samples;
        densities[0] = table.DensitiesOf(system.Faults[0], many.Samples, many.Samples);
        // One at a time: some take four times as long as others.
        Parallel.ForEach(Partitioner.Create(Enumerable.Range(1, system.Faults.Count - 1), EnumerablePartitionerOptions.NoBuffering), Fill);
        foreach (var s in samples.Append(few.Samples))
        {
            s.Margins = [];
        }

        (table.Samples, table.Densities) = (samples, densities);
        return table;
    }

    /// <summary>Whether the simulated state decides a test's answers at all.</summary>
    private static bool IsDecided(FaultTest test) => test.Unit is null && test.Measure != Measure.Attempts;

    // Sampled vehicles: columns of places for what a fault sets, in the order of the parameters, and for each parameter of the
    // vehicle; their rows and what is read on them while they are sound.
    private sealed record Vehicles(int Count, double[][] Set, double[][] Parameters, double[][] Good)
    {
        public FaultSamples Samples { get; set; } = null!;
    }

    private Vehicles VehiclesOf(int levels, int? shuffling, int[] order)
    {
        // The best columns are for what faults set and for what bears on readings most.
        var sets = System.Faults.Max(f => f.Set.Count);
        var columns = Sampling.PlacesOf(levels, shuffling, sets + order.Length);
        var vehicles = new Vehicles(columns[0].Length, columns[..sets], new double[order.Length][], new double[columns[0].Length][]);
        for (var k = 0; k < order.Length; k++)
        {
            vehicles.Parameters[order[k]] = columns[sets + k];
        }

        vehicles.Samples = Fill(System.Faults[0], vehicles);
        return vehicles;
    }

    // Simulates the fault in every sampled vehicle.
    private FaultSamples Fill(Fault f, Vehicles vehicles) => Fill(f, vehicles, false)!;

    // Null as soon as something proves to be rare under it: mostly after the first part.
    private FaultSamples? FillUnlessRare(Fault f, Vehicles vehicles) => Fill(f, vehicles, true);

    private FaultSamples? Fill(Fault f, Vehicles vehicles, bool unlessRare)
    {
        var samples = new FaultSamples(System, vehicles.Count, Variables - System.Tests.Count);
        var prepared = new PreparedCircuit();
        var ranges = Enumerable.Range(0, System.Parameters.Count).Select(p => RangeOf(f, p, prepared)).ToArray();
        var set = Enumerable.Range(0, System.Parameters.Count).Where(p => f.Set.ContainsKey(System.Parameters[p].Id)).ToList();
        var columns = Enumerable.Range(0, System.Parameters.Count).Select(p => set.IndexOf(p) is >= 0 and var k ? vehicles.Set[k] : vehicles.Parameters[p]).ToArray();
        var counts = System.Tests.Select((test, t) => IsDecided(test) && !f.Signs.ContainsKey(test.Id) ? _circuit.ComparisonsOf(t) : -1).ToArray();
        var compared = counts.Select(c => new double[Math.Max(0, c) * samples.Count]).ToArray();
        var (draw, isSound) = (Of(f), f == System.Faults[0]);
        // Part by part, always the same parts: each begins its searches anew, and the table is the same on however many cores. A part is
        // every so many-th vehicle, so that each goes over all the ranges.
        var parts = (samples.Count + Part - 1) / Part;
        void Simulate(int part)
        {
            var (circuit, row) = (new PreparedCircuit(), new double[_circuit.Slots.Count]);
            var (sample, weight) = (0, 1.0);
            double Place(int p, bool isSet)
            {
                if (!isSet || ranges[p] is not { } range)
                {
                    return columns[p][sample];
                }

                var (place, own) = range.At(columns[p][sample]);
                weight *= own;
                return place;
            }

            Func<int, bool, double> at = Place;
            for (sample = part; sample < samples.Count; sample += parts)
            {
                if (isSound)
                {
                    // Only the sound vehicles are needed afterwards.
                    row = vehicles.Good[sample] = new double[row.Length];
                }

                weight = 1;
                draw.Into(row, at);
                samples.Weights[sample] = (float)weight;
                samples.Solved[sample] = _circuit.TrySolve(row, circuit) && (isSound || vehicles.Samples.Solved[sample]);
                if (samples.Solved[sample])
                {
                    Read(samples, sample, row, vehicles.Good[sample], counts, compared);
                }
            }
        }

        if (unlessRare)
        {
            Simulate(0);
            if (samples.HasRare)
            {
                return null;
            }
        }

        Parallel.For(unlessRare ? 1 : 0, parts, Simulate);
        if (unlessRare && samples.HasRare)
        {
            return null;
        }

        int[] solved = [.. Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i])];
        for (var t = 0; t < counts.Length; t++)
        {
            if (counts[t] >= 0)
            {
                AnswerMargins.Measure(_circuit, t, compared[t], counts[t], solved, samples.Decided(t), samples.Margins.AsSpan(FirstMargin[t] - System.Tests.Count, System.Tests[t].Choices.Count + 1));
            }
        }

        return samples;
    }

    // What every test reads on a solved vehicle. Answers that the fault's own chances give have no comparisons: −1.
    private void Read(FaultSamples samples, int i, double[] row, double[] good, int[] counts, double[][] compared)
    {
        var hash = 17;
        foreach (var fuse in _fuses)
        {
            hash = unchecked(hash * 31 + (row[fuse] > 0.5 ? 1 : 0));
        }

        samples.Blown[i] = hash;
        for (var t = 0; t < counts.Length; t++)
        {
            if (System.Tests[t].Unit is not null)
            {
                samples.Keep(t, i, Scales[t].To(_circuit.Number(t, row, good)));
            }
            else if (counts[t] >= 0)
            {
                samples.Keep(t, i, _circuit.Answer(t, row, good));
                _circuit.Comparisons(t, row, good, compared[t].AsSpan(counts[t] * i, counts[t]));
            }
            else
            {
                samples.Keep(t, i, Undecided);
            }
        }
    }

    // The parameters, first those that move the readings of a sound vehicle most.
    private IEnumerable<int> ByInfluence()
    {
        var (prepared, sound) = (new PreparedCircuit(), Of(System.Faults[0]));
        double[] At(int parameter, double place)
        {
            var row = sound.Row((p, _) => p == parameter ? place : 0.5);
            return _circuit.TrySolve(row, prepared) ? NumbersOf(row, row) : [];
        }

        return Enumerable.Range(0, System.Parameters.Count).OrderByDescending(p => At(p, 0.1).Zip(At(p, 0.9)).Sum(x => Math.Min(10, Math.Abs(x.First - x.Second))));
    }

    // How densely to sample what a fault sets a parameter to; null for evenly.
    private FaultRange? RangeOf(Fault fault, int parameter, PreparedCircuit prepared)
    {
        if (!fault.Set.TryGetValue(System.Parameters[parameter].Id, out var set) || set.Kind == Spread.None)
        {
            return null;
        }

        var (good, draw) = (Of(System.Faults[0]).Row((_, _) => 0.5), Of(fault));
        double[][] rows = [.. Enumerable.Range(0, Parts + 1).Select(k => draw.Row((p, s) => s && p == parameter ? k / (double)Parts : 0.5))];
        if (!rows.Append(good).All(row => _circuit.TrySolve(row, prepared)))
        {
            return null;
        }

        var answered = Enumerable.Range(0, System.Tests.Count).Where(t => IsDecided(System.Tests[t]) && !fault.Signs.ContainsKey(System.Tests[t].Id)).ToArray();
        return FaultRange.Of([.. rows.Select(row => NumbersOf(row, good))], [.. rows.Select(row => answered.Select(t => _circuit.Answer(t, row, good)).ToArray())]);
    }

    private VehicleDraw Of(Fault fault) => new(System, _circuit.Slots, Setting, fault);

    private double[] NumbersOf(double[] row, double[] good) =>
        [.. Enumerable.Range(0, System.Tests.Count).Where(t => System.Tests[t].Unit is not null).Select(t => Scales[t].To(_circuit.Number(t, row, good)))];

    private IReadOnlyList<FaultDensity> DensitiesOf(Fault fault, FaultSamples samples, FaultSamples good)
    {
        var solved = Enumerable.Range(0, samples.Count).Where(i => samples.Solved[i]).ToArray();
        IEnumerable<float[]> Of(FaultSamples which) =>
            Enumerable.Range(0, System.Tests.Count).Select(t => System.Tests[t].Unit is null ? new float[solved.Length] : Array.ConvertAll(solved, i => which.Numbers(t)[i])).Concat(which.Margins.Select(m => Array.ConvertAll(solved, i => m[i])));
        return FaultDensity.Of([.. Of(samples), .. fault.IsIntermittent ? Of(good) : []], Array.ConvertAll(solved, i => (double)samples.Weights[i]), Array.ConvertAll(solved, i => samples.Blown[i]), v => v % Variables >= System.Tests.Count);
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
/// few of the coarse ones, and for two faults at once, the fine ones are taken (decisions 0027, 0028).
/// </summary>
/// <param name="Coarse">Levels for most faults.</param>
/// <param name="Fine">Levels where something is rare.</param>
/// <param name="Shuffling">Seed of the shuffling; null for the one picked for the levels.</param>
public readonly record struct Sampling(int Coarse, int Fine, int? Shuffling = null)
{
    /// <summary>729 and 2,197 vehicles.</summary>
    public static Sampling Usual { get; } = new(9, 13);

    /// <summary>
    /// The shuffling with which the shares of answers on the usual 12 V vehicles lie nearest to those of 24,389 samples, of 60 for 7, 9
    /// and 11 levels and of 32 for 13 (bench, --shufflings).
    /// </summary>
    public static int ShufflingOf(int levels) => levels switch { 9 => 41, 11 => 31, 13 => 20, _ => 36 };

    // Places that are usual are the same for every vehicle: laid out once.
    private const int Columns = 64;
    private static readonly ConcurrentDictionary<int, double[][]> Laid = new();

    /// <summary>The places of so many columns, not to be written to.</summary>
    internal static double[][] PlacesOf(int levels, int? shuffling, int columns) =>
        shuffling is null && columns <= Columns && (levels == Usual.Coarse || levels == Usual.Fine) ? Laid.GetOrAdd(levels, l => SamplePlaces.Of(Columns, l, ShufflingOf(l)))[..columns]
        : SamplePlaces.Of(columns, levels, shuffling ?? ShufflingOf(levels));
}
