namespace Screeline.Core.Diagnosis;

/// <summary>One observation as the beliefs take it.</summary>
/// <param name="Test">The test's place in the system; −1 for attempts before anything was measured.</param>
/// <param name="Value">The number in the base unit; unused for answers.</param>
/// <param name="Answers">The answers given; empty for a number.</param>
/// <param name="Tried">Attempts made.</param>
/// <param name="Failed">Attempts that failed.</param>
public sealed record Observation(int Test, double Value, IReadOnlyList<int> Answers, int Tried = 0, int Failed = 0);

/// <summary>
/// How likely each fault is given all observations. Under a fault all that can be read has one joint normal density
/// (<see cref="FaultDensity"/>); its likelihood of the observations is worked out, not sampled, as a sum over explanations: which
/// numbers are slips, and for a fault that comes and goes which were read while it did not show. An answer is told by its margin's
/// being above zero, which is then known to be so (assumed density filtering; Minka 2001, section 3.2, from memory). Nothing is
/// remembered from one inquiry to the next, so that an observation can be taken away without a trace.
/// </summary>
public sealed class Beliefs
{
    // Width of a reading's error against the instrument's: readings of a vehicle that is a little off the template are not slips.
    private const double Error = 3;

    // One reading of five lies astray, by so much more: else a belief would hang on how wide what was sampled is, four of its deviations
    // away (decision 0032).
    private const double Astray = 0.2;
    private const double AstrayError = 15;

    // Explanations that are followed for one fault, and how likely one must be against the likeliest.
    private const int Most = 12;
    private const double Least = 1e-5;

    // A fault this unlikely stays unlikely when one observation is taken away: what is a slip is one in some hundred thousand.
    private const double Never = 1e-14;

    private const double RootOfTwoPi = 2.5066282746310002;

    // How finely the chance per attempt that a fault shows is followed between its bounds.
    private const int Places = 16;

    private readonly int[] _order;
    // By fault, density and how many observations are weighed.
    private readonly Explanation[][][][] _stages;
    private readonly double[]?[] _without;
    // By fault: the explanations that carry weight in what is still to come.
    private readonly Explanation[][] _likely;
    private readonly double _whole;
    // For a fault that comes and goes: the chances by place that it shows and that it does not, cold and hot.
    private readonly (double[] Cold, double[] NotCold, double[] Hot, double[] NotHot)?[] _shows;

    /// <summary>Weighs all faults.</summary>
    /// <param name="table">What every test would read.</param>
    /// <param name="priors">Chance of each fault before any reading, in the table's order.</param>
    /// <param name="observations">In any order: they are weighed in a canonical one.</param>
    public Beliefs(FaultTable table, IReadOnlyList<double> priors, IEnumerable<Observation> observations)
    {
        var possible = priors.Where((_, f) => table.Applies[f]).Sum();
        (Table, Priors) = (table, [.. priors.Select((p, f) => table.Applies[f] ? p / possible : 0)]);
        Observations = [.. observations.OrderBy(o => o.Test).ThenBy(o => o.Value).ThenBy(o => o.Answers.DefaultIfEmpty(-1).Min()).ThenBy(o => o.Tried).ThenBy(o => o.Failed)];
        _without = new double[]?[Observations.Count];
        _shows = [.. table.System.Faults.Select(f => f.IsIntermittent ? (ByPlace(f.Cold), Not(ByPlace(f.Cold)), ByPlace(f.Hot), Not(ByPlace(f.Hot))) : ((double[], double[], double[], double[])?)null)];
        // Numbers come first: they are exact.
        _order = [.. Enumerable.Range(0, Observations.Count).OrderBy(o => IsNumber(Observations[o]) ? 0 : 1)];
        _stages = new Explanation[Priors.Count][][][];
        Parallel.For(0, Priors.Count, f => _stages[f] = Priors[f] == 0 ? [] : [.. table.Densities[f].Select(d => Stages(f, d))]);
        var masses = _stages.Select(f => f.Sum(d => Mass(d[^1]))).ToArray();
        _whole = masses.Sum();
        ByFault = [.. masses.Select(m => m / _whole)];
        ByRepair = RepairSum(ByFault);
        _likely = [.. _stages.Select((densities, f) => densities.SelectMany(d => d[^1]).Where(e => e.Mass > 1e-3 * ByFault[f] * _whole && e.Mass > 1e-7 * _whole).ToArray())];
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

    /// <summary>Chance of each fault had one observation not been made.</summary>
    public double[] ByFaultWithout(int observation)
    {
        var masses = MassesWithout(observation);
        var whole = masses.Sum();
        return [.. masses.Select(m => m / whole)];
    }

    /// <summary>How well each fault explains one observation, given all the others: its likelihood.</summary>
    public double[] Fit(int observation) => [.. MassesWithout(observation).Select((m, f) => m > 0 ? ByFault[f] * _whole / m : 0)];

    /// <summary>
    /// The chance that an observation is a slip, or heard wrong, rather than what the vehicle gave: near 1 when nothing that
    /// explains the others explains it.
    /// </summary>
    public double ChanceOfSlip(int observation) => Math.Min(1, Floor(Observations[observation]) * MassesWithout(observation).Sum() / _whole);

    /// <summary>The same had another observation not been made.</summary>
    public double ChanceOfSlip(int observation, int without) =>
        Math.Min(1, Floor(Observations[observation]) * MassesWithout([observation, without]).Sum() / MassesWithout(without).Sum());

    /// <summary>
    /// Joint chance of repair (row) and outcome (column) of a test not yet done. Outcomes of a number are classes of the
    /// reading scale, of an answer the answers.
    /// </summary>
    public double[,] Outcomes(int test) => Table.System.Tests[test].Unit is null ? AnswerOutcomes(test) : NumberOutcomes(test);

    /// <summary>The chance that a test's number would lie between two values of its reading scale, were a repair the right one.</summary>
    public double ChanceBetween(int test, double low, double high, int repair) =>
        Average(repair, (fault, e) => Of(e, test, 0) is var (mean, sigma) ? Normal((high - mean) / sigma) - Normal((low - mean) / sigma) : 0);

    /// <summary>What a test's number would be on the average on its reading scale, were a repair the right one.</summary>
    public double Expected(int test, int repair) => Average(repair, (fault, e) => Of(e, test, 0).Mean);

    /// <summary>The chance that the vehicle gives an answer while the fault shows, were a repair the right one.</summary>
    public double ChanceOf(int test, int answer, int repair) => Average(repair, (fault, e) =>
        Table.System.Tests[test].Measure == Measure.Attempts || Table.System.Faults[fault].Signs.ContainsKey(Table.System.Tests[test].Id) ? Table.Chances[test][fault][answer]
        : Margins(e, test, 0) is var margins ? margins[answer] + margins[^1] * Table.Chances[test][fault][answer] : 0);

    // One way in which a fault may have given what was observed: the variables that were read, the rows of the Cholesky factor of
    // their covariance, how far each reading is from what those before it let expect in its own deviations, and the likelihood by
    // place of the chance that the fault shows.
    private sealed record Explanation(FaultDensity Density, int[] Read, double[][] Factor, double[] Away, double[] Weights)
    {
        public double Mass { get; } = Sum(Weights);

        public Explanation Times(double chance) => new(Density, Read, Factor, Away, Scaled(Weights, chance, null));

        public Explanation Times(double chance, double[]? shows) => new(Density, Read, Factor, Away, Scaled(Weights, chance, shows));

        public Explanation With(int variable, double[] row, double sigma, double away) => new(Density, [.. Read, variable], [.. Factor, [.. row, sigma]], [.. Away, away], Weights);

        private static double[] Scaled(double[] weights, double chance, double[]? shows)
        {
            var scaled = new double[weights.Length];
            for (var p = 0; p < scaled.Length; p++)
            {
                scaled[p] = weights[p] * chance * (shows?[p] ?? 1);
            }

            return scaled;
        }

        private static double Sum(double[] weights)
        {
            var sum = 0.0;
            foreach (var weight in weights)
            {
                sum += weight;
            }

            return sum;
        }
    }

    private static double Mass(Explanation[] explanations) => explanations.Sum(e => e.Mass);

    private double[] MassesWithout(int observation) => _without[observation] ??= MassesWithout([observation]);

    private double[] MassesWithout(int[] observations)
    {
        var at = observations.Min(o => Array.IndexOf(_order, o));
        int[] after = [.. _order.Skip(at + 1).Except(observations)];
        double After(int fault, Explanation[] before) => Mass(after.Aggregate(before, (explanations, o) => Explain(fault, explanations, Observations[o])));
        var never = Math.Pow(Never, observations.Length);
        return [.. _stages.Select((densities, f) => ByFault[f] < never ? 0 : densities.Sum(d => After(f, d[at])))];
    }

    // The explanations by a fault of none of the observations, of the first, of the first two, …
    private Explanation[][] Stages(int fault, FaultDensity density)
    {
        var places = Table.System.Faults[fault].IsIntermittent ? Places : 1;
        var stages = new Explanation[_order.Length + 1][];
        stages[0] = [new(density, [], [], [], [.. Enumerable.Repeat(Priors[fault] * density.Share / places, places)])];
        for (var k = 0; k < _order.Length; k++)
        {
            stages[k + 1] = Explain(fault, stages[k], Observations[_order[k]]);
        }

        return stages;
    }

    private Explanation[] Explain(int fault, Explanation[] before, Observation o)
    {
        var next = new List<Explanation>(3 * before.Length);
        var attempted = IsNumber(o) ? null : Attempted(fault, o);
        foreach (var e in before)
        {
            if (IsNumber(o))
            {
                Read(fault, e, o, next);
            }
            else if (attempted is not null)
            {
                next.Add(e.Times(1, attempted));
            }
            else
            {
                Told(fault, e, o, next);
            }
        }

        var least = Least * next.Select(e => e.Mass).DefaultIfEmpty().Max();
        next.RemoveAll(e => e.Mass <= least);
        return next.Count <= Most ? [.. next] : [.. next.OrderByDescending(e => e.Mass).Take(Most)];
    }

    private static bool IsNumber(Observation o) => o.Test >= 0 && o.Answers.Count == 0;

    private static double[] ByPlace((double From, double To) chance) => [.. Enumerable.Range(0, Places).Select(p => chance.From + (chance.To - chance.From) * (p + 0.5) / Places)];

    private static double[] Not(double[] chances) => [.. chances.Select(c => 1 - c)];

    // The chance per attempt that a fault shows, by place; a complaint tells of the occasion on which it failed.
    private double[] Shows(int fault, FaultTest? test) =>
        fault == 0 || test is { Complaint: true } || _shows[fault] is not { } shows ? [.. Enumerable.Repeat(fault == 0 ? 0.0 : 1, _shows[fault] is null ? 1 : Places)]
        : test is { Hot: true } ? shows.Hot : shows.Cold;

    // The chance of what attempts told, by place; null when something else was told.
    private double[]? Attempted(int fault, Observation o)
    {
        var test = o.Test < 0 ? null : Table.System.Tests[o.Test];
        return test is null ? [.. Shows(fault, null).Select(c => Attempted(Math.Clamp(c, 0.02, 0.98), o))]
            : test.Measure == Measure.Attempts ? [.. Shows(fault, test).Select(c => o.Answers.Average(a => Reading.OfTen(c, a)))]
            : null;
    }

    // A number that was read: a slip, or what the vehicle gave.
    private void Read(int fault, Explanation e, Observation o, List<Explanation> next)
    {
        var read = (double)Table.Scales[o.Test].To(o.Value);
        next.Add(e.Times(Floor(o)));
        foreach (var (variable, shows) in Ways(fault, Table.System.Tests[o.Test], o.Test))
        {
            var (row, mean, variance) = Given(e, variable, Error * Error);
            var (chance, sigma, away) = Near(read - mean, variance, variance - Error * Error + AstrayError * AstrayError);
            next.Add(e.Times((1 - Reading.Slip) * chance, shows).With(variable, row, sigma, away));
        }
    }

    // A reading that is so far from what was expected is as near as its error says, or astray: its likelihood, and the single normal
    // reading that leaves what was measured with the mean and the variance that it has after either (from the first two derivatives of
    // the likelihood's logarithm; Masreliez 1975, from memory).
    private static (double Chance, double Sigma, double Away) Near(double off, double variance, double wide)
    {
        var (near, astray) = ((1 - Astray) * Density(variance), Astray * Density(wide));
        var chance = near + astray;
        var isNear = chance > 0 ? near / chance : 0;
        var slope = off * (isNear / variance + (1 - isNear) / wide);
        var between = off / variance - off / wide;
        // Where it may well be either, what was measured would be less sure than before: no reading is taken to say that.
        var curve = Math.Max(isNear / variance + (1 - isNear) / wide - isNear * (1 - isNear) * between * between, 1 / wide);
        var sigma = 1 / Math.Sqrt(curve);
        return (chance, sigma, slope * sigma);

        double Density(double v) => Math.Exp(-0.5 * off * off / v) / (Math.Sqrt(v) * RootOfTwoPi);
    }

    // An answer that was told.
    private void Told(int fault, Explanation e, Observation o, List<Explanation> next)
    {
        var (test, single) = (Table.System.Tests[o.Test], o.Answers.Count == 1 ? o.Answers[0] : (int?)null);
        foreach (var (variable, shows) in Ways(fault, test, Table.FirstMargin[o.Test]))
        {
            var own = variable < Table.Variables;
            var chances = Answers(fault, e, o.Test, own);
            // Two behaviours of one kind: now this was heard, now that.
            var chance = single is { } answer ? chances[answer] : o.Answers.Average(a => chances[a]);
            var told = e.Times(chance, shows);
            next.Add(single is { } heard && !IsByChance(own ? fault : 0, test) ? Known(told, variable + heard, chance) : told);
        }
    }

    // How a test can have come out: by the fault, and where it comes and goes by the vehicle without it; with the chances by place.
    private (int Variable, double[]? Shows)[] Ways(int fault, FaultTest test, int variable) =>
        _shows[fault] is not { } shows || test.Complaint ? [(variable, null)]
        : test.Hot ? [(variable, shows.Hot), (Table.Variables + variable, shows.NotHot)]
        : [(variable, shows.Cold), (Table.Variables + variable, shows.NotCold)];

    private bool IsByChance(int fault, FaultTest test) => Table.System.Faults[fault].Signs.ContainsKey(test.Id);

    // What a variable is, given all that an explanation has read: the row it adds to the factor, its mean and its variance.
    private static (double[] Row, double Mean, double Variance) Given(Explanation e, int variable, double error)
    {
        var row = new double[e.Read.Length];
        var (mean, variance) = Given(e, variable, error, row);
        return (row, mean, variance);
    }

    private static (double Mean, double Variance) Given(Explanation e, int variable, double error, Span<double> row)
    {
        var density = e.Density;
        var (mean, variance) = (density.Mean(variable), density.Covariance(variable, variable) + error);
        for (var m = 0; m < row.Length; m++)
        {
            var sum = density.Covariance(variable, e.Read[m]);
            var factor = e.Factor[m];
            for (var k = 0; k < m; k++)
            {
                sum -= row[k] * factor[k];
            }

            row[m] = sum / factor[m];
            mean += row[m] * e.Away[m];
            variance -= row[m] * row[m];
        }

        return (mean, Math.Max(variance, Math.Max(error / 2, 1e-8)));
    }

    private static (double Mean, double Sigma) Of(Explanation e, int variable, double error)
    {
        // Asked for every test still to do: no room is taken for a row that nobody wants.
        var count = e.Read.Length;
        var (mean, variance) = Given(e, variable, error, count <= 64 ? stackalloc double[count] : new double[count]);
        return (mean, Math.Sqrt(variance));
    }

    // The chance that each answer's margin is above zero, and last that none is decided; they sum to 1.
    private double[] Margins(Explanation e, int test, int from)
    {
        var chances = new double[Table.System.Tests[test].Choices.Count + 1];
        for (var a = 0; a < chances.Length; a++)
        {
            var (mean, sigma) = Of(e, from + Table.FirstMargin[test] + a, 0);
            chances[a] = Normal(mean / sigma);
        }

        var sum = Math.Max(1e-300, chances.Sum());
        for (var a = 0; a < chances.Length; a++)
        {
            chances[a] /= sum;
        }

        return chances;
    }

    // The chance that each answer is heard, while the fault shows or while it does not.
    private double[] Answers(int fault, Explanation e, int test, bool own)
    {
        var shown = own ? fault : 0;
        var t = Table.System.Tests[test];
        var chances = Table.Chances[test][shown];
        if (IsByChance(shown, t))
        {
            return chances;
        }

        var margins = Margins(e, test, own ? 0 : Table.Variables);
        var heard = new double[chances.Length];
        for (var a = 0; a < heard.Length; a++)
        {
            heard[a] = (1 - Reading.Misheard) * margins[a] + (1 - margins[^1]) * Reading.Misheard / heard.Length + margins[^1] * chances[a];
        }

        return heard;
    }

    // A margin that is known to be above zero, as far as the answer was not heard wrong: like a reading of it with such an error that
    // mean and variance become those of the cut normal distribution.
    private static Explanation Known(Explanation e, int variable, double chance)
    {
        var (row, mean, variance) = Given(e, variable, 0);
        var sigma = Math.Sqrt(variance);
        var t = mean / sigma;
        var above = Normal(t);
        var heard = Math.Min(1, (1 - Reading.Misheard) * above / Math.Max(1e-300, chance));
        // The mean of what lies above zero, in deviations from the whole's mean.
        var step = t < -6 ? -t : Math.Exp(-0.5 * t * t) / (above * RootOfTwoPi);
        var taken = Math.Min(0.95, heard * Math.Clamp(step * (step + t), 0, 1));
        var whole = Math.Sqrt(variance / Math.Max(taken, 1e-9));
        // What was as good as sure tells nothing new.
        return taken < 0.05 ? e : e.With(variable, row, whole, heard * step * whole / sigma);
    }

    private double Average(int repair, Func<int, Explanation, double> value)
    {
        var (sum, mass) = (0.0, 0.0);
        for (var f = 0; f < Priors.Count; f++)
        {
            if (Table.RepairOf[f] == repair)
            {
                foreach (var e in _likely[f])
                {
                    (sum, mass) = (sum + e.Mass * value(f, e), mass + e.Mass);
                }
            }
        }

        return mass > 0 ? sum / mass : 0;
    }

    private double[,] AnswerOutcomes(int test)
    {
        var t = Table.System.Tests[test];
        var joint = new double[Table.System.Repairs.Count, t.Choices.Count];
        for (var f = 0; f < Priors.Count; f++)
        {
            foreach (var e in _likely[f])
            {
                for (var a = 0; a < t.Choices.Count && t.Measure == Measure.Attempts; a++)
                {
                    joint[Table.RepairOf[f], a] += e.Times(1, Attempted(f, new Observation(test, 0, [a]))).Mass / _whole;
                }

                foreach (var (variable, shows) in t.Measure == Measure.Attempts ? [] : Ways(f, t, 0))
                {
                    var mass = e.Times(1, shows).Mass / _whole;
                    var chances = Answers(f, e, test, variable == 0);
                    for (var a = 0; a < chances.Length; a++)
                    {
                        joint[Table.RepairOf[f], a] += mass * chances[a];
                    }
                }
            }
        }

        return joint;
    }

    private const int Classes = 48;

    // Farther from the mean than so many deviations lies less than a part in a hundred million.
    private const double Far = 6;

    private double[,] NumberOutcomes(int test)
    {
        var parts = new List<(int Repair, double Mass, double Mean, double Sigma)>();
        for (var f = 0; f < Priors.Count; f++)
        {
            foreach (var e in _likely[f])
            {
                foreach (var (variable, shows) in Ways(f, Table.System.Tests[test], test))
                {
                    var (mean, sigma) = Of(e, variable, Error * Error);
                    parts.Add((Table.RepairOf[f], e.Times(1, shows).Mass / _whole, mean, sigma));
                }
            }
        }

        // Classes cover what is still likely, so that they are fine where it matters.
        var likely = parts.Where(p => p.Mass > 1e-4).ToList();
        var (low, high) = (likely.Min(p => p.Mean - 2.5 * p.Sigma), likely.Max(p => p.Mean + 2.5 * p.Sigma));
        var width = (high - low) / Classes;
        var joint = new double[Table.System.Repairs.Count, Classes];
        foreach (var (repair, mass, mean, sigma) in parts)
        {
            int Class(double value) => (int)Math.Clamp((value - low) / width, 0, Classes - 1);
            var (below, last) = (0.0, Class(mean + Far * sigma));
            for (var c = Class(mean - Far * sigma); c <= last; c++)
            {
                var until = c == last ? 1 : Normal((low + (c + 1) * width - mean) / sigma);
                joint[repair, c] += mass * (until - below);
                below = until;
            }
        }

        return joint;
    }

    private double[] RepairSum(double[] byFault)
    {
        var sums = new double[Table.System.Repairs.Count];
        for (var f = 0; f < byFault.Length; f++)
        {
            sums[Table.RepairOf[f]] += byFault[f];
        }

        return sums;
    }

    // The chance of an observation that has nothing to do with the vehicle's state.
    private double Floor(Observation o) =>
        o.Test < 0 ? SlipOfAttempts(o)
        : o.Answers.Count > 0 ? Reading.Misheard / Table.System.Tests[o.Test].Choices.Count
        : Reading.Slip * SlipDensity(Table, o.Test);

    private static double Attempted(double chance, Observation o) => Math.Pow(chance, o.Failed) * Math.Pow(1 - chance, o.Tried - o.Failed) + SlipOfAttempts(o);

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

    // The normal distribution's integral (Abramowitz and Stegun 1964, 7.1.26, from memory; off by less than 1e-7).
    private static double Normal(double x)
    {
        var t = 1 / (1 + 0.3275911 / 1.4142135623730951 * Math.Abs(x));
        var tail = 0.5 * t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429)))) * Math.Exp(-0.5 * x * x);
        return x >= 0 ? 1 - tail : tail;
    }
}
