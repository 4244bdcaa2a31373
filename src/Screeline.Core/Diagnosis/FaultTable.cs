using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// What every test would read under every fault, for one vehicle: for each fault the same set of sampled vehicles (Latin
/// hypercube; McKay, Beckman, Conover 1979, from memory) is given the fault, its circuit is solved once in each operating state,
/// and each test's instrument is placed by its Thévenin equivalent. Built once per vehicle, then only read.
/// </summary>
public sealed class FaultTable
{
    /// <summary>Sampled vehicles per fault.</summary>
    public const int UsualSamples = 432;

    /// <summary>No answer is decided by the simulated state: the fault's or the test's chances count.</summary>
    public const byte Undecided = byte.MaxValue;

    // How much a parameter that the vehicle's file states may still differ.
    private const double StatedShare = 0.03;

    private readonly SampledCircuit _circuit;
    private readonly float[][] _numbers;
    private readonly byte[][] _decided;
    private readonly int[] _blown;
    private readonly int[] _fuses;

    private FaultTable(FaultSystem system, VehicleSetting setting, int samples)
    {
        (System, Setting, Samples) = (system, setting, samples);
        _circuit = new SampledCircuit(system);
        _fuses = [.. _circuit.Slots.Fuses()];
        var size = system.Faults.Count * samples;
        _numbers = [.. system.Tests.Select(t => t.Unit is null ? [] : new float[size])];
        _decided = [.. system.Tests.Select(t => t.Unit is null ? new byte[size] : [])];
        (Solved, _blown) = (new bool[size], new int[size]);
        (FirstMargin, Variables) = (new int[system.Tests.Count], system.Tests.Count);
        for (var t = 0; t < system.Tests.Count; t++)
        {
            FirstMargin[t] = Variables;
            Variables += IsDecided(system.Tests[t]) ? system.Tests[t].Choices.Count + 1 : 0;
        }

        var middle = Draw(system, _circuit.Slots, setting, system.Faults[0], (_, _) => 0.5);
        Applies = [.. system.Faults.Select(f => f.When is null || f.When.At(new FormulaValues(middle, middle)) != 0)];
        RepairOf = [.. system.Faults.Select(f => system.Repairs.TakeWhile(r => r.Id != f.Repair).Count())];
        Scales = [.. system.Tests.Select(ReadingScale.Of)];
        Chances = [.. system.Tests.Select(t => t.Unit is null ? system.Faults.Select(f => ChancesOf(t, f)).ToArray() : [])];
    }

    /// <summary>The system.</summary>
    public FaultSystem System { get; }
    /// <summary>The vehicle.</summary>
    public VehicleSetting Setting { get; }
    /// <summary>Samples per fault; sample i of every fault is the same vehicle.</summary>
    public int Samples { get; }
    /// <summary>Whether the sample's circuits were solved; those that were not are left out and counted.</summary>
    public bool[] Solved { get; }
    /// <summary>Whether this vehicle can have the fault at all.</summary>
    public bool[] Applies { get; }
    /// <summary>How many samples could not be solved.</summary>
    public int Unsolved => Solved.Where((s, i) => !s && Applies[i / Samples]).Count();
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
    public long Bytes => _numbers.Sum(n => 4L * n.Length) + _decided.Sum(d => (long)d.Length) + Solved.Length + Densities.Sum(f => f.Sum(d => d.Bytes));

    /// <summary>A test's numbers on its reading scale, by fault × samples + sample.</summary>
    public ReadOnlySpan<float> Numbers(int test) => _numbers[test];

    /// <summary>A test's decided answers.</summary>
    public ReadOnlySpan<byte> Decided(int test) => _decided[test];

    /// <summary>Builds the table.</summary>
    /// <param name="system">The family.</param>
    /// <param name="setting">The vehicle; must have no faults.</param>
    /// <param name="samples">Sampled vehicles per fault.</param>
    public static FaultTable Build(FaultSystem system, VehicleSetting setting, int samples = UsualSamples)
    {
        var table = new FaultTable(system, setting, samples);
        var places = Places(system.Parameters.Count, samples, Seed(system.Id));
        var good = new double[samples][];
        var margins = new float[system.Faults.Count][][];
        var densities = new IReadOnlyList<FaultDensity>[system.Faults.Count];
        void Fill(int fault)
        {
            margins[fault] = table.Fill(fault, places, good);
            densities[fault] = table.DensitiesOf(fault, margins[fault], margins[0]);
        }

        Fill(0);
        Parallel.For(1, system.Faults.Count, Fill);
        table.Densities = densities;
        return table;
    }

    /// <summary>A row of parameter values for one vehicle: what its file states, what the fault sets, the rest drawn.</summary>
    internal static double[] Draw(FaultSystem system, Slots slots, VehicleSetting setting, Fault fault, Func<int, bool, double> place)
    {
        var row = new double[slots.Count];
        row[slots[Slots.Celsius]] = setting.Celsius;
        var values = new FormulaValues(row, row);
        for (var p = 0; p < system.Parameters.Count; p++)
        {
            var parameter = system.Parameters[p];
            row[slots[parameter.Id]] = fault.Set.TryGetValue(parameter.Id, out var set) ? set.At(place(p, true), values)
                : !setting.Stated.TryGetValue(parameter.Id, out var stated) ? parameter.Draw.At(place(p, false), values)
                : parameter.Choices.Count > 0 || parameter.Draw.Kind == Spread.None ? stated
                : stated * (1 + StatedShare * (2 * place(p, false) - 1));
        }

        return row;
    }

    /// <summary>Whether the simulated state decides a test's answers at all.</summary>
    private static bool IsDecided(FaultTest test) => test.Unit is null && test.Measure != Measure.Attempts;

    // Simulates the fault in every sampled vehicle; gives the margins of the answers, by variable and sample.
    private float[][] Fill(int fault, double[][] places, double[][] good)
    {
        float[][] margins = [.. Enumerable.Range(0, Variables - System.Tests.Count).Select(_ => new float[Samples])];
        if (!Applies[fault])
        {
            return margins;
        }

        var f = System.Faults[fault];
        var count = System.Parameters.Count;
        var compared = System.Tests.Select(t => IsDecided(t) && !f.Signs.ContainsKey(t.Id) ? new double[Samples][] : null).ToArray();
        var warm = System.States.ToDictionary(s => s.Id, _ => new WarmStart(), StringComparer.Ordinal);
        for (var i = 0; i < Samples; i++)
        {
            var sample = i;
            var row = Draw(System, _circuit.Slots, Setting, f, (p, set) => places[set ? count + p : p][sample]);
            var at = fault * Samples + i;
            Solved[at] = _circuit.TrySolve(row, warm);
            if (fault == 0)
            {
                good[i] = row;
            }

            if (!Solved[at] || !Solved[i])
            {
                Solved[at] = false;
                continue;
            }

            _blown[at] = _fuses.Aggregate(17, (hash, p) => unchecked(hash * 31 + (row[p] > 0.5 ? 1 : 0)));
            for (var t = 0; t < System.Tests.Count; t++)
            {
                if (System.Tests[t].Unit is not null)
                {
                    _numbers[t][at] = Scales[t].To(_circuit.Number(t, row, good[i]));
                }
                else if (compared[t] is { } comparisons)
                {
                    _decided[t][at] = _circuit.Answer(t, row, good[i]);
                    comparisons[i] = _circuit.Comparisons(t, row, good[i]);
                }
                else
                {
                    _decided[t][at] = Undecided;
                }
            }
        }

        for (var t = 0; t < compared.Length; t++)
        {
            if (compared[t] is { } comparisons)
            {
                AnswerMargins.Measure(_circuit, t, comparisons, _decided[t].AsSpan(fault * Samples, Samples), margins.AsSpan(FirstMargin[t] - System.Tests.Count, System.Tests[t].Choices.Count + 1));
            }
        }

        return margins;
    }

    private IReadOnlyList<FaultDensity> DensitiesOf(int fault, float[][] margins, float[][] good)
    {
        var solved = Enumerable.Range(0, Samples).Where(i => Solved[fault * Samples + i]).ToArray();
        IEnumerable<float[]> Of(int which, float[][] margin) =>
            _numbers.Select(n => n.Length == 0 ? new float[solved.Length] : solved.Select(i => n[which * Samples + i]).ToArray()).Concat(margin.Select(m => solved.Select(i => m[i]).ToArray()));
        return FaultDensity.Of([.. Of(fault, margins), .. System.Faults[fault].IsIntermittent ? Of(0, good) : []], [.. solved.Select(i => _blown[fault * Samples + i])], v => v % Variables >= System.Tests.Count);
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

    // One stratified row of places per parameter, one per value that a fault sets; the second half of the
    // samples mirrors the first, so that what grows on one side shrinks on the other (a symmetric Latin hypercube; Ye 1998, from memory).
    private static double[][] Places(int parameters, int samples, int seed)
    {
        var random = new Random(seed);
        var places = new double[2 * parameters][];
        var half = samples / 2;
        for (var p = 0; p < places.Length; p++)
        {
            var order = Enumerable.Range(0, half).ToArray();
            random.Shuffle(order);
            var first = order.Select(o => random.Next(2) == 0 ? o : samples - 1 - o).ToArray();
            places[p] = [.. first.Concat(first.Select(o => samples - 1 - o)).Select(o => (o + 0.5) / samples)];
        }

        // With fewer samples than rows there is nothing to take out by.
        if (places.Length < samples)
        {
            Uncorrelate(places, samples);
        }

        return places;
    }

    // Takes the chance correlations between the rows out while each stays stratified: ranked Gram-Schmidt, forwards and backwards
    // (Owen 1994, "Controlling correlations in Latin hypercube samples", from memory).
    private static void Uncorrelate(double[][] places, int samples)
    {
        for (var pass = 0; pass < 6; pass++)
        {
            for (var j = 1; j < places.Length; j++)
            {
                var at = pass % 2 == 0 ? j : places.Length - 1 - j;
                var row = places[at].Select(p => p - 0.5).ToArray();
                for (var k = 0; k < j; k++)
                {
                    var other = places[pass % 2 == 0 ? k : places.Length - 1 - k];
                    var (dot, square) = (0.0, 0.0);
                    for (var i = 0; i < samples; i++)
                    {
                        dot += row[i] * (other[i] - 0.5);
                        square += (other[i] - 0.5) * (other[i] - 0.5);
                    }

                    for (var i = 0; i < samples; i++)
                    {
                        row[i] -= dot / square * (other[i] - 0.5);
                    }
                }

                var order = Enumerable.Range(0, samples).ToArray();
                Array.Sort(row, order);
                for (var i = 0; i < samples; i++)
                {
                    places[at][order[i]] = (i + 0.5) / samples;
                }
            }
        }
    }

    private static int Seed(string id) => id.Aggregate(17, (seed, c) => unchecked(seed * 31 + c));
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
