namespace Screeline.Core.Diagnosis;

/// <summary>One observation as the beliefs take it.</summary>
/// <param name="Test">The test's place in the system; −1 for attempts before anything was measured.</param>
/// <param name="Value">The number in the base unit; unused for answers.</param>
/// <param name="Answers">The answers given; empty for a number.</param>
/// <param name="Tried">Attempts made.</param>
/// <param name="Failed">Attempts that failed.</param>
public sealed record Observation(int Test, double Value, IReadOnlyList<int> Answers, int Tried = 0, int Failed = 0);

/// <summary>
/// Weighted samples of fault and vehicle given all observations: importance sampling from the prior, each sample weighted by
/// the likelihood of every observation (no resampling), so that an observation can be taken away without a trace. A number's
/// likelihood is a normal density on the reading scale, its width the instrument's error and a kernel over the fault's samples
/// (Silverman 1986, from memory) together, mixed with a small share of slips.
/// </summary>
public sealed class Beliefs
{
    // Width of the normal kernel against the stretch that a sample stands for, and of a reading's error against the instrument's.
    // Wider than they need be: a few hundred samples then weigh like many more (docs/decisions/0008), and readings of a vehicle
    // that is a little off the template are not called slips.
    private const double Kernel = 1;
    private const double Error = 3;

    private readonly double[][] _likelihoods;
    private readonly double[][] _logs;
    private readonly double[] _total;
    private readonly double[] _weights;
    private readonly double[]?[] _without;

    /// <summary>Weighs all samples.</summary>
    /// <param name="table">What every test would read.</param>
    /// <param name="priors">Chance of each fault before any reading, in the table's order.</param>
    /// <param name="observations">In any order: they are weighed in a canonical one.</param>
    public Beliefs(FaultTable table, IReadOnlyList<double> priors, IEnumerable<Observation> observations)
    {
        var possible = priors.Where((_, f) => table.Applies[f]).Sum();
        (Table, Priors) = (table, [.. priors.Select((p, f) => table.Applies[f] ? p / possible : 0)]);
        Observations = [.. observations.OrderBy(o => o.Test).ThenBy(o => o.Value).ThenBy(o => o.Answers.DefaultIfEmpty(-1).Min()).ThenBy(o => o.Tried).ThenBy(o => o.Failed)];
        _likelihoods = [.. Observations.Select(o => LikelihoodsOf(table, o))];
        _logs = [.. _likelihoods.Select(l => l.Select(x => Math.Log(x)).ToArray())];
        _without = new double[]?[_logs.Length];
        _total = Total();
        _weights = WeighWithout(-1);
        ByFault = Sum(_weights);
        ByRepair = RepairSum(ByFault);
    }

    /// <summary>The table.</summary>
    public FaultTable Table { get; }
    /// <summary>Chance of each fault before any reading, of those this vehicle can have.</summary>
    public IReadOnlyList<double> Priors { get; }
    /// <summary>The observations in canonical order.</summary>
    public IReadOnlyList<Observation> Observations { get; }
    /// <summary>Chance of each fault.</summary>
    public double[] ByFault { get; }
    /// <summary>Chance of each repair.</summary>
    public double[] ByRepair { get; }
    /// <summary>Weight of each sample, by fault × samples + sample; they sum to 1.</summary>
    public ReadOnlySpan<double> Weights => _weights;
    /// <summary>Chance of each fault had one observation not been made.</summary>
    public double[] ByFaultWithout(int observation) => Sum(WeighWithout(observation));

    /// <summary>How well each fault explains one observation, given all the others: its likelihood on the average of the fault's samples.</summary>
    public double[] Fit(int observation)
    {
        var without = WeighWithout(observation);
        var (faults, samples) = (Table.System.Faults.Count, Table.Samples);
        var fit = new double[faults];
        for (var f = 0; f < faults; f++)
        {
            var (sum, weight) = (0.0, 0.0);
            for (var i = f * samples; i < (f + 1) * samples; i++)
            {
                sum += without[i] * _likelihoods[observation][i];
                weight += without[i];
            }

            fit[f] = weight > 0 ? sum / weight : 0;
        }

        return fit;
    }

    /// <summary>
    /// The chance that an observation is a slip, or heard wrong, rather than what the vehicle gave: near 1 when nothing that
    /// explains the others explains it.
    /// </summary>
    public double ChanceOfSlip(int observation)
    {
        var o = Observations[observation];
        var floor = Floor(o);
        var slip = 0.0;
        for (var i = 0; i < _weights.Length; i++)
        {
            slip += _weights[i] == 0 ? 0 : _weights[i] * Math.Min(1, floor / _likelihoods[observation][i]);
        }

        return slip;
    }

    /// <summary>The same beliefs without one observation.</summary>
    public Beliefs Without(int observation) => new(Table, Priors, Observations.Where((_, i) => i != observation));

    /// <summary>
    /// Joint chance of repair (row) and outcome (column) of a test not yet done. Outcomes of a number are classes of the
    /// reading scale, of an answer the answers.
    /// </summary>
    public double[,] Outcomes(int test)
    {
        var system = Table.System;
        return system.Tests[test].Unit is null ? AnswerOutcomes(test) : NumberOutcomes(test);
    }

    private double[,] AnswerOutcomes(int test)
    {
        var system = Table.System;
        var t = system.Tests[test];
        var (samples, n) = (Table.Samples, t.Choices.Count);
        var repairOf = Table.RepairOf;
        var joint = new double[system.Repairs.Count, n];
        for (var f = 0; f < system.Faults.Count; f++)
        {
            if (ByFault[f] < 1e-9)
            {
                continue;
            }

            for (var i = 0; i < samples; i++)
            {
                var weight = _weights[f * samples + i];
                for (var a = 0; a < n && weight > 0; a++)
                {
                    joint[repairOf[f], a] += weight * ChanceOfAnswer(Table, test, f, i, a);
                }
            }
        }

        return joint;
    }

    private const int Classes = 48;

    private double[,] NumberOutcomes(int test)
    {
        var system = Table.System;
        var samples = Table.Samples;
        var (numbers, kernels) = (Table.NumbersOf(test), Table.KernelsOf(test));
        var repairOf = Table.RepairOf;
        // Classes cover what is still likely, so that they are fine where it matters.
        var (low, high) = (double.MaxValue, double.MinValue);
        for (var i = 0; i < _weights.Length; i++)
        {
            if (_weights[i] > 1e-6)
            {
                low = Math.Min(low, Math.Min(numbers[i], numbers[i % samples]));
                high = Math.Max(high, Math.Max(numbers[i], numbers[i % samples]));
            }
        }

        var width = Math.Max(0.5, (high - low + 4) / Classes);
        var joint = new double[system.Repairs.Count, Classes];
        var row = new double[Classes];
        for (var f = 0; f < system.Faults.Count; f++)
        {
            if (ByFault[f] < 1e-9)
            {
                continue;
            }

            Array.Clear(row);
            var (kernel, mass) = (0.0, 0.0);
            var shows = system.Tests[test].Hot ? Table.Hot : Table.Cold;
            for (var i = 0; i < samples; i++)
            {
                var at = f * samples + i;
                kernel += _weights[at] * kernels[at];
                mass += _weights[at];
                Put(row, (numbers[at] - low + 2) / width, _weights[at] * shows[at]);
                Put(row, (numbers[i] - low + 2) / width, _weights[at] * (1 - shows[at]));
            }

            Blur(row, Math.Sqrt(Square(Error) + Square(Kernel * kernel / Math.Max(1e-300, mass))) / width, joint, repairOf[f]);
        }

        return joint;
    }

    // Shares a weight between the two classes it lies between.
    private static void Put(double[] row, double place, double weight)
    {
        if (weight <= 0)
        {
            return;
        }

        var at = Math.Clamp(place, 0, Classes - 1.000001);
        var lower = (int)at;
        row[lower] += weight * (1 - (at - lower));
        row[lower + 1] += weight * (at - lower);
    }

    // Spreads each class by the error of the reading and adds the row to a repair.
    private static void Blur(double[] row, double sigma, double[,] joint, int repair)
    {
        var reach = Math.Min(Classes - 1, (int)Math.Ceiling(3 * sigma));
        Span<double> kernel = stackalloc double[reach + 1];
        var whole = 0.0;
        for (var k = 0; k <= reach; k++)
        {
            kernel[k] = Math.Exp(-0.5 * k * k / (sigma * sigma));
            whole += k == 0 ? kernel[k] : 2 * kernel[k];
        }

        for (var c = 0; c < Classes; c++)
        {
            if (row[c] == 0)
            {
                continue;
            }

            for (var k = -reach; k <= reach; k++)
            {
                joint[repair, Math.Clamp(c + k, 0, Classes - 1)] += row[c] * kernel[Math.Abs(k)] / whole;
            }
        }
    }

    private static double Square(double x) => x * x;

    // Logarithm of prior and all likelihoods; negative infinity for what cannot be.
    private double[] Total()
    {
        var samples = Table.Samples;
        var total = new double[Priors.Count * samples];
        for (var i = 0; i < total.Length; i++)
        {
            var prior = Priors[i / samples];
            total[i] = Table.Solved[i] && prior > 0 ? Math.Log(prior / samples) : double.NegativeInfinity;
            for (var o = 0; o < _logs.Length; o++)
            {
                total[i] += _logs[o][i];
            }
        }

        return total;
    }

    private double[] WeighWithout(int observation)
    {
        if (observation >= 0 && _without[observation] is { } known)
        {
            return known;
        }

        var weights = new double[_total.Length];
        var most = double.NegativeInfinity;
        for (var i = 0; i < weights.Length; i++)
        {
            weights[i] = observation < 0 || double.IsNegativeInfinity(_total[i]) ? _total[i] : _total[i] - _logs[observation][i];
            most = Math.Max(most, weights[i]);
        }

        var sum = 0.0;
        for (var i = 0; i < weights.Length; i++)
        {
            weights[i] = weights[i] < most - 60 ? 0 : Math.Exp(weights[i] - most);
            sum += weights[i];
        }

        for (var i = 0; i < weights.Length; i++)
        {
            weights[i] /= sum;
        }

        if (observation >= 0)
        {
            _without[observation] = weights;
        }

        return weights;
    }

    private double[] Sum(double[] weights)
    {
        var samples = Table.Samples;
        var sums = new double[Priors.Count];
        for (var i = 0; i < weights.Length; i++)
        {
            sums[i / samples] += weights[i];
        }

        return sums;
    }

    private double[] RepairSum(double[] byFault)
    {
        var sums = new double[Table.System.Repairs.Count];
        var repairOf = Table.RepairOf;
        for (var f = 0; f < byFault.Length; f++)
        {
            sums[repairOf[f]] += byFault[f];
        }

        return sums;
    }

    // The chance of an observation that has nothing to do with the vehicle's state.
    private double Floor(Observation o) =>
        o.Test < 0 ? SlipOfAttempts(o)
        : o.Answers.Count > 0 ? Reading.Misheard / Table.System.Tests[o.Test].Choices.Count
        : Reading.Slip * SlipDensity(Table, o.Test);

    private static double[] LikelihoodsOf(FaultTable table, Observation o)
    {
        var likelihoods = new double[table.Cold.Length];
        if (o.Test < 0)
        {
            for (var i = 0; i < likelihoods.Length; i++)
            {
                var p = Math.Clamp((double)table.Cold[i], 0, 1) * (i < table.Samples ? 0 : 1);
                p = Math.Clamp(p, 0.02, 0.98);
                likelihoods[i] = Math.Pow(p, o.Failed) * Math.Pow(1 - p, o.Tried - o.Failed) + SlipOfAttempts(o);
            }

            return likelihoods;
        }

        if (o.Answers.Count > 0)
        {
            for (var i = 0; i < likelihoods.Length; i++)
            {
                // Two behaviours of one kind: now this was heard, now that.
                likelihoods[i] = o.Answers.Average(a => ChanceOfAnswer(table, o.Test, i / table.Samples, i % table.Samples, a));
            }

            return likelihoods;
        }

        var samples = table.Samples;
        var (numbers, kernels) = (table.NumbersOf(o.Test), table.KernelsOf(o.Test));
        var read = table.Scales[o.Test].To(o.Value);
        var floor = Reading.Slip * SlipDensity(table, o.Test);
        var shows = table.System.Tests[o.Test].Hot ? table.Hot : table.Cold;
        for (var i = 0; i < likelihoods.Length; i++)
        {
            var sigma = Math.Sqrt(Square(Error) + Square(Kernel * kernels[i]));
            var p = (double)shows[i];
            var chance = Normal(read - numbers[i], sigma);
            if (p < 1)
            {
                chance = p * chance + (1 - p) * Normal(read - numbers[i % samples], Math.Sqrt(Square(Error) + Square(Kernel * kernels[i % samples])));
            }

            likelihoods[i] = (1 - Reading.Slip) * chance + floor;
        }

        return likelihoods;
    }

    private static double SlipOfAttempts(Observation o) => Reading.Slip / (o.Tried + 1);

    // A slip falls anywhere in what a working meter could show.
    private static double SlipDensity(FaultTable table, int test)
    {
        var t = table.System.Tests[test];
        var scale = table.Scales[test];
        var volts = table.Setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12);
        var (low, high) = t.Plausible is { } p ? ((double)(t.Unit!.ToBase(p.Low) * t.Scale((decimal)volts)), (double)(t.Unit.ToBase(p.High) * t.Scale((decimal)volts))) : (0.0, 1.0);
        return 1 / Math.Max(1, scale.To(high) - scale.To(low));
    }

    private static double ChanceOfAnswer(FaultTable table, int test, int fault, int sample, int answer)
    {
        var t = table.System.Tests[test];
        var at = fault * table.Samples + sample;
        // A complaint tells of the occasion on which it failed.
        double shows = t.Complaint ? 1 : t.Hot ? table.Hot[at] : table.Cold[at];
        if (t.Measure == Measure.Attempts)
        {
            return Reading.OfTen(fault == 0 ? 0 : shows, answer);
        }

        var bad = One(table, test, fault, at, answer);
        return shows >= 1 ? bad : shows * bad + (1 - shows) * One(table, test, 0, sample, answer);
    }

    private static double One(FaultTable table, int test, int fault, int at, int answer) =>
        table.Decided(test)[at] is var decided && decided == FaultTable.Undecided
            ? table.Chances[test][fault][answer]
            : Reading.Heard(decided == answer ? 1 : 0, table.System.Tests[test].Choices.Count);

    private static double Normal(double distance, double sigma) => Math.Exp(-0.5 * distance * distance / (sigma * sigma)) / (sigma * 2.5066282746310002);
}
