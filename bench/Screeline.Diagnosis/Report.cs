using Screeline.Core.Diagnosis;

namespace Screeline.Diagnosis;

public static class Report
{
    public static void Print(List<FamilyReport> reports, Options options, Spice? spice)
    {
        Console.WriteLine($"seed {options.Seed}, {options.Cases} cases per family, testing capped at {options.CapMinutes} min");
        Console.WriteLine("| family | right repair | proven | wrongly proven | good part condemned | undecided | minutes | fixed order | share | tests | fixed: right | build ms | update ms | MB | unsolved |");
        Console.WriteLine("| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |");
        foreach (var r in reports)
        {
            Line(r.System.Id, r.Cases, FormattableString.Invariant($"{r.BuildMilliseconds:0} | {r.UpdateMilliseconds:0.0} | {r.TableBytes / 1e6:0.0} | {r.Unsolved} of {r.Samples}"));
        }

        var all = reports.SelectMany(r => r.Cases).ToList();
        Line("pooled", all, " | | | ");
        Money(reports, all);
        Calibration(all, reports);
        foreach (var r in reports)
        {
            Confusions(r);
        }

        if (spice is not null)
        {
            Console.WriteLine(FormattableString.Invariant($"\n{spice.Count} readings by ngspice, of which it found no operating point for {spice.Refused}; largest difference from our solver {spice.Worst:g2} V"));
        }
    }

    private static void Line(string name, IReadOnlyList<CaseResult> cases, string rest)
    {
        var n = cases.Count;
        var right = cases.Count(Right);
        var (proven, wrongly) = (cases.Count(c => c.Proof.Decided), cases.Count(c => c.Proof.Repair is { } r && r.Id != c.Truth.Repair));
        var condemned = cases.Count(c => c.Proof.Repair is { } r && r.Id != c.Truth.Repair && !r.Nothing);
        var undecided = cases.Count(c => !c.Proof.Decided);
        var (minutes, order) = (cases.Average(c => c.Proof.Minutes), cases.Average(c => c.Fixed.Minutes));
        var fixedRight = cases.Count(c => c.Fixed.Repair?.Id == c.Truth.Repair);
        Console.WriteLine(FormattableString.Invariant($"| {name} | {Share(right, n)} | {100.0 * proven / n:0.0} % | {Share(wrongly, n)} | {Share(condemned, n)} | {100.0 * undecided / n:0.0} % | {minutes:0.0} | {order:0.0} | {100 * minutes / order:0} % | {cases.Average(c => c.Proof.Tests):0.0} | {100.0 * fixedRight / n:0.0} % | {rest} |"));
    }

    // What is proven, or where nothing more can be tested what is likeliest, is the right repair.
    private static bool Right(CaseResult c) => (c.Proof.Repair?.Id ?? c.Proof.Fault!.Repair) == c.Truth.Repair;

    // Wilson's interval of 95 % (1927).
    private static string Share(int k, int n)
    {
        const double z = 1.96;
        var p = (double)k / n;
        var (middle, half) = ((p + z * z / (2 * n)) / (1 + z * z / n), z * Math.Sqrt(p * (1 - p) / n + z * z / (4.0 * n * n)) / (1 + z * z / n));
        return FormattableString.Invariant($"{100 * p:0.0} % ({100 * (middle - half):0.0}-{100 * (middle + half):0.0})");
    }

    private static void Money(List<FamilyReport> reports, List<CaseResult> all)
    {
        Console.WriteLine("\n| family | money mode | proof mode | motor at once | likeliest after the complaint | right in money mode | minutes |");
        Console.WriteLine("| --- | --- | --- | --- | --- | --- | --- |");
        foreach (var (name, cases) in reports.Select(r => (r.System.Id, r.Cases)).Append(("pooled", all)))
        {
            Console.WriteLine(FormattableString.Invariant($"| {name} | {cases.Average(c => c.Money.Cost):0.0} | {cases.Average(c => c.Proof.Cost):0.0} | {cases.Average(c => c.CostAtOnce):0.0} | {cases.Average(c => c.CostComplaint):0.0} | {100.0 * cases.Count(c => c.Money.Repair?.Id == c.Truth.Repair) / cases.Count:0.0} % | {cases.Average(c => c.Money.Minutes):0.0} |"));
        }
    }

    private static void Calibration(List<CaseResult> all, List<FamilyReport> reports)
    {
        var beliefs = all.SelectMany(c => c.Beliefs).OrderBy(b => b.Top).ToList();
        Console.WriteLine("\n| bin | said | true |");
        Console.WriteLine("| --- | --- | --- |");
        var error = 0.0;
        for (var bin = 0; bin < 10; bin++)
        {
            var part = beliefs.Skip(bin * beliefs.Count / 10).Take((bin + 1) * beliefs.Count / 10 - bin * beliefs.Count / 10).ToList();
            var (said, right) = (part.Average(b => b.Top), part.Average(b => b.Right ? 1.0 : 0.0));
            error += Math.Abs(said - right) / 10;
            Console.WriteLine(FormattableString.Invariant($"| {bin + 1} | {said:0.000} | {right:0.000} |"));
        }

        static double Brier(double[] p, int truth) => p.Select((x, i) => Math.Pow(x - (i == truth ? 1 : 0), 2)).Sum();
        var prior = reports.SelectMany(r =>
        {
            var priors = ShopHistory.None.Priors(r.System);
            var byRepair = r.System.Repairs.Select(x => priors.Where((_, f) => r.System.Faults[f].Repair == x.Id).Sum()).ToArray();
            return r.Cases.Select(c => Brier(byRepair, r.System.Repairs.ToList().FindIndex(x => x.Id == c.Truth.Repair)));
        }).Average();
        Console.WriteLine(FormattableString.Invariant($"\ncalibration error {error:0.000} over {beliefs.Count} beliefs; Brier score {beliefs.Average(b => Brier(b.All, b.Truth)):0.000} after every reading, {all.Average(c => Brier(c.Beliefs[^1].All, c.Beliefs[^1].Truth)):0.000} at the stop, {prior:0.000} of the prior"));
    }

    private static void Confusions(FamilyReport r)
    {
        var wrong = r.Cases.Where(c => !Right(c)).GroupBy(c => (Truth: c.Truth.Id, Said: c.Proof.Repair?.Id ?? $"undecided, likeliest {c.Proof.Fault!.Id}")).OrderByDescending(g => g.Count()).Take(8);
        Console.WriteLine($"\n{r.System.Id}, worst confusions: {string.Join("; ", wrong.Select(g => $"{g.Key.Truth} as {g.Key.Said} ({g.Count()})"))}");
    }
}
