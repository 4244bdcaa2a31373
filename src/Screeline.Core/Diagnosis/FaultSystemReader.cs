using Screeline.Core.Formats;
using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>Reads and checks <c>screeline/system@1</c>; all faults at once with their JSON path.</summary>
public static class FaultSystemReader
{
    /// <summary>The format this reader knows.</summary>
    public const string Format = "screeline/system@1";

    /// <summary>Reads a system; null when it has faults.</summary>
    public static (FaultSystem? System, IReadOnlyList<FormatFault> Faults) Read(string json)
    {
        var faults = new List<FormatFault>();
        using var document = JsonReader.Parse(json, faults);
        if (document is null)
        {
            return (null, faults);
        }

        var r = new JsonReader(document.RootElement, "$", faults);
        r.Choice("format", [Format]);
        var system = new FaultSystem
        {
            Id = r.Text("id"),
            Title = r.Text("title"),
            Motor = r.Text("motor"),
            DriveMeanwhile = r.Text("drive_meanwhile"),
            Behaviours = r.List("behaviours", b => new Behaviour(b.Text("id"), b.Text("title"), b.YesNo("motor_does_its_work"))),
            Tests = r.List("tests", ReadTest),
            Checks = r.List("checks", ReadCheck),
        };
        r.RefuseOthers();
        Check(system, faults);
        return (faults.Count == 0 ? system : null, faults);
    }

    private static FaultTest ReadTest(JsonReader r)
    {
        var (unit, choices, good, goodChoice, plausible, scales) = ReadAnswers(r);
        return new FaultTest
        {
            Id = r.Text("id"),
            Title = r.Text("title"),
            Unit = unit,
            Choices = choices,
            Good = good,
            GoodChoice = goodChoice,
            Plausible = plausible,
            ScalesWithSystem = scales,
            Minutes = r.Number("minutes", 0),
            Where = r.Text("where"),
            People = r.Whole("people", 1, 4),
            Commanded = r.YesNo("commanded"),
            How = r.Text("how"),
            Why = r.Text("why"),
            Probes = r.Texts("probes"),
        };
    }

    private static ProofCheck ReadCheck(JsonReader r)
    {
        var (unit, choices, good, goodChoice, plausible, scales) = ReadAnswers(r);
        return new ProofCheck
        {
            Id = r.Text("id"),
            Title = r.Text("title"),
            Unit = unit,
            Choices = choices,
            Good = good,
            GoodChoice = goodChoice,
            Plausible = plausible,
            ScalesWithSystem = scales,
            Moment = r.Choice("moment", ["before-covers", "end"]) == "end" ? ProofMoment.End : ProofMoment.BeforeCovers,
            BeforeTest = r.OptionalText("before_test"),
            LimitBy = r.Text("limit_by"),
            How = r.Text("how"),
        };
    }

    private static (Unit? Unit, IReadOnlyList<Choice> Choices, GoodRange? Good, string? GoodChoice, (decimal, decimal)? Plausible, bool Scales) ReadAnswers(JsonReader r)
    {
        var choices = r.List("choices", c => new Choice(c.Text("id"), c.Text("title")), optional: true);
        Unit? unit = null;
        if (choices.Count == 0)
        {
            unit = Units.BySymbol(r.Choice("unit", [.. Units.All.Select(u => u.Symbol)]));
        }

        var good = r.Object("good", g => new GoodRange(g.OptionalNumber("low"), g.OptionalNumber("high"), g.OptionalText("of"), g.OptionalNumber("by")), optional: true);
        var goodChoice = r.OptionalText("good_choice");
        if (goodChoice is not null && choices.All(c => c.Id != goodChoice))
        {
            r.Fault($"“{goodChoice}” is not one of the choices", "good_choice");
        }

        var plausible = unit is null ? null : r.Object<(decimal, decimal)?>("plausible", p => (p.Number("low"), p.Number("high")));
        var scales = r.Given("scales_with_system") && r.YesNo("scales_with_system");
        return (unit, choices, good, goodChoice, plausible, scales);
    }

    private static void Check(FaultSystem system, List<FormatFault> faults)
    {
        var tests = system.Tests.Select(t => t.Id).ToList();
        foreach (var (ids, path) in new[] { (tests, "$.tests"), ([.. system.Checks.Select(c => c.Id)], "$.checks"), ([.. system.Behaviours.Select(b => b.Id)], "$.behaviours") })
        {
            faults.AddRange(ids.Select((id, i) => (id, i)).Where(x => ids.IndexOf(x.id) < x.i).Select(x => new FormatFault($"{path}[{x.i}].id", $"“{x.id}” is used twice")));
        }

        for (var i = 0; i < system.Checks.Count; i++)
        {
            if (system.Checks[i].BeforeTest is { } before && !tests.Contains(before))
            {
                faults.Add(new FormatFault($"$.checks[{i}].before_test", $"no test “{before}”"));
            }
        }
    }
}
