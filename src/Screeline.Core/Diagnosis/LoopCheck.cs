using System.Runtime.CompilerServices;

namespace Screeline.Core.Diagnosis;

/// <summary>Readings that cannot all be right, whatever is wrong with the vehicle.</summary>
/// <param name="Readings">The tests around the loop that does not close.</param>
/// <param name="TakeAgain">Those of which one alone can be wrong; taken again first. One when it alone explains it.</param>
/// <param name="Why">The sum, in a sentence.</param>
public sealed record Contradiction(IReadOnlyList<FaultTest> Readings, IReadOnlyList<FaultTest> TakeAgain, string Why);

/// <summary>
/// Whether voltages read in one operating state can stand beside each other: drops around a loop add up to nothing (Kirchhoff's
/// voltage law), and where current can flow one way only no point has more than the one it is fed from. Each reading bounds the
/// difference of two potentials from both sides, each order of two points from one: such a system of difference constraints has no
/// solution exactly where there is a cycle of negative length (Bellman 1958, from memory), and that cycle is the loop.
/// </summary>
public static class LoopCheck
{
    // Readings of a loop are not taken at the same moment, and probes are not always at the same spot: so much may be missing in each,
    // V at 12 V, at rest and while the supply sags.
    private const double AtRest = 0.1, Commanded = 0.3;

    // So many standard errors of the instrument.
    private const double Errors = 4;

    private static readonly ConditionalWeakTable<FaultSystem, PointOrder> Orders = [];

    /// <summary>The loop that does not close; null when all can be right. Of a test taken more than once the last counts.</summary>
    public static Contradiction? Find(FindCase c)
    {
        foreach (var state in c.System.States)
        {
            FaultTest[] tests = [.. c.System.Tests.Where(t => t.Measure == Measure.Volts && t.State.Id == state.Id && c.Latest(t.Id)?.Value is not null)];
            if (Loop(c, state, tests) is { } loop)
            {
                FaultTest[] alone = [.. loop.Where(t => Loop(c, state, [.. tests.Except([t])]) is null)];
                return new Contradiction(loop, alone.Length > 0 ? alone : loop, $"{string.Join(", ", loop.Select(t => $"“{t.Title}” {c.Told(t.Id)}"))}: they do not add up, whatever is wrong. Take {(alone.Length == 1 ? $"“{alone[0].Title}”" : "them")} again.");
            }
        }

        return null;
    }

    /// <summary>
    /// Whether the other readings leave a reading no choice: what they allow between its two points is no wider than their errors, so
    /// that a sum closes over it.
    /// </summary>
    public static bool Confirms(FindCase c, FaultTest test)
    {
        if (test.Measure != Measure.Volts || c.Latest(test.Id)?.Value is null)
        {
            return false;
        }

        FaultTest[] others = [.. c.System.Tests.Where(t => t.Id != test.Id && t.Measure == Measure.Volts && t.State.Id == test.State.Id && c.Latest(t.Id)?.Value is not null)];
        var (points, edges) = Constraints(c, test.State, [.. others, test]);
        Edge[] rest = [.. edges.Where(e => e.Test != test)];
        var (plus, minus) = (Node(c.System, test, 0), Node(c.System, test, 1));
        return Shortest(points, rest, minus).TryGetValue(plus, out var most) && Shortest(points, rest, plus).TryGetValue(minus, out var least) && most + least < 2 * (others.Length + 1) * Allowed(c, test, 0);
    }

    // The potential of To is at most so much above that of From.
    private sealed record Edge(string From, string To, double Most, FaultTest? Test);

    private static IReadOnlyList<FaultTest>? Loop(FindCase c, OperatingState state, FaultTest[] tests)
    {
        if (tests.Length < 2)
        {
            return null;
        }

        var (points, edges) = Constraints(c, state, tests);
        var (distance, by) = (points.ToDictionary(p => p, _ => 0.0, StringComparer.Ordinal), new Dictionary<string, Edge>(StringComparer.Ordinal));
        string? last = null;
        for (var round = 0; round < points.Count; round++)
        {
            last = null;
            foreach (var e in edges)
            {
                if (distance[e.From] + e.Most < distance[e.To] - 1e-9)
                {
                    (distance[e.To], by[e.To], last) = (distance[e.From] + e.Most, e, e.To);
                }
            }
        }

        if (last is null)
        {
            return null;
        }

        // Back as many steps as there are points is on the cycle.
        for (var k = 0; k < points.Count; k++)
        {
            last = by[last].From;
        }

        var cycle = new List<FaultTest>();
        var at = last;
        do
        {
            if (by[at].Test is { } test)
            {
                cycle.Add(test);
            }

            at = by[at].From;
        }
        while (at != last);
        return [.. c.System.Tests.Where(cycle.Contains)];
    }

    private static (IReadOnlyList<string> Points, IReadOnlyList<Edge> Edges) Constraints(FindCase c, OperatingState state, FaultTest[] tests)
    {
        string[] points = [.. c.System.Points.Select(p => p.Node).Distinct()];
        var edges = new List<Edge>();
        foreach (var test in tests)
        {
            var (plus, minus, read) = (Node(c.System, test, 0), Node(c.System, test, 1), (double)c.Latest(test.Id)!.Value!.Value.Base);
            var allowed = Allowed(c, test, read);
            edges.Add(new Edge(minus, plus, read + allowed, test));
            edges.Add(new Edge(plus, minus, allowed - read, test));
        }

        edges.AddRange(Orders.GetValue(c.System, s => new PointOrder(s)).Of(state.Id).Select(o => new Edge(o.Above, o.Below, 0, null)));
        return (points, edges);
    }

    private static Dictionary<string, double> Shortest(IReadOnlyList<string> points, IReadOnlyList<Edge> edges, string from)
    {
        var distance = new Dictionary<string, double>(StringComparer.Ordinal) { [from] = 0 };
        for (var round = 0; round < points.Count; round++)
        {
            foreach (var e in edges)
            {
                if (distance.TryGetValue(e.From, out var d) && !(distance.TryGetValue(e.To, out var known) && known <= d + e.Most))
                {
                    distance[e.To] = d + e.Most;
                }
            }
        }

        return distance;
    }

    private static double Allowed(FindCase c, FaultTest test, double read)
    {
        var scale = ReadingScale.Of(test);
        return Errors * Math.Sqrt(scale.Fixed * scale.Fixed + scale.Relative * read * scale.Relative * read) + (test.Commanded ? Commanded : AtRest) * (double)c.NominalVolts / 12;
    }

    private static string Node(FaultSystem system, FaultTest test, int probe) => system.Points.First(p => p.Id == test.Probes[probe]).Node;
}

/// <summary>
/// Which of a system's points never has less than which other, by operating state: so found in the usual vehicle, in each equipment,
/// with every fault at the ends and in the middle of its range.
/// </summary>
internal sealed class PointOrder
{
    private const double Nothing = 0.02;

    private readonly Dictionary<string, List<(string Above, string Below)>> _orders = new(StringComparer.Ordinal);

    public PointOrder(FaultSystem system)
    {
        var circuit = new SampledCircuit(system);
        string[] nodes = [.. system.Points.Select(p => p.Node).Distinct()];
        var slots = system.States.ToDictionary(s => s.Id, s => nodes.Select(n => circuit.Slots.Find($"v.{n}", s.Id)!.Value).ToArray(), StringComparer.Ordinal);
        var least = system.States.ToDictionary(s => s.Id, _ => new double[nodes.Length, nodes.Length], StringComparer.Ordinal);
        foreach (var configuration in FaultTable.ConfigurationsOf(system, VehicleSetting.Usual))
        {
            var setting = configuration.Choices.Aggregate(VehicleSetting.Usual, (s, c) => s.With(c.Key, c.Value));
            foreach (var draw in system.Faults.Select(f => new VehicleDraw(system, circuit.Slots, setting, f)))
            {
                foreach (var place in draw.Set.Any(s => s is { Kind: not Spread.None }) ? new[] { 0.02, 0.25, 0.5, 0.98 } : [0.5])
                {
                    var row = draw.Row((_, isSet) => isSet ? place : 0.5);
                    if (!circuit.TrySolve(row))
                    {
                        continue;
                    }

                    foreach (var (state, at) in slots)
                    {
                        var bound = least[state];
                        for (var a = 0; a < nodes.Length; a++)
                        {
                            for (var b = 0; b < nodes.Length; b++)
                            {
                                bound[a, b] = Math.Min(bound[a, b], row[at[a]] - row[at[b]]);
                            }
                        }
                    }
                }
            }
        }

        foreach (var state in system.States)
        {
            _orders[state.Id] = [.. from a in Enumerable.Range(0, nodes.Length) from b in Enumerable.Range(0, nodes.Length) where a != b && least[state.Id][a, b] > -Nothing select (nodes[a], nodes[b])];
        }
    }

    public IReadOnlyList<(string Above, string Below)> Of(string state) => _orders[state];
}
