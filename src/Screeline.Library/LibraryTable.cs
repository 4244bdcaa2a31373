using System.Globalization;
using System.Text;
using Screeline.Core.Access;
using Screeline.Core.Access.Planning;

namespace Screeline.Library;

/// <summary>What the shipped library covers, as a table in Markdown: docs/library.md.</summary>
public static class LibraryTable
{
    /// <summary>The whole document.</summary>
    public static string Write(ShippedLibrary library)
    {
        List<AccessMap> maps = [.. library.Maps.Select(m => m.Map).OrderBy(m => library.System(m.Family)?.Order).ThenBy(m => m.Subject, StringComparer.Ordinal)];
        var text = new StringBuilder();
        text.Append(
            """
            # What the library covers

            Made by `dotnet run --project src/Screeline.Web -- library > docs/library.md`; a test holds it to the data. Vehicles, sizes, torques and times are invented.

            ## Kinds of job

            Ways: how many there are to each target. Minutes: the best way there and back, on stands, with hand tools. Counted: fasteners and pieces of the best way. Gates: steps that hold what stands behind them. Settings: measured before the gate opens.

            | family | kind of job | vehicle | targets | ways | minutes | operations | counted | gates | settings | cautions | restored, tried again |
            | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |

            """);
        foreach (var map in maps)
        {
            text.Append(CultureInfo.InvariantCulture, $"{Row(map)}\n");
        }

        text.Append("\n## What each job is known to punish, and where it is taken care of\n");
        foreach (var map in maps)
        {
            text.Append(CultureInfo.InvariantCulture, $"\n**{map.Subject}**\n\n");
            foreach (var lesson in map.Lessons)
            {
                text.Append(CultureInfo.InvariantCulture, $"- {lesson.Words}{(lesson.At.Count == 0 ? "" : $" ({string.Join(", ", lesson.At.Select(id => $"`{id}`"))})")}\n");
            }
        }

        text.Append("\n## Families\n\n| family | faults | tests | behaviours | proof checks | root causes | rules on driving |\n| --- | --- | --- | --- | --- | --- | --- |\n");
        foreach (var s in library.Systems)
        {
            text.Append(CultureInfo.InvariantCulture, $"| {s.Title} | {s.Faults.Count} | {s.Tests.Count} | {s.Behaviours.Count} | {s.Checks.Count} | {s.RootCauses.Count} | {s.DriveRules.Count} |\n");
        }

        return text.ToString().ReplaceLineEndings("\n");
    }

    private static string Row(AccessMap map)
    {
        var plans = map.Targets.Select(t => RoutePlanner.Plan(new PlanRequest(map, t.Operation) { Blocked = DeadMotor.LeavesOut(map, dead: false).Concat(map.Fitted?.Choices[0].Without ?? []).ToHashSet(StringComparer.Ordinal), Routes = 3 }).Routes).ToList();
        var best = plans[0][0];
        var steps = best.Refit.Select(a => map.Step(a.Id)).OfType<RefitStep>().ToList();
        var operations = best.Removal.Select(a => map[a.Id]).ToList();
        return string.Create(CultureInfo.InvariantCulture,
            $"| {map.Family} | {map.Subject} | {string.Join(", ", map.AppliesTo.Select(a => $"{a.Model} ({a.Certainty})"))} | {string.Join(", ", map.Targets.Select(t => t.Id))} | {string.Join(", ", plans.Select(p => p.Count))} | {best.ExpectedMinutes:0} | {map.Operations.Count} + {map.RefitSteps.Count} | {operations.Where(o => o.Kind == OperationKind.Open).Sum(o => o.Fasteners.Sum(f => f.Count))} + {operations.Sum(o => o.Off.Sum(x => x.Count))} | {steps.Count(s => s.Gate) + operations.Count(o => o.Close.Gate)} | {Listed(steps.Select(s => s.Setting).OfType<string>().Distinct())} | {operations.SelectMany(o => o.Cautions).Concat(steps.SelectMany(s => s.Cautions)).Distinct().Count()} | {map.Restores.Count} + {operations.Sum(o => o.Off.Count(x => x.Try is not null))} |");
    }

    private static string Listed(IEnumerable<string> items) => items.ToList() is { Count: > 0 } list ? string.Join(", ", list) : "-";
}
