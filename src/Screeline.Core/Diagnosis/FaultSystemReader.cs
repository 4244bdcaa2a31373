using System.Text.Json;
using Screeline.Core.Access.Recording;
using Screeline.Core.Formats;
using Screeline.Core.Motion;
using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>Reads and checks <c>screeline/system@2</c>; all faults at once with their JSON path.</summary>
public sealed class FaultSystemReader
{
    /// <summary>The format this reader knows.</summary>
    public const string Format = "screeline/system@2";

    private readonly List<FormatFault> _faults;
    private readonly JsonReader _root;
    private readonly List<Parameter> _parameters = [];
    private readonly HashSet<string> _controls = new(StringComparer.Ordinal);
    private Slots _slots = new([], [], [], []);
    private IReadOnlyList<OperatingState> _states = [];

    private FaultSystemReader(JsonElement root, List<FormatFault> faults)
    {
        _faults = faults;
        _root = new JsonReader(root, "$", faults);
    }

    /// <summary>Reads a system; null when it has faults.</summary>
    public static (FaultSystem? System, IReadOnlyList<FormatFault> Faults) Read(string json)
    {
        var faults = new List<FormatFault>();
        using var document = JsonReader.Parse(json, faults);
        if (document is null)
        {
            return (null, faults);
        }

        var system = new FaultSystemReader(document.RootElement, faults).ReadWhole();
        FaultSystemChecks.Check(system, faults);
        return (faults.Count == 0 ? system : null, faults);
    }

    /// <summary>Where a system's quantities stand in a sample's row.</summary>
    public static Slots SlotsOf(FaultSystem system) =>
        new(system.Parameters.Select(p => p.Id), system.States.SelectMany(s => s.Controls.Keys), system.States.Select(s => s.Id), system.Circuit, system.Tests.Count);

    private FaultSystem ReadWhole()
    {
        var r = _root;
        r.Choice("format", [Format]);
        r.List("parameters", ReadParameter);
        _states = r.List("states", ReadState);
        var parts = r.List("circuit", ReadPart);
        _slots = new Slots(_parameters.Select(p => p.Id), _controls, _states.Select(s => s.Id), parts);
        var system = new FaultSystem
        {
            Id = r.Text("id"),
            Title = r.Text("title"),
            Motor = r.Text("motor"),
            Command = r.Text("command"),
            Order = r.Given("order") ? r.Whole("order", 0, 1000) : 1000,
            Settings = ReadSettings(r),
            Parameters = _parameters,
            States = _states,
            Circuit = parts,
            Points = r.List("points", p => new TestPoint(p.Text("id"), p.Text("title"), p.Text("node"), p.Whole("x", 0, 2000), p.Whole("y", 0, 2000))),
            Drawing = r.Object("drawing", ReadDrawing) ?? new CircuitDrawing(1, 1, [], []),
            Access = r.List("access", a => new AccessNeed(a.Text("id"), a.Text("title"), (double)a.Number("minutes", 0, 1000), a.Texts("needs", optional: true))),
            Repairs = r.List("repairs", ReadRepair),
            Faults = r.List("faults", ReadFault),
            Behaviours = r.List("behaviours", b => new Behaviour(b.Text("id"), b.Text("title"), b.Text("test"), b.Text("choice"), b.Given("dead") && b.YesNo("dead"))),
            Tests = r.List("tests", ReadTest),
            Proof = r.Object("proof", ReadProof) ?? [],
            Checks = r.List("checks", ReadCheck),
            DriveRules = r.List("drive", d => new DriveRule(d.Texts("when", optional: true), Enum.Parse<MayDrive>(d.Choice("answer", ["yes", "limited", "no"]), ignoreCase: true), d.Text("words"))),
            RootCauses = r.List("root_causes", c => new RootCause(c.Text("id"), c.Text("title"), c.Text("remedy"))),
            OwnFrame = r.Object("frame", WorkFrameReader.ReadFamily, optional: true) ?? FamilyFrame.Empty,
        };
        r.RefuseOthers();
        return system;
    }

    private static IReadOnlyList<string> ReadSettings(JsonReader r)
    {
        var kinds = r.Texts("settings", optional: true);
        foreach (var (kind, i) in kinds.Select((kind, i) => (kind, i)).Where(k => !SettingKinds.OnVehicle.Contains(k.kind)))
        {
            r.Fault($"“{kind}” is none of: {string.Join(", ", SettingKinds.OnVehicle)}", $"settings[{i}]");
        }

        return kinds;
    }

    private Parameter ReadParameter(JsonReader r)
    {
        _slots = new Slots(_parameters.Select(p => p.Id), [], [], []);
        var choices = r.Texts("choices", optional: true);
        var bounds = Pair(r, "vehicle");
        if (choices.Count > 0)
        {
            bounds = (0, choices.Count - 1);
        }

        var parameter = new Parameter(r.Text("id"), r.Text("title"), r.OptionalText("unit") ?? "", ReadDraw(r), bounds?.Low, bounds?.High, choices, ReadShares(r, choices.Count));
        if (_parameters.Any(p => p.Id == parameter.Id))
        {
            r.Fault($"“{parameter.Id}” is used twice", "id");
        }

        _parameters.Add(parameter);
        return parameter;
    }

    // How common each choice is; evenly when nothing is said.
    private static double[] ReadShares(JsonReader r, int choices)
    {
        double[] even = [.. Enumerable.Repeat(1.0 / Math.Max(1, choices), choices)];
        if (!r.Given("shares"))
        {
            return even;
        }

        if (r.Get("shares") is { ValueKind: JsonValueKind.Array } list && list.GetArrayLength() == choices && list.EnumerateArray().All(e => e.ValueKind == JsonValueKind.Number && e.GetDouble() > 0))
        {
            double[] given = [.. list.EnumerateArray().Select(e => e.GetDouble())];
            return [.. given.Select(g => g / given.Sum())];
        }

        r.Fault("a number above zero for each choice is wanted here", "shares");
        return even;
    }

    private Draw ReadDraw(JsonReader r)
    {
        if (Pair(r, "log") is { } log)
        {
            if (log.Low <= 0)
            {
                r.Fault("bounds above zero are wanted here", "log");
            }

            return new Draw(Spread.Log, ReadFormula(r, "times", null, 1), 0, log.Low, log.High, (double)(r.OptionalNumber("open", 0, 0.99m) ?? 0));
        }

        if (Pair(r, "even") is { } even)
        {
            return new Draw(Spread.Even, ReadFormula(r, "times", null, 1), 0, even.Low, even.High);
        }

        var share = (double)(r.OptionalNumber("share", 0, 1) ?? 0);
        return new Draw(share > 0 ? Spread.Share : Spread.None, ReadFormula(r, "value", null), share, 0, 0);
    }

    private static (double Low, double High)? Pair(JsonReader r, string key)
    {
        if (!r.Given(key))
        {
            return null;
        }

        if (r.Get(key) is { ValueKind: JsonValueKind.Array } list && list.GetArrayLength() == 2 && list.EnumerateArray().All(e => e.ValueKind == JsonValueKind.Number) && list[0].GetDouble() <= list[1].GetDouble())
        {
            return (list[0].GetDouble(), list[1].GetDouble());
        }

        r.Fault("two numbers, the lower first, are wanted here", key);
        return null;
    }

    private Formula ReadFormula(JsonReader r, string key, string? state, double? usual = null)
    {
        if (r.Get(key) is not { } value)
        {
            if (usual is null)
            {
                r.Fault("is missing", key);
            }

            return Formula.Of(usual ?? 0);
        }

        return Compile(r, key, value, state);
    }

    private Formula Compile(JsonReader r, string key, JsonElement value, string? state)
    {
        try
        {
            return value.ValueKind switch
            {
                JsonValueKind.Number => Formula.Of(value.GetDouble()),
                JsonValueKind.String => Formula.Compile(value.GetString()!, name => _slots.Find(name, state)),
                _ => throw new FormulaException("a number or a formula is wanted here"),
            };
        }
        catch (FormulaException e)
        {
            r.Fault(e.Message, key);
            return Formula.Of(0);
        }
    }

    private OperatingState ReadState(JsonReader r)
    {
        var controls = new Dictionary<string, double>(StringComparer.Ordinal);
        if (r.Get("controls") is { ValueKind: JsonValueKind.Object } given)
        {
            foreach (var control in given.EnumerateObject())
            {
                controls[control.Name] = control.Value.ValueKind == JsonValueKind.Number ? control.Value.GetDouble() : double.NaN;
                if (double.IsNaN(controls[control.Name]))
                {
                    r.Fault("a number is wanted here", $"controls.{control.Name}");
                }

                if (_parameters.Any(p => p.Id == control.Name))
                {
                    r.Fault("a parameter has this name", $"controls.{control.Name}");
                }

                _controls.Add(control.Name);
            }
        }

        return new OperatingState(r.Text("id"), r.Text("title"), r.YesNo("commanded"), controls);
    }

    private CircuitPart ReadPart(JsonReader r)
    {
        _slots = new Slots(_parameters.Select(p => p.Id), _controls, [], []);
        var kind = r.Choice("kind", [.. CircuitBuilder.Kinds.Keys]);
        var (count, wanted) = CircuitBuilder.Kinds[kind];
        var nodes = r.Texts("nodes");
        if (nodes.Count != count)
        {
            r.Fault($"a {kind} has {count} nodes", "nodes");
            nodes = [.. nodes.Concat(Enumerable.Repeat("0", count)).Take(count)];
        }

        return new CircuitPart(r.Text("id"), kind, nodes, [.. wanted.Select(w => ReadFormula(r, w.Name, null, w.Usual))]);
    }

    private static CircuitDrawing ReadDrawing(JsonReader r) => new(
        r.Whole("width", 100, 2000), r.Whole("height", 100, 2000),
        r.List("wires", w => new DrawnWire(w.Text("path"), w.OptionalText("element"))),
        r.List("symbols", s => new DrawnSymbol(s.Choice("kind", ["battery", "switch", "relay", "fuse", "motor", "lamp", "resistor", "module", "generator", "box"]), s.Whole("x", 0, 2000), s.Whole("y", 0, 2000), s.Text("label"), s.Whole("label_x", 0, 2000), s.Whole("label_y", 0, 2000), (int)(s.OptionalNumber("width", 8, 640) ?? 56), (int)(s.OptionalNumber("height", 8, 640) ?? 40))));

    private static Repair ReadRepair(JsonReader r)
    {
        var part = r.OptionalText("part") switch
        {
            null => (ProofPart?)null,
            "power" => ProofPart.Power,
            "ground" => ProofPart.Ground,
            "command" => ProofPart.Command,
            "mechanical" => ProofPart.Mechanical,
            var other => Wrong(other),
        };
        ProofPart? Wrong(string word)
        {
            r.Fault($"“{word}” is none of: power, ground, command, mechanical", "part");
            return null;
        }

        return new Repair(r.Text("id"), r.Text("name"), r.Text("title"), part, (double)r.Number("minutes", 0, 10_000), (double)r.Number("price", 0, 1_000_000), r.Given("nothing") && r.YesNo("nothing"), Alternatives(r, "proof"));
    }

    private Fault ReadFault(JsonReader r)
    {
        var set = new Dictionary<string, Draw>(StringComparer.Ordinal);
        if (r.Get("set") is { ValueKind: JsonValueKind.Object } given)
        {
            foreach (var change in given.EnumerateObject())
            {
                if (_parameters.All(p => p.Id != change.Name))
                {
                    r.Fault("no parameter of this name", $"set.{change.Name}");
                }

                set[change.Name] = change.Value.ValueKind == JsonValueKind.Object
                    ? One(change.Value, $"{r.Path}.set.{change.Name}", ReadDraw)
                    : new Draw(Spread.None, Compile(r, $"set.{change.Name}", change.Value, null), 0, 0, 0);
            }
        }

        return new Fault(r.Text("id"), r.Text("title"), r.Text("repair"), (double)r.Number("prior", 0, 1000), set, ReadSigns(r), Pair(r, "cold") ?? (1, 1), Pair(r, "hot") ?? Pair(r, "cold") ?? (1, 1), r.Given("when") ? ReadFormula(r, "when", null) : null);
    }

    private static Dictionary<string, IReadOnlyDictionary<string, double>> ReadSigns(JsonReader r)
    {
        var signs = new Dictionary<string, IReadOnlyDictionary<string, double>>(StringComparer.Ordinal);
        if (r.Get("signs") is { ValueKind: JsonValueKind.Object } given)
        {
            foreach (var sign in given.EnumerateObject())
            {
                signs[sign.Name] = ReadChances(r, sign.Value, $"signs.{sign.Name}");
            }
        }

        return signs;
    }

    private static Dictionary<string, double> ReadChances(JsonReader r, JsonElement element, string key)
    {
        var chances = new Dictionary<string, double>(StringComparer.Ordinal);
        if (element.ValueKind != JsonValueKind.Object || element.EnumerateObject().Any(c => c.Value.ValueKind != JsonValueKind.Number))
        {
            r.Fault("answers with their chances are wanted here", key);
            return chances;
        }

        foreach (var chance in element.EnumerateObject())
        {
            chances[chance.Name] = chance.Value.GetDouble();
        }

        if (chances.Values.Any(c => c is < 0 or > 1) || chances.Values.Sum() > 1.0000001)
        {
            r.Fault("chances lie between 0 and 1 and add up to 1 at most", key);
        }

        return chances;
    }

    private static T One<T>(JsonElement element, string path, Func<JsonReader, T> read, List<FormatFault> faults)
    {
        var reader = new JsonReader(element, path, faults);
        var result = read(reader);
        reader.RefuseOthers();
        return result;
    }

    private T One<T>(JsonElement element, string path, Func<JsonReader, T> read) => One(element, path, read, _faults);

    private FaultTest ReadTest(JsonReader r)
    {
        var measure = r.Choice("measure", ["volts", "amperes", "ohms", "lamp", "gauge", "seen", "attempts"]) switch
        {
            "volts" => Measure.Volts, "amperes" => Measure.Amperes, "ohms" => Measure.Ohms, "lamp" => Measure.Lamp, "gauge" => Measure.Gauge, "seen" => Measure.Seen, _ => Measure.Attempts,
        };
        var (unit, choices, good, goodChoice, plausible, scales) = ReadAnswers(r, measure switch
        {
            Measure.Lamp => [new("bright", "Bright"), new("dim", "Dim"), new("dark", "Dark")],
            Measure.Attempts => [new("always", "Fails every time"), new("sometimes", "Fails sometimes"), new("never", "Never fails")],
            _ => [],
        });
        var state = _states.FirstOrDefault(s => s.Id == r.Text("state"));
        if (state is null)
        {
            r.Fault($"no state “{r.Text("state")}”", "state");
            state = new OperatingState("", "", false, new Dictionary<string, double>());
        }

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
            People = r.Given("people") ? r.Whole("people", 1, 4) : 1,
            Alone = r.Object("alone", a => new AloneWay(a.Number("minutes", 0, 1000), a.Text("how")), optional: true),
            Wants = [.. r.Texts("wants", optional: true).Select(Condition)],
            State = state,
            How = r.Text("how"),
            Why = r.Text("why"),
            Caution = r.OptionalText("caution"),
            Probes = r.Texts("probes", optional: true),
            Access = r.Texts("access", optional: true),
            Measure = measure,
            Element = measure == Measure.Amperes ? r.Text("element") : null,
            Value = measure == Measure.Gauge ? ReadFormula(r, "value", state.Id) : null,
            Rules = r.List("rules", x => new SeenRule(x.Text("choice"), ReadFormula(x, "when", state.Id)), optional: true),
            Usual = r.Get("usual") is { } usual ? ReadChances(r, usual, "usual") : new Dictionary<string, double>(),
            Accuracy = (double)(r.OptionalNumber("accuracy", 0.000001m) ?? Usually(unit).Fixed),
            Relative = (double)(r.OptionalNumber("relative", 0, 1) ?? Usually(unit).Relative),
            Hot = r.Given("hot") && r.YesNo("hot"),
            WorkedOutFrom = [.. r.Texts("worked_out_from", optional: true).Select(t => t.StartsWith('-') ? (t[1..], -1) : (t, 1))],
            Complaint = r.Given("complaint") && r.YesNo("complaint"),
        };
    }

    // Standard errors of a good workshop's instruments, reading and handling together (common practice, no source).
    private static (decimal Fixed, decimal Relative) Usually(Unit? unit) => unit?.Symbol switch
    {
        "V" => (0.02m, 0.004m),
        "mV" => (2m, 0.01m),
        "A" => (0.15m, 0.03m),
        "mA" => (3m, 0.03m),
        "ohm" => (0.05m, 0.02m),
        "s" => (0.2m, 0.05m),
        _ => (0.01m, 0.03m),
    };

    private static ProofCheck ReadCheck(JsonReader r)
    {
        var (unit, choices, good, goodChoice, plausible, scales) = ReadAnswers(r, []);
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
            Shows = r.Texts("shows", optional: true),
            LimitBy = r.Text("limit_by"),
            How = r.Text("how"),
        };
    }

    private static (Unit? Unit, IReadOnlyList<Choice> Choices, GoodRange? Good, string? GoodChoice, (decimal, decimal)? Plausible, bool Scales) ReadAnswers(JsonReader r, IReadOnlyList<Choice> usual)
    {
        var choices = r.List("choices", c => new Choice(c.Text("id"), c.Text("title")), optional: true) is { Count: > 0 } given ? given : usual;
        Unit? unit = null;
        if (choices.Count == 0)
        {
            unit = Units.BySymbol(r.Choice("unit", [.. Units.All.Select(u => u.Symbol)]));
        }

        var good = r.Object("good", g => new GoodRange(g.OptionalNumber("low"), g.OptionalNumber("high"), g.OptionalText("of"), g.OptionalNumber("by"), g.OptionalNumber("colder", 0, 1)), optional: true);
        var goodChoice = r.OptionalText("good_choice");
        if (goodChoice is not null && choices.All(c => c.Id != goodChoice))
        {
            r.Fault($"“{goodChoice}” is not one of the choices", "good_choice");
        }

        var plausible = unit is null ? null : r.Object<(decimal, decimal)?>("plausible", p => (p.Number("low"), p.Number("high")));
        var scales = r.Given("scales_with_system") && r.YesNo("scales_with_system");
        return (unit, choices, good, goodChoice, plausible, scales);
    }

    private static List<ProofRule> ReadProof(JsonReader r) =>
    [
        .. new[] { ("power", ProofPart.Power), ("ground", ProofPart.Ground), ("command", ProofPart.Command), ("mechanical", ProofPart.Mechanical) }
            .Select(x => r.Object(x.Item1, p => new ProofRule(x.Item2, Alternatives(p, "shown"), Alternatives(p, "failed")))).OfType<ProofRule>(),
    ];

    // Each alternative is a line of conditions: "test", "!test", "test=answer", "test!=answer", all of which must hold.
    private static List<IReadOnlyList<ProofCondition>> Alternatives(JsonReader r, string key) =>
        [.. r.Texts(key, optional: true).Select(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(Condition).ToList())];

    private static ProofCondition Condition(string word)
    {
        if (word.Split("!=") is [var a, var b])
        {
            return new ProofCondition(a, b, true);
        }

        return word.Split('=') is [var test, var choice] ? new ProofCondition(test, choice, false)
            : word.StartsWith('!') ? new ProofCondition(word[1..], null, true)
            : new ProofCondition(word, null, false);
    }
}
