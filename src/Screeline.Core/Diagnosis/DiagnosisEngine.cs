using System.Globalization;
using System.Text;

namespace Screeline.Core.Diagnosis;

/// <summary>What a judgement stands on besides the vehicle.</summary>
/// <param name="Case">Readings and complaint.</param>
/// <param name="Done">Access needs that are met already, by id.</param>
/// <param name="AccessMinutes">Minutes to get to a test where the vehicle's map knows better, by test.</param>
/// <param name="History">The shop's closed jobs.</param>
/// <param name="Assumptions">Money.</param>
public sealed record Inquiry(FindCase Case, IReadOnlySet<string> Done, IReadOnlyDictionary<string, double> AccessMinutes, ShopHistory History, Assumptions Assumptions)
{
    /// <summary>A case alone.</summary>
    public Inquiry(FindCase @case) : this(@case, new HashSet<string>(), new Dictionary<string, double>(), ShopHistory.None, Assumptions.Usual)
    {
    }

    /// <summary>Where one is, and with whom.</summary>
    public Whereabouts At { get; init; } = Whereabouts.Nowhere;

    /// <summary>The same for equal inquiries, and only for them: names the judgement that one table gives of it.</summary>
    public string Key()
    {
        var text = new StringBuilder();
        // Each part with its length before it, so that no two lists read alike.
        void Add(IEnumerable<string?> parts)
        {
            text.Append('[');
            foreach (var part in parts)
            {
                text.Append(part?.Length ?? -1).Append(':').Append(part);
            }

            text.Append(']');
        }

        void AddPairs<T>(IReadOnlyDictionary<string, T> pairs) where T : IFormattable =>
            Add(pairs.OrderBy(p => p.Key, StringComparer.Ordinal).SelectMany(p => new[] { p.Key, p.Value.ToString(null, CultureInfo.InvariantCulture) }));

        Add([Case.System.Id, Case.NominalVolts.ToString(CultureInfo.InvariantCulture), Case.Tried.ToString(CultureInfo.InvariantCulture), Case.Failed.ToString(CultureInfo.InvariantCulture)]);
        Add(Case.Behaviours);
        Add(Case.Readings.SelectMany(r => new[] { r.Test, r.Value?.ToString(), r.Choice, r.Celsius?.ToString(CultureInfo.InvariantCulture) }));
        Add(Done.Order(StringComparer.Ordinal));
        Add([At.Place, At.HasHelper ? "helped" : "", At.IsAlone ? "alone" : ""]);
        AddPairs(AccessMinutes);
        Add([History.Model, Assumptions.LabourPerHour.ToString(CultureInfo.InvariantCulture), Assumptions.Comeback.ToString(CultureInfo.InvariantCulture)]);
        AddPairs(History.OnModel);
        AddPairs(History.OnOthers);
        AddPairs(Assumptions.Minutes);
        AddPairs(Assumptions.Prices);
        return text.ToString();
    }
}

/// <summary>Judges cases by a table of what every test would read under every fault. The same inquiry always gets the same answer.</summary>
public sealed class DiagnosisEngine(FaultTable table)
{
    /// <summary>A repair must be this likely before it is called proven.</summary>
    public const double ProvenAt = 0.95;

    /// <summary>From here on it is said that no fault known here explains all that was observed, and nothing leads until something is taken again.</summary>
    public const double DoubtFrom = 0.5;

    /// <summary>From here on the proof is completed rather than the beliefs sharpened.</summary>
    private const double NearlyProvenAt = 0.9;

    /// <summary>And nothing is called proven while it is this likely that something that was observed is odd.</summary>
    private const double ProofDoubt = 0.2;

    /// <summary>A test that is expected to tell less than this is noise to this instrument, bit.</summary>
    public const double LeastGain = 0.01;

    private static readonly Fault[] Nobody = [];

    /// <summary>The table it judges by.</summary>
    public FaultTable Table => table;

    private FaultSystem System => table.System;

    /// <summary>The observations of a case: readings, and what the complaint says.</summary>
    public IEnumerable<Observation> Observations(FindCase c)
    {
        for (var t = 0; t < System.Tests.Count; t++)
        {
            var test = System.Tests[t];
            if (test.Unit is not null)
            {
                if (c.Latest(test.Id) is { Value: { } figure } reading)
                {
                    yield return new Observation(t, (double)figure.Base, [], Times: c.Agreeing(test.Id), Temperature: table.Setting.At(reading.Celsius));
                }
            }
            else if (c.Answers(test.Id) is { Count: > 0 } answers)
            {
                var isComplaint = c.Latest(test.Id) is null;
                yield return new Observation(t, 0, [.. answers.Distinct().Select(a => test.Choices.TakeWhile(x => x.Id != a).Count()).Where(a => a < test.Choices.Count).Order()], IsComplaint: isComplaint, Times: Math.Max(1, c.Agreeing(test.Id)), Temperature: table.Setting.At(c.Latest(test.Id)?.Celsius));
            }
        }

        // Somebody who counted ten attempts has said it already.
        if (c.Tried > 0 && System.Tests.All(t => t.Measure != Measure.Attempts || c.Answers(t.Id).Count == 0))
        {
            yield return new Observation(-1, 0, [], c.Tried, c.Failed, true);
        }
    }

    /// <summary>The beliefs of a case.</summary>
    public Beliefs BeliefsOf(FindCase c, ShopHistory history) => new(table, history.Priors(System), Observations(c));

    /// <summary>Judges a case.</summary>
    public Judgement Judge(Inquiry inquiry)
    {
        var beliefs = BeliefsOf(inquiry.Case, inquiry.History);
        var proof = FourWayProof.Assess(inquiry.Case);
        var faults = System.Faults.Select((f, i) => new Belief(f, beliefs.ByFault[i], beliefs.Priors[i])).OrderByDescending(b => b.Probability).ThenBy(b => b.Fault.Id, StringComparer.Ordinal).ToList();
        var priors = table.RepairOf.Zip(beliefs.Priors).GroupBy(x => x.First).ToDictionary(g => g.Key, g => g.Sum(x => x.Second));
        var repairs = System.Repairs.Select((r, i) => new RepairBelief(r, beliefs.ByRepair[i], priors.GetValueOrDefault(i))).OrderByDescending(b => b.Probability).ThenBy(b => b.Repair.Id, StringComparer.Ordinal).ToList();
        // None of these hangs on another.
        var evidence = new EvidenceLine[beliefs.Observations.Count];
        Parallel.For(0, evidence.Length, i => evidence[i] = Tell(beliefs, beliefs.Observations[i], i));
        var candidates = Candidates(inquiry, beliefs);
        var next = NextTests(inquiry, beliefs, proof, repairs, candidates);
        var decision = Decide(inquiry, beliefs, proof, repairs, candidates, next.FirstOrDefault()?.Test);
        var round = RoundOf(inquiry, next, decision.Act);
        var contradiction = Contradicting(beliefs, proof);
        var surprise = contradiction?.Why ?? (beliefs.Unknown > repairs[0].Probability ? $"What was observed fits nothing known here. {(next is [var first, ..] ? $"“{first.Test.Title}” would narrow it down." : "Look for what is not in the list.")}" : null);
        return new Judgement(faults, repairs, evidence, next, round, proof, decision, EquipmentOf(beliefs), beliefs.Unknown, surprise, contradiction, table.Unsolved);
    }

    private List<EquipmentBelief> EquipmentOf(Beliefs beliefs) =>
    [
        .. from parameter in System.Parameters
           where table.Configurations[0].Choices.ContainsKey(parameter.Id)
           let chances = Enumerable.Range(0, parameter.Choices.Count).Select(choice => table.Configurations.Select((c, i) => c.Choices[parameter.Id] == choice ? beliefs.ByConfiguration[i] : 0).Sum()).ToList()
           let likeliest = chances.IndexOf(chances.Max())
           select new EquipmentBelief(parameter, likeliest, chances[likeliest], table.Setting.Stated.TryGetValue(parameter.Id, out var stated) ? (int)stated : null),
    ];

    /// <summary>The repair that is proven by what is known, or null: what a judgement calls proven, without the rest of it.</summary>
    public Repair? Proven(Inquiry inquiry)
    {
        var beliefs = BeliefsOf(inquiry.Case, inquiry.History);
        var top = Array.IndexOf(beliefs.ByRepair, beliefs.ByRepair.Max());
        return IsProven(FourWayProof.Assess(inquiry.Case), System.Repairs[top], beliefs) ? System.Repairs[top] : null;
    }

    private Tour TourOf(Inquiry inquiry) => new(System, inquiry.AccessMinutes);

    // What each test not yet done would tell.
    private sealed record Candidate(FaultTest Test, double[,] Outcomes, double Gain, double Minutes, double AccessMinutes, double GoingMinutes)
    {
        public double AllMinutes => Minutes + AccessMinutes + GoingMinutes;
    }

    private List<Candidate> Candidates(Inquiry inquiry, Beliefs beliefs)
    {
        var done = beliefs.Observations.Select(o => o.Test).ToHashSet();
        int[] left = [.. Enumerable.Range(0, System.Tests.Count).Where(t => !done.Contains(t) && IsOffered(inquiry, System.Tests[t]))];
        var tour = TourOf(inquiry);
        var candidates = new Candidate[left.Length];
        Parallel.For(0, left.Length, k =>
        {
            var (test, outcomes) = (System.Tests[left[k]], beliefs.Outcomes(left[k]));
            candidates[k] = new Candidate(test, outcomes, Information(outcomes), inquiry.At.MinutesOf(test), tour.AccessMinutes(test, inquiry.Done), inquiry.At.GoingMinutes(test));
        });
        return [.. candidates];
    }

    // Whether it can be done as things stand: by those who are there, and nothing that is known forbids it.
    private static bool IsOffered(Inquiry inquiry, FaultTest test) =>
        !test.Complaint && inquiry.At.Can(test) && test.Wants.All(x => FourWayProof.Holds(inquiry.Case, x) != false);

    /// <summary>Mutual information of rows and columns of a joint distribution, bit (Shannon 1948).</summary>
    public static double Information(double[,] joint)
    {
        var (rows, columns) = (joint.GetLength(0), joint.GetLength(1));
        Span<double> row = stackalloc double[rows];
        Span<double> column = stackalloc double[columns];
        for (var r = 0; r < rows; r++)
        {
            for (var c = 0; c < columns; c++)
            {
                row[r] += joint[r, c];
                column[c] += joint[r, c];
            }
        }

        var bits = 0.0;
        for (var r = 0; r < rows; r++)
        {
            for (var c = 0; c < columns; c++)
            {
                if (joint[r, c] > 1e-15)
                {
                    bits += joint[r, c] * Math.Log2(joint[r, c] / (row[r] * column[c]));
                }
            }
        }

        return Math.Max(0, bits);
    }

    private List<NextTest> NextTests(Inquiry inquiry, Beliefs beliefs, Finding proof, List<RepairBelief> repairs, List<Candidate> candidates)
    {
        var top = repairs[0];
        var isNear = top.Probability >= NearlyProvenAt && !proof.Proves(top.Repair);
        var wanted = isNear ? WantedForProof(inquiry, beliefs, top, candidates) : [];
        var why = top.Repair.IsMotor
            ? $"Because {string.Join(" and ", proof.Proof.Where(l => l.State == ProofState.Open).Select(l => Name(l.Part)))} must be shown before the {top.Repair.Name} is condemned."
            : $"Because it looks like {top.Repair.Name}, and no test has shown that yet.";
        var forProof = wanted.Select(c => Proposed(c, true, why));
        var telling = candidates.Where(c => c.Gain >= LeastGain && !wanted.Contains(c)).Select(c => Proposed(c, false, Separates(beliefs, c, repairs)))
            .OrderByDescending(n => n.GainPerMinute).ThenBy(n => n.Test.Id, StringComparer.Ordinal);
        List<NextTest> next = [.. Again(inquiry, beliefs, proof, isNear).Where(n => inquiry.At.Can(n.Test)), .. forProof, .. isNear && wanted.Count == 0 ? Confirming(inquiry, top.Repair).Where(n => inquiry.At.Can(n.Test)) : [], .. telling];
        return next.Count > 0 ? next : [.. candidates.Where(c => c.Gain >= LeastGain / 10).Select(c => Proposed(c, false, "Because nothing else is left that could turn the belief.")).OrderByDescending(n => n.GainPerMinute).ThenBy(n => n.Test.Id, StringComparer.Ordinal)];
    }

    private static NextTest Proposed(Candidate c, bool forProof, string because) => new(c.Test, c.Gain, c.Minutes, c.AccessMinutes, c.GoingMinutes, forProof, because);

    private static string Name(ProofPart part) => part == ProofPart.Mechanical ? "free movement" : part.ToString().ToLowerInvariant();

    // Of the sets of tests that complete the proof the one that takes least; what may well not come out as it must is dearer for it.
    private List<Candidate> WantedForProof(Inquiry inquiry, Beliefs beliefs, RepairBelief top, List<Candidate> candidates)
    {
        var (c, repair, tour) = (inquiry.Case, System.Repairs.ToList().IndexOf(top.Repair), TourOf(inquiry));
        IEnumerable<(IReadOnlyList<FaultTest> Tests, double Chance)> ways = top.Repair.IsMotor ? FourWayProof.WaysForMotor(c).Select(tests => (tests, 1.0))
            : top.Repair.Proof.Where(a => a.All(x => FourWayProof.Holds(c, x) != false)).Select(a => ((IReadOnlyList<FaultTest>)[.. a.Where(x => FourWayProof.Holds(c, x) is null).Select(x => FourWayProof.Lacking(c, x)).Distinct()],
                a.Aggregate(1.0, (chance, x) => chance * (FourWayProof.Holds(c, x) ?? false ? 1 : ChanceOf(beliefs, x, repair)))));
        var best = ways.Where(w => w.Tests.Count > 0 && w.Chance > 0.3 && w.Tests.All(t => candidates.Exists(x => x.Test == t)))
            .Select(w => (Order: Tour.Ordered(inquiry.At, w.Tests), w.Chance)).OrderBy(w => (tour.MinutesOf(inquiry.At, inquiry.Done, w.Order) + 1) / w.Chance).Select(w => w.Order).FirstOrDefault();
        return [.. (best ?? []).Select(t => candidates.First(x => x.Test == t))];
    }

    // Beside the best test what tells at least so much of what it tells, by the minute, and is at hand at the same place.
    private const double Beside = 0.5;
    private const int MostInRound = 3;

    // In proof what completes it; in search the best test with its way there, and what is then cheap beside it.
    private Round RoundOf(Inquiry inquiry, List<NextTest> next, Act act)
    {
        if (next.Count == 0 || act == Act.Proven)
        {
            return new Round([], 0, false);
        }

        var (tour, first) = (TourOf(inquiry), next[0]);
        var opened = inquiry.Done.Concat(TestAccess.Wanted(System, first.Test, inquiry.Done)).ToHashSet(StringComparer.Ordinal);
        var there = inquiry.At.After(first.Test);
        IEnumerable<FaultTest> others = first.ForProof ? next.Skip(1).TakeWhile(n => n.ForProof).Select(n => n.Test)
            : next.Skip(1).Where(n => there.GoingMinutes(n.Test) == 0 && TestAccess.Wanted(System, n.Test, opened).Count == 0 && n.GainBits >= 3 * LeastGain && n.GainBits / Math.Max(0.1, n.Minutes) >= Beside * first.GainPerMinute).Select(n => n.Test).Take(MostInRound - 1);
        IReadOnlyList<FaultTest> tests = [.. new[] { first.Test }.Concat(others).Distinct()];
        return new Round(tests, tour.MinutesOf(inquiry.At, inquiry.Done, tests), first.ForProof);
    }

    // With the probes where they were a reading is soon taken again, min.
    private const double AgainMinutes = 1;

    private NextTest Repeated(Inquiry inquiry, FaultTest test, string because) =>
        new(test, 0, Math.Min(AgainMinutes, inquiry.At.MinutesOf(test)), TourOf(inquiry).AccessMinutes(test, inquiry.Done), inquiry.At.GoingMinutes(test), true, because);

    // What does not fit is taken again before anything rests on it.
    private IEnumerable<NextTest> Again(Inquiry inquiry, Beliefs beliefs, Finding proof, bool isNear)
    {
        if (proof.Contradiction is { } contradiction)
        {
            return contradiction.TakeAgain.Select(t => Repeated(inquiry, t, "Because it cannot stand beside the other readings: take it again."));
        }

        return beliefs.Outlying < (isNear ? ProofDoubt : DoubtFrom) ? [] : Enumerable.Range(0, beliefs.Observations.Count).Where(i => beliefs.Observations[i].Test >= 0).Select(i => (Test: System.Tests[beliefs.Observations[i].Test], Chance: beliefs.ChanceOfOutlier(i)))
            .Where(x => x.Chance > 0.2 && inquiry.Case.Readings.Count(r => r.Test == x.Test.Id) < 2).OrderByDescending(x => x.Chance)
            .Select(x => Repeated(inquiry, x.Test, "Because it does not fit the other readings: take it again."));
    }

    // Nothing is missing but that what decides is read a second time.
    private IEnumerable<NextTest> Confirming(Inquiry inquiry, Repair repair)
    {
        var c = inquiry.Case;
        var deciding = repair.IsMotor ? (FourWayProof.DecidingForMotor(c) is var motor && motor.Any(t => FourWayProof.IsConfirmed(c, t)) ? [] : motor.Take(1)) : repair.Proof.FirstOrDefault(a => a.All(x => FourWayProof.Holds(c, x) == true)) is { } held ? FourWayProof.Deciding(System, held).Where(t => !FourWayProof.IsConfirmed(c, t)) : [];
        return deciding.Where(t => c.Latest(t.Id) is not null).Select(t => Repeated(inquiry, t, "Because it decides: once more."));
    }

    // How likely a condition of the proof would hold, were this repair the right one.
    private double ChanceOf(Beliefs beliefs, ProofCondition condition, int repair)
    {
        var t = System.Tests.ToList().FindIndex(x => x.Id == condition.Test);
        var test = System.Tests[t];
        var holds = test.Unit is null
            ? beliefs.ChanceOf(t, test.Choices.TakeWhile(x => x.Id != (condition.Choice ?? test.GoodChoice)).Count(), repair)
            : ChanceOfGood(beliefs, t, repair);
        return condition.Negated ? 1 - holds : holds;
    }

    private double ChanceOfGood(Beliefs beliefs, int test, int repair)
    {
        var t = System.Tests[test];
        var volts = (decimal)table.Setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12);
        double? Scaled(decimal? bound) => bound is { } b ? table.Scales[test].To((double)(t.Unit!.ToBase(b) * t.Scale(volts))) : null;
        if (t.Good is not { } good)
        {
            return 1;
        }

        if (good.Of is { } of)
        {
            var other = System.Tests.ToList().FindIndex(x => x.Id == of);
            var least = table.Scales[other].From(beliefs.Expected(other, repair)) - (double)(t.Unit!.ToBase(good.By ?? 0) * t.Scale(volts));
            return beliefs.ChanceBetween(test, table.Scales[test].To(least), double.PositiveInfinity, repair);
        }

        return beliefs.ChanceBetween(test, Scaled(good.LowAt(table.Setting.Celsius)) ?? double.NegativeInfinity, Scaled(good.High) ?? double.PositiveInfinity, repair);
    }

    // The two likely repairs that the test tells apart best.
    private string Separates(Beliefs beliefs, Candidate c, List<RepairBelief> repairs)
    {
        var likely = repairs.Take(5).Where(r => r.Probability > 0.01).Select(r => (r.Repair, Row: System.Repairs.ToList().IndexOf(r.Repair), r.Probability)).ToList();
        var best = (Value: -1.0, One: 0, Other: 0);
        for (var a = 0; a < likely.Count; a++)
        {
            for (var b = a + 1; b < likely.Count; b++)
            {
                var distance = 0.0;
                for (var o = 0; o < c.Outcomes.GetLength(1); o++)
                {
                    distance += Math.Abs(c.Outcomes[likely[a].Row, o] / likely[a].Probability - c.Outcomes[likely[b].Row, o] / likely[b].Probability) / 2;
                }

                var value = distance * Math.Min(likely[a].Probability, likely[b].Probability);
                best = value > best.Value ? (value, likely[a].Row, likely[b].Row) : best;
            }
        }

        return best.Value < 0 ? "Because it could still turn the belief." : Told(beliefs, c, best.One, best.Other);
    }

    // Two repairs are told apart by whether a reading is good where it is so this much likelier under one.
    private const double Likelier = 0.3;

    // Which outcome would speak for which of two repairs.
    private string Told(Beliefs beliefs, Candidate c, int one, int other)
    {
        var (test, t) = (c.Test, System.Tests.ToList().IndexOf(c.Test));
        var (first, second) = (System.Repairs[one].Name, System.Repairs[other].Name);
        if (test.Unit is null)
        {
            double For(int repair, int answer) => c.Outcomes[repair, answer] / Math.Max(1e-12, Enumerable.Range(0, test.Choices.Count).Sum(a => c.Outcomes[repair, a]));
            var (a, b) = (Enumerable.Range(0, test.Choices.Count).MaxBy(x => For(one, x) - For(other, x)), Enumerable.Range(0, test.Choices.Count).MaxBy(x => For(other, x) - For(one, x)));
            return $"Because “{test.Choices[a].Title}” would speak for {first}, “{test.Choices[b].Title}” for {second}.";
        }

        var (good, otherGood) = test.Good is null ? (0, 0) : (ChanceOfGood(beliefs, t, one), ChanceOfGood(beliefs, t, other));
        if (Math.Abs(good - otherGood) < Likelier)
        {
            return $"Because it tells {first} from {second}.";
        }

        var (sound, bad) = good > otherGood ? (first, second) : (second, first);
        var words = test.GoodWords((decimal)table.Setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12), table.Setting.Celsius);
        return test.Good is { Low: null, High: not null } && test.Measure == Measure.Volts ? $"Because a drop here would mean {bad}; none speaks for {sound}." : $"Because {words} would speak for {sound}, anything else for {bad}.";
    }

    // What the readings prove, and nothing that was observed speaks against.
    private bool IsProven(Finding proof, Repair repair, Beliefs beliefs) => proof.Proves(repair) && beliefs.ByRepair[System.Repairs.ToList().IndexOf(repair)] >= ProvenAt && beliefs.Outlying < ProofDoubt;

    private MoneyDecision Decide(Inquiry inquiry, Beliefs beliefs, Finding proof, List<RepairBelief> repairs, List<Candidate> candidates, FaultTest? next)
    {
        var money = inquiry.Assumptions;
        var costs = System.Repairs.Select(money.CostOf).ToArray();
        var comeback = System.Repairs.Select(_ => money.Comeback).ToArray();
        var now = Best(costs, comeback, r => beliefs.ByRepair[r]);
        double CostOf(Candidate c) => c.AllMinutes * money.LabourPerHour / 60 + AfterOutcome(costs, comeback, c.Outcomes);
        var tested = candidates.Where(c => c.Gain >= LeastGain)
            .Select(c => (c.Test, Cost: CostOf(c)))
            .OrderBy(x => x.Cost).ThenBy(x => x.Test.Id, StringComparer.Ordinal).Cast<(FaultTest Test, double Cost)?>().FirstOrDefault();
        var top = repairs[0];
        var proven = IsProven(proof, top.Repair, beliefs);
        var isDoubtful = proof.Contradiction is not null || beliefs.Outlying >= DoubtFrom;
        var act = proven ? Act.Proven
            : beliefs.Observations.Count == 0 ? Act.None
            : isDoubtful && tested is not null ? Act.Test
            : tested is { } t && t.Cost < now.Cost ? Act.Test
            : Act.Guess;
        var index = proven ? System.Repairs.ToList().IndexOf(top.Repair) : now.Repair;
        var (repair, wrong, own) = (System.Repairs[index], 1 - beliefs.ByRepair[index], costs[index]);
        var costNow = Expected(costs, comeback, index, r => beliefs.ByRepair[r]);
        var why = act switch
        {
            Act.Proven => top.Repair.IsMotor ? proof.Because : top.Repair.Nothing ? "Because nothing that was tested is bad." : FourWayProof.Shown(inquiry.Case, top.Repair),
            Act.Test when isDoubtful => "Because what was read does not fit together: that comes first.",
            Act.Guess => tested is null ? "Because no test is left that would tell more." : "Because acting now costs less than the next test would save.",
            Act.Test => "Because the next test is expected to save more than it costs.",
            _ => "Because nothing is observed yet.",
        };
        return new MoneyDecision(act, repair, next, why, costNow, candidates.FirstOrDefault(c => c.Test == next) is { } comes ? CostOf(comes) : null, wrong, own, wrong > 1e-9 ? (costNow - own) / wrong : 0);
    }

    // Expected cost of a repair: itself, and when it was wrong the comeback and the right one.
    private static double Expected(double[] costs, double[] comeback, int repair, Func<int, double> chance)
    {
        var sum = 0.0;
        for (var truth = 0; truth < costs.Length; truth++)
        {
            sum += chance(truth) * (costs[truth] + (truth == repair ? 0 : costs[repair] + comeback[repair]));
        }

        return sum;
    }

    private static (int Repair, double Cost) Best(double[] costs, double[] comeback, Func<int, double> chance)
    {
        // Expected cost = what the truth costs anyway + (chance of being wrong) × (this repair for nothing + comeback).
        var (anyway, whole) = (0.0, 0.0);
        for (var truth = 0; truth < costs.Length; truth++)
        {
            anyway += chance(truth) * costs[truth];
            whole += chance(truth);
        }

        var best = (Repair: 0, Cost: double.MaxValue);
        for (var r = 0; r < costs.Length; r++)
        {
            var cost = anyway + (whole - chance(r)) * (costs[r] + comeback[r]);
            best = cost < best.Cost ? (r, cost) : best;
        }

        return best;
    }

    private static double AfterOutcome(double[] costs, double[] comeback, double[,] outcomes)
    {
        var sum = 0.0;
        for (var o = 0; o < outcomes.GetLength(1); o++)
        {
            var column = o;
            sum += Best(costs, comeback, r => outcomes[r, column]).Cost;
        }

        return sum;
    }

    private EvidenceLine Tell(Beliefs beliefs, Observation o, int index)
    {
        var without = beliefs.ByFaultWithout(index);
        var fit = beliefs.Fit(index);
        var average = without.Zip(fit).Sum(x => x.First * x.Second);
        var bits = 0.0;
        for (var f = 0; f < without.Length; f++)
        {
            bits += beliefs.ByFault[f] > 1e-12 && without[f] > 0 ? beliefs.ByFault[f] * Math.Log2(beliefs.ByFault[f] / without[f]) : 0;
        }

        IReadOnlyList<Fault> Those(Func<double, bool> ratio, bool most)
        {
            var some = System.Faults.Select((f, i) => (Fault: f, Weight: most ? beliefs.ByFault[i] : without[i], Ratio: fit[i] / Math.Max(1e-300, average))).Where(x => x.Weight > 0.01 && ratio(x.Ratio));
            return [.. some.OrderByDescending(x => x.Weight).Take(3).Select(x => x.Fault)];
        }

        var test = o.Test < 0 ? null : System.Tests[o.Test];
        var (low, high, choice) = ExpectedIfGood(o.Test, o.Temperature);
        return new EvidenceLine(test, test?.Unit is { } unit ? (double)unit.FromBase((decimal)o.Value) : null, test is null ? [] : [.. o.Answers.Select(a => test.Choices[a].Id)], low, high, choice,
            average > 0 ? Those(r => r > 1.5, true) : Nobody, average > 0 ? Those(r => r < 0.67, false) : Nobody, Math.Max(0, bits), beliefs.ChanceOfOutlier(index));
    }

    private (double? Low, double? High, string? Choice) ExpectedIfGood(int test, int temperature)
    {
        if (test < 0)
        {
            return (null, null, null);
        }

        var (t, (low, high, answer)) = (System.Tests[test], table.Sound[temperature][test]);
        double Told(double scaled) => (double)t.Unit!.FromBase((decimal)table.Scales[test].From(scaled));
        return t.Unit is null ? (null, null, t.Choices[answer].Id) : (Told(low), Told(high), null);
    }

    // Where readings do not add up, or no fault explains all that was observed: which, and what to take again.
    private Contradiction? Contradicting(Beliefs beliefs, Finding proof)
    {
        if (proof.Contradiction is not null || beliefs.Outlying < DoubtFrom)
        {
            return proof.Contradiction;
        }

        FaultTest? TestOf(int observation) => beliefs.Observations[observation].Test is >= 0 and var t ? System.Tests[t] : null;
        var odd = Enumerable.Range(0, beliefs.Observations.Count).Where(i => TestOf(i) is not null).OrderByDescending(beliefs.ChanceOfOutlier).ThenBy(i => i).Select(i => (int?)i).FirstOrDefault();
        if (odd is not { } first || beliefs.ChanceOfOutlier(first) < 0.1)
        {
            return null;
        }

        // What would have to be wrong if that one is right.
        var one = TestOf(first)!;
        var other = beliefs.Outliers().Select(s => s.Observations).FirstOrDefault(s => s.Length > 0 && !s.Contains(first)) is [var second, ..] ? TestOf(second) : null;
        return other is null
            ? new Contradiction([one], [one], $"No fault known here explains “{one.Title}” beside the other readings. Take it again, or look for what is not in the list.")
            : new Contradiction([one, other], [one, other], $"“{one.Title}” and “{other.Title}” contradict each other: no fault known here explains both. Take both again.");
    }
}
