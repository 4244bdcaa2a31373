namespace Screeline.Core.Diagnosis;

/// <summary>
/// The four-way proof by the rules of the system's file: a part has failed when any of its "failed" alternatives holds, else it
/// is shown when any of its "shown" alternatives holds, else it is open. It looks at readings and limits only, never at
/// likelihoods, so that the same job always gets the same proof.
/// </summary>
public static class FourWayProof
{
    /// <summary>Judges a case.</summary>
    public static Finding Assess(FindCase c)
    {
        var missing = new List<FaultTest>();
        var lines = Enum.GetValues<ProofPart>().Select(part => Line(c, part, missing)).ToList();
        if (lines.FirstOrDefault(l => l.State == ProofState.Failed) is { } failed)
        {
            return new Finding(lines, FindVerdict.Elsewhere, failed.Because, Once(missing));
        }

        return lines.All(l => l.State == ProofState.Shown)
            ? new Finding(lines, FindVerdict.MotorProven, $"Because it has power, ground and the command, and is free to move, and still does not do its work: the {c.System.Motor}.", [])
            : new Finding(lines, FindVerdict.Open, lines.First(l => l.State == ProofState.Open).Because, Once(missing));
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
            ? $"{c.System.Test(x.Test)!.Title}: {c.Told(x.Test)}{(c.System.Test(x.Test)!.GoodWords(c.NominalVolts) is { Length: > 0 } good ? $"; good is {good}" : "")}."
            : "Not yet known.";

    private static List<FaultTest> Once(List<FaultTest> tests) => [.. tests.DistinctBy(t => t.Id)];
}
