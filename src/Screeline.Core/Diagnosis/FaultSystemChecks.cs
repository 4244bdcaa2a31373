using Screeline.Core.Formats;

namespace Screeline.Core.Diagnosis;

/// <summary>What must hold between the parts of a system's file.</summary>
internal static class FaultSystemChecks
{
    public static void Check(FaultSystem s, List<FormatFault> faults)
    {
        void Fault(string path, string message) => faults.Add(new FormatFault(path, message));
        void Once(IEnumerable<string> ids, string path)
        {
            var list = ids.ToList();
            foreach (var (id, i) in list.Select((id, i) => (id, i)).Where(x => list.IndexOf(x.id) < x.i))
            {
                Fault($"{path}[{i}].id", $"“{id}” is used twice");
            }
        }

        Once(s.Tests.Select(t => t.Id), "$.tests");
        Once(s.Checks.Select(c => c.Id), "$.checks");
        Once(s.Behaviours.Select(b => b.Id), "$.behaviours");
        Once(s.Faults.Select(f => f.Id), "$.faults");
        Once(s.Repairs.Select(f => f.Id), "$.repairs");
        Once(s.States.Select(f => f.Id), "$.states");
        Once(s.Circuit.Select(f => f.Id), "$.circuit");
        Once(s.Points.Select(f => f.Id), "$.points");
        Once(s.Access.Select(f => f.Id), "$.access");

        Once(s.RootCauses.Select(c => c.Id), "$.root_causes");
        if (s.DriveRules.All(r => r.When.Count > 0))
        {
            Fault("$.drive", "one rule without “when”, for whatever else is observed");
        }

        foreach (var (r, i) in s.DriveRules.Select((r, i) => (r, i)))
        {
            r.When.Where(w => s.Behaviours.All(b => b.Id != w)).ToList().ForEach(w => Fault($"$.drive[{i}].when", $"no behaviour “{w}”"));
        }

        var nodes = s.Circuit.SelectMany(p => p.Nodes).ToHashSet(StringComparer.Ordinal);
        var elements = s.Circuit.Select(p => p.Kind == "relay" ? $"{p.Id}.contact" : p.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var (p, i) in s.Points.Select((p, i) => (p, i)).Where(x => !nodes.Contains(x.p.Node)))
        {
            Fault($"$.points[{i}].node", $"no node “{p.Node}” in the circuit");
        }

        foreach (var (w, i) in s.Drawing.Wires.Select((w, i) => (w, i)).Where(x => x.w.Element is not null && !elements.Contains(x.w.Element)))
        {
            Fault($"$.drawing.wires[{i}].element", $"no element “{w.Element}” in the circuit");
        }

        foreach (var (a, i) in s.Access.Select((a, i) => (a, i)))
        {
            a.Needs.Where(n => s.Access.Take(i).All(x => x.Id != n)).ToList().ForEach(n => Fault($"$.access[{i}].needs", $"“{n}” is not listed before it"));
        }

        for (var i = 0; i < s.Faults.Count; i++)
        {
            CheckFault(s, s.Faults[i], $"$.faults[{i}]", Fault);
        }

        for (var i = 0; i < s.Tests.Count; i++)
        {
            CheckTest(s, s.Tests[i], $"$.tests[{i}]", elements, Fault);
        }

        for (var i = 0; i < s.Behaviours.Count; i++)
        {
            if (s.Test(s.Behaviours[i].Test) is not { } test || test.Choices.All(c => c.Id != s.Behaviours[i].Choice))
            {
                Fault($"$.behaviours[{i}]", $"no answer “{s.Behaviours[i].Choice}” of a test “{s.Behaviours[i].Test}”");
            }
        }

        for (var i = 0; i < s.Checks.Count; i++)
        {
            if (s.Checks[i].BeforeTest is { } before && s.Test(before) is null)
            {
                Fault($"$.checks[{i}].before_test", $"no test “{before}”");
            }

            foreach (var unknown in s.Checks[i].Shows.Where(b => s.Behaviours.All(x => x.Id != b)))
            {
                Fault($"$.checks[{i}].shows", $"no behaviour “{unknown}”");
            }
        }

        void Told(IEnumerable<IReadOnlyList<ProofCondition>> alternatives, string path)
        {
            foreach (var c in alternatives.SelectMany(a => a))
            {
                if (s.Test(c.Test) is not { } test || (c.Choice is not null && test.Choices.All(x => x.Id != c.Choice)) || (c.Choice is null && test.Good is null && test.GoodChoice is null))
                {
                    Fault(path, $"“{c.Test}{(c.Choice is null ? "" : "=" + c.Choice)}” cannot be told");
                }
            }
        }

        foreach (var rule in s.Proof)
        {
            Told(rule.Shown.Concat(rule.Failed), $"$.proof.{rule.Part.ToString().ToLowerInvariant()}");
        }

        foreach (var (repair, i) in s.Repairs.Select((r, i) => (r, i)))
        {
            Told(repair.Proof, $"$.repairs[{i}].proof");
            if (repair.Proof.Count == 0 != repair.IsMotor)
            {
                Fault($"$.repairs[{i}].proof", repair.IsMotor ? "the motor is proven by the four parts" : "what proves it is wanted here");
            }
        }

        if (s.Faults.Count == 0 || s.Repair(s.Faults[0].Repair) is not { Nothing: true } || s.Faults[0].Set.Count > 0)
        {
            Fault("$.faults[0]", "the first fault is “no fault”: it sets nothing and repairs nothing");
        }

        if (s.Repairs.All(r => !r.IsMotor))
        {
            Fault("$.repairs", "no repair is the motor's own");
        }
    }

    private static void CheckFault(FaultSystem s, Fault f, string path, Action<string, string> fault)
    {
        if (s.Repair(f.Repair) is null)
        {
            fault($"{path}.repair", $"no repair “{f.Repair}”");
        }

        foreach (var (test, answers) in f.Signs)
        {
            if (s.Test(test) is not { } t || t.Measure != Measure.Seen)
            {
                fault($"{path}.signs.{test}", "no test of this name is answered by what is seen");
            }
            else
            {
                answers.Keys.Where(a => t.Choices.All(c => c.Id != a)).ToList().ForEach(a => fault($"{path}.signs.{test}", $"no answer “{a}”"));
            }
        }

        if (f.Cold is { From: < 0 } or { To: > 1 } || f.Hot is { From: < 0 } or { To: > 1 })
        {
            fault(path, "chances lie between 0 and 1");
        }
    }

    private static void CheckTest(FaultSystem s, FaultTest t, string path, HashSet<string> elements, Action<string, string> fault)
    {
        t.Probes.Where(p => s.Points.All(x => x.Id != p)).ToList().ForEach(p => fault($"{path}.probes", $"no point “{p}”"));
        t.Access.Where(a => s.Access.All(x => x.Id != a)).ToList().ForEach(a => fault($"{path}.access", $"“{a}” is not listed under access"));
        if (t.Measure is Measure.Volts or Measure.Ohms or Measure.Lamp && t.Probes.Count != 2)
        {
            fault($"{path}.probes", "two points are wanted here");
        }

        if (t.Element is not null && !elements.Contains(t.Element))
        {
            fault($"{path}.element", $"no element “{t.Element}” in the circuit");
        }

        if (t.Unit is null == t.Measure is Measure.Volts or Measure.Amperes or Measure.Ohms or Measure.Gauge)
        {
            fault($"{path}.measure", "numbers are measured, answers are seen");
        }

        t.Rules.Select(r => r.Choice).Concat(t.Usual.Keys).Where(c => t.Choices.All(x => x.Id != c)).ToList().ForEach(c => fault(path, $"no answer “{c}”"));
        t.WorkedOutFrom.Where(w => s.Test(w.Test)?.Unit?.Kind != t.Unit?.Kind).ToList().ForEach(w => fault($"{path}.worked_out_from", $"“{w.Test}” does not measure the same"));
    }
}
