using System.Globalization;
using Screeline.Core.Quantities;
using Screeline.Core.Access;
using Screeline.Core.Jobs;
using Screeline.Web.Pages.Jobs;

namespace Screeline.Web.Drawing;

/// <summary>The ways side by side in words and lines; what is the same in all of them stands apart.</summary>
public sealed class WayRows
{
    private const decimal LineWidth = 360;

    /// <summary>A row: one value for each way, the printed one last.</summary>
    public sealed record Row(string Label, IReadOnlyList<string> Values);

    /// <summary>Rows that tell the ways apart.</summary>
    public required IReadOnlyList<Row> Different { get; init; }
    /// <summary>Rows that are alike in all.</summary>
    public required IReadOnlyList<Row> Same { get; init; }
    /// <summary>Minutes that the whole width stands for.</summary>
    public required decimal Widest { get; init; }
    /// <summary>The printed way, or null.</summary>
    public WayOption? Printed { get; init; }
    /// <summary>The depth that the whole height stands for.</summary>
    public required int Deepest { get; init; }

    /// <summary>The rows of a page.</summary>
    public static WayRows ForPage(WayInModel page)
    {
        // The printed way is compared with, but not one of the ways that can be taken here.
        var all = WayOption.SideBySide([.. page.Options.Select(o => o.Plan), .. page.Printed is { } p ? new[] { p } : []], page.Owned);
        string Words(IEnumerable<string> words, string none) => string.Join("; ", words) is { Length: > 0 } told ? told : none;
        string Title(WayOption o, string id) => o.Plan.Map[id].DoneWords;
        List<Row> rows =
        [
            new("Goes by", [.. all.Select(o => Words(o.Only.Select(id => Title(o, id)), "nothing more than the others"))]),
            new("Money", [.. all.Select(o => Format.Money(o.Plan.Money))]),
            new("Can break", [.. all.Select(o => Words(o.CanBreak.Take(3).Select(d => $"{d.What}, {d.Chance * 100:0} in 100"), "nothing expected"))]),
            new("Raise, support, drain", [.. all.Select(o => Words(o.Holds.Select(x => x.DoneWords).Order(StringComparer.Ordinal), "nothing"))]),
            new("Renew", [.. all.Select(o => Words(o.Plan.Renew.Select(c => c.Part).Order(StringComparer.Ordinal), "nothing"))]),
            new("Moving about", [.. all.Select(o => DurationFormat.Minutes(o.Plan.Walk.Sum(a => a.MoveMinutes)))]),
            new("Waits", [.. all.Select(o => o.Plan.WaitMinutes > 0 ? DurationFormat.Minutes(o.Plan.WaitMinutes) : "none")]),
            new("Tools missing", [.. all.Select(o => Words(o.MissingTools.Select(page.Library.ToolTitle), "none"))]),
        ];
        var alone = all.Count == 1;
        return new WayRows
        {
            Different = [.. alone ? rows.Skip(1) : rows.Where(r => r.Values.Distinct().Count() > 1)],
            Same = [.. rows.Where(r => !alone && r.Values.Count > 0 && r.Values.Distinct().Count() == 1)],
            Widest = all.Select(o => o.Plan.P80Minutes).DefaultIfEmpty(1).Max(),
            Deepest = all.SelectMany(o => o.Line.Select(p => p.Open)).DefaultIfEmpty(1).Max(),
            Printed = page.Printed is null ? null : all[^1],
        };
    }

    /// <summary>The section line of a way on the common scale.</summary>
    public string LineOf(WayOption option) =>
        string.Join(' ', option.Line.Select((p, i) => string.Create(CultureInfo.InvariantCulture, $"{(i == 0 ? "M" : "L")}{X(p.Minutes)} {6 + 44m * p.Open / Math.Max(1, Deepest):0.##}")));

    /// <summary>From the expected minutes to those not exceeded four times in five.</summary>
    public string SpreadOf(WayPlan plan) => string.Create(CultureInfo.InvariantCulture, $"M{X(plan.ExpectedMinutes)} 6H{X(plan.P80Minutes)}M{X(plan.P80Minutes)} 0V12");

    /// <summary>What can be done while something cools or cures: the next steps that neither wait nor need it.</summary>
    public static IReadOnlyList<string> Fill(WayPlan plan, WalkAction waiting)
    {
        var part = waiting.Part == WalkPart.Removal ? plan.Removal : plan.Refit;
        var (left, filled) = (waiting.WaitMinutes, new List<string>());
        var held = new HashSet<string>(StringComparer.Ordinal) { waiting.Id };
        foreach (var next in part.SkipWhile(a => a.Id != waiting.Id).Skip(1))
        {
            var needs = next.Part == WalkPart.Removal ? plan.Map[next.Id].Needs.Names : plan.Map.Step(next.Id)?.After ?? [];
            if (needs.Any(held.Contains))
            {
                held.Add(next.Id);
                continue;
            }

            if (next.Work.Mean > left)
            {
                break;
            }

            left -= next.Work.Mean;
            filled.Add(next.Part == WalkPart.Removal ? plan.Map[next.Id].Title : Refit.Title(plan.Map, next.Id));
        }

        return filled;
    }

    private string X(decimal minutes) => (minutes / Math.Max(0.01m, Widest) * LineWidth).ToString("0.##", CultureInfo.InvariantCulture);
}
