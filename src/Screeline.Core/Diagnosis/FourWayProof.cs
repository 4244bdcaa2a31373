namespace Screeline.Core.Diagnosis;

/// <summary>
/// The proof by the rules of the system's file. A part has failed when any of its "failed" alternatives holds, else it is shown when
/// any of its "shown" alternatives holds, else it is open. The motor is proven when all four are shown; anything else when an
/// alternative of its own holds, which sees both sides of it, and its deciding reading is confirmed, or two do that hang on different
/// readings. It looks at readings and limits only, never at likelihoods, so that the same job always gets the same proof.
/// </summary>
public static class FourWayProof
{
    /// <summary>Judges a case.</summary>
    public static Finding Assess(FindCase c)
    {
        var missing = new List<FaultTest>();
        var lines = Enum.GetValues<ProofPart>().Select(part => Line(c, part, missing)).ToList();
        var contradiction = LoopCheck.Find(c);
        var isShown = lines.All(l => l.State == ProofState.Shown);
        List<Repair> proven = contradiction is null ? [.. c.System.Repairs.Where(r => r.IsMotor ? isShown && IsConfirmed(c) : r.Proof.Any(a => Proves(c, a)) || IsSeenInTwoWays(c, r))] : [];
        if (lines.FirstOrDefault(l => l.State == ProofState.Failed) is { } failed)
        {
            return new Finding(lines, FindVerdict.Elsewhere, failed.Because, Once(missing), proven, contradiction);
        }

        return isShown
            ? new Finding(lines, FindVerdict.MotorProven, $"Because it has power, ground and the command, and is free to move, and still does not do its work: the {c.System.Motor}.", [], proven, contradiction)
            : new Finding(lines, FindVerdict.Open, lines.First(l => l.State == ProofState.Open).Because, Once(missing), proven, contradiction);
    }

    /// <summary>
    /// The tests whose reading decides an alternative of a repair's proof: the numbers that are not good, and an answer that stands alone.
    /// Each must be confirmed.
    /// </summary>
    public static IEnumerable<FaultTest> Deciding(FaultSystem system, IReadOnlyList<ProofCondition> alternative) =>
        alternative.Where(x => alternative.Count == 1 || (x.Choice is null && x.Negated)).Select(x => system.Test(x.Test)!).Where(t => alternative.Count == 1 || t.Unit is not null);

    /// <summary>Whether a reading stands by itself no longer: taken twice with the same outcome, or it closes a sum.</summary>
    public static bool IsConfirmed(FindCase c, FaultTest test) => c.Agreeing(test.Id) > 1 || LoopCheck.Confirms(c, test);

    /// <summary>
    /// The readings that decide the motor's proof: of the ways in which power is shown, the volts at the motor while it is commanded;
    /// one of them must be confirmed. Empty where it is shown without any.
    /// </summary>
    public static IReadOnlyList<FaultTest> DecidingForMotor(FindCase c)
    {
        var ways = c.System.Proof.First(p => p.Part == ProofPart.Power).Shown.Where(a => a.All(x => Holds(c, x) == true)).Select(a => a.Where(x => x.Choice is null).Select(x => c.System.Test(x.Test)!).Where(t => t is { Unit: not null, Commanded: true }).ToList()).ToList();
        return ways.Any(w => w.Count == 0) ? [] : [.. ways.SelectMany(w => w).Distinct()];
    }

    /// <summary>
    /// The sets of tests that would settle all open parts of the motor's proof, each part by one of its alternatives; one that is known
    /// not to hold cannot. Empty when a part has no way left.
    /// </summary>
    public static IReadOnlyList<IReadOnlyList<FaultTest>> WaysForMotor(FindCase c)
    {
        IEnumerable<IReadOnlyList<FaultTest>> sets = [[]];
        foreach (var rule in c.System.Proof.Where(r => !r.Shown.Any(a => a.All(x => Holds(c, x) == true))))
        {
            var ways = rule.Shown.Where(a => a.All(x => Holds(c, x) != false)).Select(a => a.Where(x => Holds(c, x) is null).Select(x => Lacking(c, x)).ToList()).ToList();
            sets = [.. from set in sets from way in ways select (IReadOnlyList<FaultTest>)[.. set.Union(way)]];
        }

        return [.. sets];
    }

    /// <summary>The readings that prove a repair that is not the motor, in one line; empty when none do.</summary>
    public static string Shown(FindCase c, Repair repair) => (repair.Proof.FirstOrDefault(a => Proves(c, a)) ?? repair.Proof.FirstOrDefault(a => a.All(x => Holds(c, x) == true))) is { } held ? Words(c, held) : "";

    private static bool IsConfirmed(FindCase c) => DecidingForMotor(c) is var deciding && (deciding.Count == 0 || deciding.Any(t => IsConfirmed(c, t)));

    private static bool Proves(FindCase c, IReadOnlyList<ProofCondition> alternative) =>
        alternative.All(x => Holds(c, x) == true) && Deciding(c.System, alternative).All(t => IsConfirmed(c, t));

    // Two ways that both hold confirm each other, where they do not hang on the same reading.
    private static bool IsSeenInTwoWays(FindCase c, Repair repair)
    {
        FaultTest[][] deciding = [.. repair.Proof.Where(a => a.All(x => Holds(c, x) == true)).Select(a => Deciding(c.System, a).ToArray())];
        return deciding.Where((one, i) => deciding.Skip(i + 1).Any(other => !one.Intersect(other).Any())).Any();
    }

    private static ProofLine Line(FindCase c, ProofPart part, List<FaultTest> missing)
    {
        var rule = c.System.Proof.First(p => p.Part == part);
        if (rule.Failed.FirstOrDefault(a => a.All(x => Holds(c, x) == true)) is { } failed)
        {
            return new ProofLine(part, ProofState.Failed, Words(c, failed));
        }

        if (rule.Shown.FirstOrDefault(a => a.All(x => Holds(c, x) == true)) is { } shown)
        {
            return new ProofLine(part, ProofState.Shown, Words(c, shown));
        }

        // The alternative that lacks least, in minutes; one of which something is already known not to hold cannot show it.
        var way = rule.Shown.Where(a => a.All(x => Holds(c, x) != false))
            .Select(a => a.Where(x => Holds(c, x) is null).Select(x => Lacking(c, x)).ToList())
            .OrderBy(tests => tests.Sum(t => t.Minutes)).FirstOrDefault();
        missing.AddRange(way ?? []);
        return new ProofLine(part, ProofState.Open, way is [var first, ..] ? $"Not yet known: {first.Title}." : Doubtful(c, rule));
    }

    /// <summary>Whether a condition holds; null when it cannot be told yet.</summary>
    public static bool? Holds(FindCase c, ProofCondition x)
    {
        if (x.Choice is null)
        {
            return c.Good(x.Test) is { } good ? good != x.Negated : null;
        }

        // What somebody who described the complaint did not tick was not so.
        return c.Answers(x.Test) is { Count: > 0 } answers ? answers.Contains(x.Choice) != x.Negated
            : x.Negated && c.Behaviours.Count > 0 && c.System.Test(x.Test)!.Complaint ? true : null;
    }

    /// <summary>The test that a condition lacks: its own, or the one its reading is compared with.</summary>
    public static FaultTest Lacking(FindCase c, ProofCondition x)
    {
        var test = c.System.Test(x.Test)!;
        return test.Good?.Of is { } of && c.Value(x.Test) is not null ? c.System.Test(of)! : test;
    }

    private static string Words(FindCase c, IReadOnlyList<ProofCondition> alternative) =>
        string.Join("; ", alternative.Where(x => c.Told(x.Test).Length > 0).Select(x => $"{c.System.Test(x.Test)!.Title}: {c.Told(x.Test)}")) + ".";

    // Neither shown nor failed, and no way left to show it: the reading that stands in the way.
    private static string Doubtful(FindCase c, ProofRule rule) =>
        rule.Shown.SelectMany(a => a).FirstOrDefault(x => Holds(c, x) == false) is { } x
            ? $"{c.System.Test(x.Test)!.Title}: {c.Told(x.Test)}{(c.System.Test(x.Test)!.GoodWords(c.NominalVolts, c.Latest(x.Test)?.Celsius) is { Length: > 0 } good ? $"; good is {good}" : "")}."
            : "Not yet known.";

    private static List<FaultTest> Once(List<FaultTest> tests) => [.. tests.DistinctBy(t => t.Id)];
}
