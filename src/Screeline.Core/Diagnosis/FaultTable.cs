namespace Screeline.Core.Diagnosis;

/// <summary>A vehicle's equipment: every choice that bears on what is read, with how likely it is.</summary>
/// <param name="Choices">By parameter: the number of the choice.</param>
/// <param name="Share">How likely before anything is read, 0 to 1.</param>
public sealed record Configuration(IReadOnlyDictionary<string, int> Choices, double Share);

/// <summary>
/// What every test would read under every fault, for one vehicle, as a Gaussian mixture: for each fault, and each configuration the
/// vehicle can have, a sample of vehicles (<see cref="LatinHypercube"/>) is given the fault, somewhere in its range, their circuits are
/// solved in each operating state (<see cref="FaultSampler"/>), and each test's instrument is placed by its Thévenin equivalent. The
/// vehicles of one stratum of severity and one regime make a component. Built once per vehicle, then only read.
/// </summary>
public sealed class FaultTable
{
    /// <summary>No answer is decided by the simulated state: the fault's or the test's chances count.</summary>
    public const byte Undecided = byte.MaxValue;

    /// <summary>How many vehicles are sampled, over all configurations together.</summary>
    public const int Vehicles = 768;

    // A vehicle's record is wrong about its equipment once in so many.
    private const double RecordWrong = 0.02;

    private FaultTable(FaultSystem system, VehicleSetting setting)
    {
        (System, Setting, Temperatures) = (system, setting, setting.Temperatures);
        NumberTests = [.. Enumerable.Range(0, system.Tests.Count).Where(t => system.Tests[t].Unit is not null)];
        Variable = [.. Enumerable.Range(0, system.Tests.Count).Select(t => Array.IndexOf(NumberTests, t))];
        RepairOf = [.. system.Faults.Select(f => system.Repairs.TakeWhile(r => r.Id != f.Repair).Count())];
        Scales = [.. system.Tests.Select(ReadingScale.Of)];
        Chances = [.. system.Tests.Select(t => t.Unit is null ? system.Faults.Select(f => ChancesOf(t, f)).ToArray() : [])];
        Configurations = ConfigurationsOf(system, setting);
        Anywhere = [.. system.Tests.Select(AnywhereOf)];
    }

    /// <summary>The system.</summary>
    public FaultSystem System { get; }
    /// <summary>The vehicle.</summary>
    public VehicleSetting Setting { get; }
    /// <summary>The temperatures that readings are taken at, °C, that of here and now first.</summary>
    public IReadOnlyList<double> Temperatures { get; }
    /// <summary>What equipment the vehicle can have.</summary>
    public IReadOnlyList<Configuration> Configurations { get; }
    /// <summary>By fault: its mixture; empty when this vehicle cannot have the fault.</summary>
    public IReadOnlyList<IReadOnlyList<MixtureComponent>> Components { get; private set; } = [];
    /// <summary>By configuration and fault: whether such a vehicle can have it.</summary>
    public IReadOnlyList<bool[]> Applies { get; private set; } = [];
    /// <summary>How many samples could not be solved.</summary>
    public int Unsolved { get; private set; }
    /// <summary>How many samples were drawn.</summary>
    public int Samples { get; private set; }
    /// <summary>The repair of each fault, by its place.</summary>
    public int[] RepairOf { get; }
    /// <summary>The scale of each test's readings.</summary>
    public IReadOnlyList<ReadingScale> Scales { get; }
    /// <summary>By test and fault: chances of the answers when the state does not decide them.</summary>
    public IReadOnlyList<double[][]> Chances { get; }
    /// <summary>The tests that read numbers.</summary>
    public int[] NumberTests { get; }
    /// <summary>By test: its variable in a <see cref="MixtureComponent"/> at the temperature of here and now; −1 when it is answered.</summary>
    public int[] Variable { get; }
    /// <summary>How many numbers can be read over all temperatures: the variables while a fault shows.</summary>
    public int Numbers => NumberTests.Length * Temperatures.Count;
    /// <summary>By temperature and test: what 19 of 20 sound vehicles read, on its scale; and the answer they give most often, −1 for a number.</summary>
    public IReadOnlyList<(double Low, double High, int Answer)[]> Sound { get; private set; } = [];
    /// <summary>By test: the density of an outlier on its scale, which falls anywhere in what a working meter could show.</summary>
    public IReadOnlyList<double> Anywhere { get; }
    /// <summary>Bytes held.</summary>
    public long Bytes => Components.Sum(f => f.Sum(c => c.Bytes));

    /// <summary>Builds the table.</summary>
    /// <param name="system">The family.</param>
    /// <param name="setting">The vehicle; must have no faults.</param>
    /// <param name="vehicles">How many vehicles are sampled over all configurations.</param>
    public static FaultTable Build(FaultSystem system, VehicleSetting setting, int vehicles = Vehicles)
    {
        var (table, circuit) = (new FaultTable(system, setting), new SampledCircuit(system));
        var sampled = table.Configurations.Select(c => table.Sampled(circuit, c, 2 * (int)Math.Ceiling(vehicles * Math.Max(c.Share, 1.0 / 8) / 2))).ToList();
        var components = new IReadOnlyList<MixtureComponent>[system.Faults.Count];
        Parallel.For(0, components.Length, f => components[f] = [.. sampled.SelectMany((s, c) => s[f] is { } fault ? MixtureComponents.Of(c, fault, g => table.AnswersOf(f, fault, s[0]!, g), table.Numbers) : [])]);
        table.Components = components;
        table.Applies = [.. sampled.Select(s => s.Select(f => f is not null).ToArray())];
        table.Samples = sampled.Sum(s => s.Sum(f => f?.Solved.Length ?? 0));
        table.Unsolved = sampled.Sum(s => s.Sum(f => f?.Solved.Count(x => !x) ?? 0));
        table.Sound = [.. Enumerable.Range(0, table.Temperatures.Count).Select(c => Enumerable.Range(0, system.Tests.Count).Select(t => table.SoundOf(t, c, sampled[table.Likeliest][0]!)).ToArray())];
        return table;
    }

    /// <summary>A test's variable at a temperature; −1 when it is answered.</summary>
    public int VariableAt(int test, int temperature) => Variable[test] < 0 ? -1 : temperature * NumberTests.Length + Variable[test];

    // The same vehicles at each temperature.
    private SampledFault?[] Sampled(SampledCircuit circuit, Configuration configuration, int vehicles)
    {
        var setting = configuration.Choices.Aggregate(Setting, (s, choice) => s.With(choice.Key, choice.Value));
        var at = Temperatures.Select(celsius => new FaultSampler(this, circuit, setting with { Celsius = celsius }).Sample(vehicles)).ToList();
        return [.. System.Faults.Select((_, f) => at[0][f] is null ? null : SampledFault.Joined([.. at.Select(a => a[f]!)], NumberTests.Length))];
    }

    /// <summary>Whether the simulated state decides a test's answers at all.</summary>
    internal static bool IsDecided(FaultTest test) => test.Unit is null && test.Measure != Measure.Attempts;

    private int Likeliest => Configurations.Select((c, i) => (c.Share, i)).MaxBy(x => x.Share).i;

    // Choices that nobody stated are a mixture; those that are stated may be wrong. What no formula asks for makes no difference.
    internal static List<Configuration> ConfigurationsOf(FaultSystem system, VehicleSetting setting)
    {
        List<Configuration> all = [new(new Dictionary<string, int>(StringComparer.Ordinal), 1)];
        foreach (var parameter in system.Parameters.Where(p => p.Choices.Count > 0 && IsUsed(system, p)))
        {
            var n = parameter.Choices.Count;
            double Share(int choice) => setting.Stated.TryGetValue(parameter.Id, out var stated) ? (stated == choice ? 1 - RecordWrong : RecordWrong / (n - 1)) : parameter.Shares[choice];
            all = [.. from c in all from choice in Enumerable.Range(0, n) select new Configuration(new Dictionary<string, int>(c.Choices, StringComparer.Ordinal) { [parameter.Id] = choice }, c.Share * Share(choice))];
        }

        // Two wrong statements at once are not thought of.
        return [.. all.Where(c => c.Share > RecordWrong * RecordWrong)];
    }

    private static bool IsUsed(FaultSystem system, Parameter parameter)
    {
        var slot = FaultSystemReader.SlotsOf(system)[parameter.Id];
        return system.Parameters.Select(p => p.Draw.Value).Concat(system.Circuit.SelectMany(p => p.Values)).Concat(system.Faults.Select(f => f.When)).Concat(system.Faults.SelectMany(f => f.Set.Values.Select(d => d.Value)))
            .Concat(system.Tests.Select(t => t.Value)).Concat(system.Tests.SelectMany(t => t.Rules.Select(r => r.When))).Any(f => f?.Uses.Contains(slot) == true);
    }

    private double AnywhereOf(FaultTest test, int t)
    {
        var volts = (decimal)Setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12);
        double Bound(decimal bound) => Scales[t].To((double)(test.Unit!.ToBase(bound) * test.Scale(volts)));
        return test.Plausible is { } p ? 1 / Math.Max(1, Bound(p.High) - Bound(p.Low)) : 1;
    }

    // By temperature and test, then the same while an intermittent fault does not show.
    private double[]?[] AnswersOf(int fault, SampledFault samples, SampledFault sound, int[] group)
    {
        var all = samples.Decided.Length;
        var answers = new double[]?[2 * all];
        for (var at = 0; at < all; at++)
        {
            var t = at % System.Tests.Count;
            if (samples.Decided[at].Length > 0 && !System.Faults[fault].Signs.ContainsKey(System.Tests[t].Id))
            {
                answers[at] = Shares(samples.Decided[at], group, Chances[t][fault]);
            }

            if (System.Faults[fault].IsIntermittent && sound.Decided[at].Length > 0 && !System.Faults[0].Signs.ContainsKey(System.Tests[t].Id))
            {
                answers[all + at] = Shares(sound.Decided[at], group, Chances[t][0]);
            }
        }

        return answers;
    }

    // The shares in which the state decides answers; where it decides none, what is left goes by chance.
    private static double[] Shares(byte[] decided, int[] group, double[] chances)
    {
        var shares = new double[chances.Length];
        var each = 1.0 / group.Length;
        foreach (var i in group)
        {
            if (decided[i] != Undecided)
            {
                shares[decided[i]] += each;
            }
        }

        var left = Math.Max(0, 1 - shares.Sum());
        return [.. shares.Select((s, a) => s + left * chances[a])];
    }

    private (double Low, double High, int Answer) SoundOf(int test, int temperature, SampledFault sound)
    {
        if (VariableAt(test, temperature) is >= 0 and var v)
        {
            var sorted = sound.Variables[v].Where((_, i) => sound.Solved[i]).Order().ToArray();
            return (sorted[(int)(0.025 * (sorted.Length - 1))] - 1.96, sorted[(int)(0.975 * (sorted.Length - 1))] + 1.96, -1);
        }

        var most = System.Tests[test].Measure == Measure.Attempts ? (byte)2 : sound.Decided[temperature * System.Tests.Count + test].Where((_, i) => sound.Solved[i]).GroupBy(d => d).MaxBy(g => g.Count())!.Key;
        return (0, 0, most == Undecided ? Array.IndexOf(Chances[test][0], Chances[test][0].Max()) : most);
    }

    private static double[] ChancesOf(FaultTest test, Fault fault)
    {
        var given = fault.Signs.GetValueOrDefault(test.Id) ?? test.Usual;
        var n = test.Choices.Count;
        var left = 1 - given.Values.Sum();
        var unnamed = test.Choices.Count(c => !given.ContainsKey(c.Id));
        // What is named takes its chance, the rest is shared by the others.
        return [.. test.Choices.Select(c => given.TryGetValue(c.Id, out var chance) ? chance + (unnamed == 0 ? left / n : 0) : left / unnamed)];
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
    public double To(double value) => Relative == 0 ? value / Fixed : Math.Asinh(Relative * value / Fixed) / Relative;

    /// <summary>Back to the base unit.</summary>
    public double From(double scaled) => Relative == 0 ? scaled * Fixed : Math.Sinh(Relative * scaled) * Fixed / Relative;
}
