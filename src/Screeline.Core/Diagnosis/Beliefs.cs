namespace Screeline.Core.Diagnosis;

/// <summary>One observation as the beliefs take it.</summary>
/// <param name="Test">The test's place in the system; −1 for attempts before anything was measured.</param>
/// <param name="Value">The number in the base unit; unused for answers.</param>
/// <param name="Answers">The answers given; empty for a number.</param>
/// <param name="Tried">Attempts made.</param>
/// <param name="Failed">Attempts that failed.</param>
/// <param name="IsComplaint">Whether it is told by the complaint's words and was not observed since.</param>
/// <param name="Times">How often it was observed with the same outcome.</param>
/// <param name="Temperature">The place among <see cref="VehicleSetting.Temperatures"/> of the temperature it was observed at.</param>
public sealed record Observation(int Test, double Value, IReadOnlyList<int> Answers, int Tried = 0, int Failed = 0, bool IsComplaint = false, int Times = 1, int Temperature = 0);

/// <summary>
/// The posterior over faults given all observations. Each fault is a Gaussian mixture (<see cref="MixtureComponent"/>); the
/// likelihood of the observations is worked out for each component as a sum over explanations: which observations are outliers (a
/// probe at the wrong point, a word misheard), and for a fault that comes and goes which were taken while it did not show. Beside the
/// faults stands one hypothesis for all that is not known, with broad expectations. Nothing is remembered from one inquiry to the
/// next, so that an observation can be taken away without a trace.
/// </summary>
public sealed class Beliefs
{
    /// <summary>Before anything is read: the chance that what is wrong is not known here.</summary>
    public const double PriorOfUnknown = 0.0005;

    /// <summary>All words of a complaint together make nothing more than so many times likelier than anything else.</summary>
    public const double ComplaintWeighs = 20;

    // Width of a reading's error against the instrument's: readings of a vehicle that is a little off the template are no outliers.
    private const double Error = 3;

    // Explanations that are followed for one component, and how likely one must be against the likeliest.
    private const int Most = 5;
    private const double Least = 1e-3;

    private const double Trusted = 1 - Reading.Outlier - Reading.NoContact;

    // What is rarer, of all, carries nothing into what is still to come; what is this rare nothing at all, whatever else is read.
    private const double Carries = 1e-4;
    private const double Never = 1e-8;

    private const double RootOfTwoPi = 2.5066282746310002;

    // How finely the chance per attempt that a fault shows is followed between its bounds.
    private const int Places = 8;

    // Of something not known half of what is read is as on a sound vehicle, half is anything.
    private const double AsSound = 0.5;

    private readonly Component[] _components;
    // Complaint words come first, all at once, then numbers, which are exact, then answers.
    private readonly int[] _complaint, _order;
    // All that is left when everything is weighed; the likeliest of each component; and what of those carries something into what is still to come.
    private readonly Explanation[] _explanations, _likely;
    // What was explained before each observation was weighed, in their order; and what is without one, where that was asked.
    private readonly Explanation[][][] _before;
    private readonly (double[] Masses, double Unknown)?[] _without;
    private readonly double _whole, _begun, _unknown, _known;
    // For a fault that comes and goes: the chances by place that it shows and that it does not, cold and hot.
    private readonly (double[] Cold, double[] NotCold, double[] Hot, double[] NotHot)?[] _shows;

    // A number that was read: its variable; its row of the Cholesky factor of the covariance of all that was
    // read, and how far it is from what those before it let expect, in its own deviations.
    private sealed record Number(int Variable, double[] Row, double Away);

    private sealed record Component(int Index, int Fault, MixtureComponent Mixture, double Prior);

    /// <summary>Weighs all faults.</summary>
    /// <param name="table">What every test would read.</param>
    /// <param name="priors">Chance of each fault before any reading, in the table's order.</param>
    /// <param name="observations">In any order: they are weighed in a canonical one.</param>
    public Beliefs(FaultTable table, IReadOnlyList<double> priors, IEnumerable<Observation> observations)
    {
        Table = table;
        Observations = [.. observations.OrderBy(o => o.Test).ThenBy(o => o.Value).ThenBy(o => o.Answers.DefaultIfEmpty(-1).Min()).ThenBy(o => o.Tried).ThenBy(o => o.Failed)];
        _without = new (double[], double)?[Observations.Count];
        _shows = [.. table.System.Faults.Select(f => f.IsIntermittent ? (ByPlace(f.Cold), Not(ByPlace(f.Cold)), ByPlace(f.Hot), Not(ByPlace(f.Hot))) : ((double[], double[], double[], double[])?)null)];
        // What one configuration can have shares what is likely of it.
        var possible = table.Applies.Select(applies => priors.Where((_, f) => applies[f]).Sum()).ToArray();
        double PriorOf(int fault, int configuration) => (1 - PriorOfUnknown) * table.Configurations[configuration].Share * priors[fault] / possible[configuration];
        _components = [.. table.Components.SelectMany((mixture, f) => mixture.Select(m => (Fault: f, Mixture: m))).Where(x => priors[x.Fault] > 0).Select((x, i) => new Component(i, x.Fault, x.Mixture, PriorOf(x.Fault, x.Mixture.Configuration) * x.Mixture.Weight))];
        Priors = [.. table.System.Faults.Select((_, f) => _components.Where(c => c.Fault == f).Sum(c => c.Prior))];
        _complaint = [.. Enumerable.Range(0, Observations.Count).Where(o => Observations[o].IsComplaint)];
        _order = [.. Enumerable.Range(0, Observations.Count).Except(_complaint).OrderBy(o => IsNumber(Observations[o]) ? 0 : 1)];
        var explanations = Begin(_complaint, out var unknown);
        _before = new Explanation[_order.Length][][];
        for (var k = 0; k < _order.Length; k++)
        {
            explanations = ExplainAll(_before[k] = explanations, _order[k]);
        }

        (_begun, _unknown) = (unknown, _order.Aggregate(unknown, (u, o) => u * ByUnknown(Observations[o])));
        _explanations = [.. explanations.SelectMany(e => e)];
        _whole = _explanations.Sum(e => e.Mass) + _unknown;
        ByFault = [.. ByFaultOf(_explanations, e => e.Mass).Select(m => m / _whole)];
        ByRepair = RepairSum(ByFault);
        Unknown = _unknown / _whole;
        _known = _explanations.Sum(Told);
        Outlying = (_explanations.Where(e => e.Outliers != 0).Sum(Told) + _unknown) / (_known + _unknown);
        ByConfiguration = [.. table.Configurations.Select((_, c) => _explanations.Where(e => e.Component.Mixture.Configuration == c).Sum(e => e.Mass) / Math.Max(1e-300, _whole - _unknown))];
        // What is still to come hangs little on which of the observations were outliers: the likeliest explanation stands for its component.
        _likely = [.. explanations.SelectMany(e => Pooled(e, 1)).Where(e => e.Mass > Carries * _whole)];
    }

    /// <summary>The table.</summary>
    public FaultTable Table { get; }
    /// <summary>Chance of each fault before any reading.</summary>
    public IReadOnlyList<double> Priors { get; }
    /// <summary>The observations in canonical order.</summary>
    public IReadOnlyList<Observation> Observations { get; }
    /// <summary>Chance of each fault; with <see cref="Unknown"/> they sum to 1.</summary>
    public double[] ByFault { get; }
    /// <summary>Chance of each repair; with <see cref="Unknown"/> they sum to 1.</summary>
    public double[] ByRepair { get; }
    /// <summary>The chance that it is something that is not known here.</summary>
    public double Unknown { get; }
    /// <summary>The chance that no fault known here explains all the observations: at least one is an outlier, or it is something else.</summary>
    public double Outlying { get; }
    /// <summary>Chance of each configuration of the table.</summary>
    public double[] ByConfiguration { get; }

    /// <summary>Leave-one-out posterior: the chance of each fault had one observation not been made.</summary>
    public double[] ByFaultWithout(int observation)
    {
        var (masses, unknown) = _without[observation] ??= Without(observation);
        return [.. masses.Select(m => m / (masses.Sum() + unknown))];
    }

    /// <summary>How well each fault explains one observation, given all the others: its leave-one-out likelihood (Rasmussen and Williams 2006, section 5.4.2, from memory).</summary>
    public double[] Fit(int observation) => [.. ByFault.Zip((_without[observation] ??= Without(observation)).Masses, (now, then) => then > 0 ? now * _whole / then : 0)];

    // All that was weighed before it is as it was; the rest is weighed anew.
    private (double[] Masses, double Unknown) Without(int observation)
    {
        var (at, unknown) = (Array.IndexOf(_order, observation), _begun);
        var explanations = at < 0 ? Begin([.. _complaint.Where(c => c != observation)], out unknown) : _before[at];
        explanations = _order[(at + 1)..].Aggregate(explanations, ExplainAll);
        return (ByFaultOf(explanations.SelectMany(e => e), e => e.Mass), _order.Where(o => o != observation).Aggregate(unknown, (u, o) => u * ByUnknown(Observations[o])));
    }

    /// <summary>The chance that an observation is an outlier rather than what the vehicle gave, by the faults known here.</summary>
    public double ChanceOfOutlier(int observation) => _explanations.Where(e => (e.Outliers >> observation & 1) != 0).Sum(Told) / Math.Max(1e-300, _known);

    /// <summary>The sets of observations that are outliers together, with their chances by the faults known here, the likeliest first; an empty set for none.</summary>
    public IReadOnlyList<(int[] Observations, double Chance)> Outliers() =>
        [.. _explanations.GroupBy(e => e.Outliers).Select(g => (Enumerable.Range(0, Observations.Count).Where(o => (g.Key >> o & 1) != 0).ToArray(), g.Sum(Told) / Math.Max(1e-300, _known))).OrderByDescending(x => x.Item2)];

    // Words weigh little against what is likely; whether they were wrong is another question, and they seldom are.
    private double Told(Explanation e)
    {
        var mass = e.Mass;
        foreach (var word in _complaint)
        {
            mass *= (e.Outliers >> word & 1) != 0 ? Math.Min(1, ComplaintWeighs * Reading.Misheard / Table.System.Tests[Observations[word].Test].Choices.Count) : 1;
        }

        return mass;
    }

    /// <summary>
    /// Joint chance of repair (row) and outcome (column) of a test not yet done. Outcomes of a number are classes of the
    /// reading scale, of an answer the answers.
    /// </summary>
    public double[,] Outcomes(int test) => Table.System.Tests[test].Unit is null ? AnswerOutcomes(test) : NumberOutcomes(test);

    /// <summary>The chance that a test's number would lie between two values of its reading scale, were a repair the right one.</summary>
    public double ChanceBetween(int test, double low, double high, int repair) =>
        Average(repair, e => Of(e, Table.Variable[test], 0) is var (mean, sigma) ? Normal((high - mean) / sigma) - Normal((low - mean) / sigma) : 0);

    /// <summary>What a test's number would be on the average on its reading scale, were a repair the right one.</summary>
    public double Expected(int test, int repair) => Average(repair, e => Of(e, Table.Variable[test], 0).Mean);

    /// <summary>The chance that the vehicle gives an answer while the fault shows, were a repair the right one.</summary>
    public double ChanceOf(int test, int answer, int repair) => Average(repair, e => AnswersOf(e, test, 0, true)[answer]);

    // One way in which a component may have given what was observed: the numbers that were read, in order, the likelihood by place of
    // the chance that the fault shows, and which observations are outliers, by bit.
    private sealed record Explanation(Component Component, Number[] Read, double[] Weights, ulong Outliers)
    {
        public double Mass => Sum(Weights);

        public Explanation Times(double chance, double[]? shows = null, ulong outliers = 0) => new(Component, Read, Scaled(Weights, chance, shows), Outliers | outliers);

        public Explanation With(Number number) => this with { Read = [.. Read, number] };

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

    // The likeliest explanations of a component, with the mass of all.
    private static IEnumerable<Explanation> Pooled(Explanation[] explanations, int count)
    {
        Explanation[] likeliest = [.. explanations.OrderByDescending(e => e.Mass).Take(count)];
        return likeliest.Select(e => e.Times(explanations.Sum(x => x.Mass) / likeliest.Sum(x => x.Mass)));
    }

    private double[] ByFaultOf(IEnumerable<Explanation> explanations, Func<Explanation, double> mass)
    {
        var sums = new double[Table.System.Faults.Count];
        foreach (var e in explanations)
        {
            sums[e.Component.Fault] += mass(e);
        }

        return sums;
    }

    // What the complaint leaves of each component: its words and attempts together weigh no more than so much.
    private Explanation[][] Begin(int[] complaint, out double unknown)
    {
        int[] words = [.. complaint.Where(o => !IsAttempts(Observations[o]))];
        double Chance(Explanation e, int word) => Mean(AnswersOf(e, Observations[word].Test, Observations[word].Temperature, true), Observations[word]);
        Explanation Of(Component c)
        {
            var places = _shows[c.Fault] is null ? 1 : Places;
            var e = new Explanation(c, [], [.. Enumerable.Repeat(1.0 / places, places)], 0);
            e = complaint.Except(words).Aggregate(e, (x, o) => x.Times(1, Attempted(c.Fault, Observations[o])));
            return e.Times(words.Aggregate(1.0, (l, o) => l * Reading.Heard(Chance(e, o), Table.System.Tests[Observations[o].Test].Choices.Count)));
        }

        Explanation[] told = [.. _components.Select(Of)];
        var least = told.Select(e => e.Mass).DefaultIfEmpty().Max() / ComplaintWeighs;
        unknown = PriorOfUnknown * Math.Max(least, complaint.Aggregate(1.0, (u, o) => u * (IsAttempts(Observations[o]) ? 0.3 : 1.0 / Table.System.Tests[Observations[o].Test].Choices.Count)));
        // Words that do not go with a fault at all are outliers by it.
        return [.. told.Select(e => new[] { e.Mass >= least ? e.Times(e.Component.Prior)
            : e.Times(e.Component.Prior * least / e.Mass, null, words.Where(o => Chance(e, o) < Reading.Misheard).Aggregate(0UL, (bits, o) => bits | 1UL << o)) })];
    }

    private bool IsAttempts(Observation o) => o.Test < 0 || Table.System.Tests[o.Test].Measure == Measure.Attempts;

    private Explanation[][] ExplainAll(Explanation[][] before, int observation)
    {
        var next = new Explanation[before.Length][];
        Parallel.For(0, before.Length, c => next[c] = Explain(before[c], observation));
        // What is so unlikely stays so, whatever else is read: an outlier is not so rare.
        var least = Never * next.Sum(c => c.Sum(e => e.Mass));
        return Array.ConvertAll(next, c => Array.FindAll(c, e => e.Mass > least));
    }

    private Explanation[] Explain(Explanation[] before, int observation)
    {
        var (o, next) = (Observations[observation], new List<Explanation>(3 * before.Length));
        foreach (var e in before)
        {
            if (IsNumber(o))
            {
                Read(e, observation, next);
            }
            else if (Attempted(e.Component.Fault, o) is { } attempted)
            {
                next.Add(e.Times(1, attempted));
            }
            else
            {
                Answered(e, o, 1UL << observation, next);
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
            : test.Measure == Measure.Attempts && o.Answers.Count > 0 ? [.. Shows(fault, test).Select(c => o.Answers.Average(a => Reading.OfTen(c, a)))]
            : null;
    }

    // A number that was read: an outlier, or what the vehicle gave.
    private void Read(Explanation e, int observation, List<Explanation> next)
    {
        var o = Observations[observation];
        var read = Table.Scales[o.Test].To(o.Value);
        next.Add(e.Times(Floor(o), null, 1UL << observation));
        foreach (var (variable, _, shows) in Ways(e, o.Test, o.Temperature, o.Times))
        {
            var number = NumberOf(e, variable, read);
            next.Add(e.Times(Trusted * Math.Exp(-0.5 * number.Away * number.Away) / (number.Row[^1] * RootOfTwoPi), shows).With(number));
        }
    }

    private static Number NumberOf(Explanation e, int variable, double value)
    {
        var (row, mean, variance) = Given(e, variable, Error * Error);
        var sigma = Math.Sqrt(variance);
        return new Number(variable, [.. row, sigma], (value - mean) / sigma);
    }

    // An answer that was given: misheard, or what the vehicle gave.
    private void Answered(Explanation e, Observation o, ulong bit, List<Explanation> next)
    {
        next.Add(e.Times(Floor(o), null, bit));
        foreach (var (_, own, shows) in Ways(e, o.Test, o.Temperature, o.Times))
        {
            next.Add(e.Times((1 - Reading.Misheard) * Mean(AnswersOf(e, o.Test, o.Temperature, own), o), shows));
        }
    }

    // Two behaviours of one kind: now this was heard, now that.
    private static double Mean(double[] chances, Observation o) => o.Answers.Average(a => chances[a]);

    // How a test can have come out: by the fault, and where it comes and goes by the vehicle without it; with the chances by place.
    private (int Variable, bool Own, double[]? Shows)[] Ways(Explanation e, int test, int temperature = 0, int times = 1)
    {
        var (variable, t) = (Table.VariableAt(test, temperature), Table.System.Tests[test]);
        return _shows[e.Component.Fault] is not { } shows || t.Complaint || (variable >= 0 && !e.Component.Mixture.HangsOnFault(variable)) ? [(variable, true, null)]
            : t.Hot ? [(variable, true, Power(shows.Hot, times)), (Table.Numbers + variable, false, Power(shows.NotHot, times))]
            : [(variable, true, Power(shows.Cold, times)), (Table.Numbers + variable, false, Power(shows.NotCold, times))];
    }

    // Read again with the same outcome, it showed or did not show each time.
    private static double[] Power(double[] chances, int times) => times == 1 ? chances : [.. chances.Select(c => Math.Pow(c, times))];

    // The chances of the answers, while the fault shows or while it does not.
    private double[] AnswersOf(Explanation e, int test, int temperature, bool own) =>
        e.Component.Mixture.Answers(((own ? 0 : Table.Temperatures.Count) + temperature) * Table.System.Tests.Count + test) ?? Table.Chances[test][own ? e.Component.Fault : 0];

    // What a variable is, given all that an explanation has read: the row it adds to the factor, its mean and its variance.
    private static (double[] Row, double Mean, double Variance) Given(Explanation e, int variable, double error)
    {
        var row = new double[e.Read.Length];
        var (mean, variance) = Given(e, variable, error, row);
        return (row, mean, variance);
    }

    private static (double Mean, double Variance) Given(Explanation e, int variable, double error, Span<double> row)
    {
        var mixture = e.Component.Mixture;
        var (mean, variance) = (mixture.Mean(variable), mixture.Covariance(variable, variable) + error);
        for (var m = 0; m < row.Length; m++)
        {
            var sum = mixture.Covariance(variable, e.Read[m].Variable);
            var factor = e.Read[m].Row;
            for (var k = 0; k < m; k++)
            {
                sum -= row[k] * factor[k];
            }

            row[m] = sum / factor[m];
            mean += row[m] * e.Read[m].Away;
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

    private double Average(int repair, Func<Explanation, double> value)
    {
        var (sum, mass) = (0.0, 0.0);
        foreach (var e in _likely)
        {
            if (Table.RepairOf[e.Component.Fault] == repair)
            {
                (sum, mass) = (sum + e.Mass * value(e), mass + e.Mass);
            }
        }

        return mass > 0 ? sum / mass : 0;
    }

    private double[,] AnswerOutcomes(int test)
    {
        var t = Table.System.Tests[test];
        var joint = new double[Table.System.Repairs.Count, t.Choices.Count];
        foreach (var e in _likely)
        {
            var repair = Table.RepairOf[e.Component.Fault];
            if (t.Measure == Measure.Attempts)
            {
                for (var a = 0; a < t.Choices.Count; a++)
                {
                    joint[repair, a] += e.Times(1, Attempted(e.Component.Fault, new Observation(test, 0, [a]))).Mass / _whole;
                }

                continue;
            }

            foreach (var (_, own, shows) in Ways(e, test))
            {
                var (mass, chances) = (e.Times(1, shows).Mass / _whole, AnswersOf(e, test, 0, own));
                for (var a = 0; a < chances.Length; a++)
                {
                    joint[repair, a] += mass * Reading.Heard(chances[a], chances.Length);
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
        foreach (var e in _likely)
        {
            foreach (var (variable, _, shows) in Ways(e, test))
            {
                var (mean, sigma) = Of(e, variable, Error * Error);
                parts.Add((Table.RepairOf[e.Component.Fault], e.Times(1, shows).Mass / _whole, mean, sigma));
            }
        }

        var joint = new double[Table.System.Repairs.Count, Classes];
        if (parts.Count == 0)
        {
            return joint;
        }

        // Classes cover what is still likely, so that they are fine where it matters.
        var (low, high) = (parts.Min(p => p.Mean - 2.5 * p.Sigma), parts.Max(p => p.Mean + 2.5 * p.Sigma));
        var width = (high - low) / Classes;
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

    // The likelihood of an observation by something that is not known here.
    private double ByUnknown(Observation o)
    {
        if (o.Test < 0)
        {
            return 1.0 / (o.Tried + 1);
        }

        if (!IsNumber(o))
        {
            var n = Table.System.Tests[o.Test].Choices.Count;
            return (AsSound * o.Answers.Count(a => a == Table.Sound[o.Temperature][o.Test].Answer) / o.Answers.Count) + (1 - AsSound) / n;
        }

        var (low, high, _) = Table.Sound[o.Temperature][o.Test];
        var sigma = Math.Max(Error, (high - low) / 4);
        var away = (Table.Scales[o.Test].To(o.Value) - (low + high) / 2) / sigma;
        return AsSound * Math.Exp(-0.5 * away * away) / (sigma * RootOfTwoPi) + (1 - AsSound) * Table.Anywhere[o.Test];
    }

    // The chance of an observation that has nothing to do with the vehicle's state.
    private double Floor(Observation o)
    {
        if (o.Answers.Count > 0)
        {
            return Math.Pow(Reading.Misheard / Table.System.Tests[o.Test].Choices.Count, o.Times);
        }

        // A probe without contact reads nothing, or near it.
        var away = Table.Scales[o.Test].To(o.Value) / Contact;
        var once = Reading.Outlier * Table.Anywhere[o.Test] + (Table.System.Tests[o.Test].Measure is Measure.Volts or Measure.Amperes ? Reading.NoContact * Math.Exp(-0.5 * away * away) / (Contact * RootOfTwoPi) : 0);
        // The same gross error a second time is as rare again, wherever the first one lay.
        return once * Math.Pow(Reading.Outlier + Reading.NoContact, o.Times - 1);
    }

    // How far a probe without contact may read from nothing, in standard errors.
    private const double Contact = 6;

    private static double Attempted(double chance, Observation o) => Math.Pow(chance, o.Failed) * Math.Pow(1 - chance, o.Tried - o.Failed) + Reading.Outlier / (o.Tried + 1);

    // The normal distribution's integral (Abramowitz and Stegun 1964, 7.1.26, from memory; off by less than 1e-7).
    private static double Normal(double x)
    {
        var t = 1 / (1 + 0.3275911 / 1.4142135623730951 * Math.Abs(x));
        var tail = 0.5 * t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429)))) * Math.Exp(-0.5 * x * x);
        return x >= 0 ? 1 - tail : tail;
    }
}
