namespace Screeline.Core.Circuits;

/// <summary>
/// A relay or solenoid: a coil, and a contact that closes when the coil sees its pull-in voltage and opens when it sees less
/// than its hold-in voltage.
/// </summary>
/// <param name="Id">Identifier; the coil is "id.coil", the contact "id.contact".</param>
/// <param name="CoilFrom">One end of the coil.</param>
/// <param name="CoilTo">Other end of the coil.</param>
/// <param name="CoilOhms">Resistance of the coil.</param>
/// <param name="ContactFrom">One side of the contact.</param>
/// <param name="ContactTo">Other side of the contact.</param>
/// <param name="ContactOhms">Resistance of the closed contact.</param>
/// <param name="PullInVolts">Voltage across the coil that closes it.</param>
/// <param name="HoldInVolts">Voltage below which it opens again.</param>
public sealed record Relay(string Id, string CoilFrom, string CoilTo, double CoilOhms, string ContactFrom, string ContactTo, double ContactOhms, double PullInVolts, double HoldInVolts);

/// <summary>
/// A fuse: it has blown when the steady current would pass a share of its rating that differs from fuse to fuse. At 110 % a blade
/// fuse holds for a hundred hours, at 135 % it blows between 0.75 s and 600 s, at 160 % within 50 s (ISO 8820-3, from memory).
/// Between, whether it blows while a test lasts, a minute or so, hangs on the fuse.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">One side.</param>
/// <param name="To">Other side.</param>
/// <param name="RatedAmperes">Rating, A.</param>
/// <param name="Ohms">Resistance while whole.</param>
public sealed record Fuse(string Id, string From, string To, double RatedAmperes, double Ohms = 0.003)
{
    /// <summary>Share of the rating that every fuse bears.</summary>
    public const double Least = 1.1;

    /// <summary>Share of the rating above which every fuse blows while a test lasts.</summary>
    public const double Most = 1.6;

    /// <summary>Share of the rating above which the usual fuse blows while a test lasts: half of them bear more.</summary>
    public const double BlowsAt = (Least + Most) / 2;
}

/// <summary>A circuit in one operating state.</summary>
/// <param name="Elements">Its elements; ids are unique over elements, relays and fuses.</param>
/// <param name="Relays">Its relays.</param>
/// <param name="Fuses">Its fuses.</param>
public sealed record Network(IReadOnlyList<Element> Elements, IReadOnlyList<Relay> Relays, IReadOnlyList<Fuse> Fuses)
{
    /// <summary>The node all voltages are counted from: the battery's negative post.</summary>
    public const string Ground = "0";

    /// <summary>A circuit of elements alone.</summary>
    public Network(IReadOnlyList<Element> elements) : this(elements, [], [])
    {
    }

    /// <summary>The same circuit with more elements: an instrument put across two points.</summary>
    public Network With(params Element[] more) => this with { Elements = [.. Elements, .. more] };
}

/// <summary>The steady state of a circuit.</summary>
public sealed class Solution
{
    private readonly Circuit _circuit;
    private readonly double[] _voltages;
    private readonly bool[] _pulled, _blown, _restless;

    internal Solution(Circuit circuit, double[] voltages, bool[] pulled, bool[] blown, bool[] restless, double borne) =>
        (_circuit, _voltages, _pulled, _blown, _restless, Borne) = (circuit, voltages, pulled, blown, restless, borne);

    /// <summary>Relays whose contact is closed.</summary>
    public IReadOnlySet<string> PulledIn => Relays(_pulled);

    /// <summary>Fuses that have blown.</summary>
    public IReadOnlySet<string> Blown => Enumerable.Range(0, _blown.Length).Where(f => _blown[f]).Select(f => _circuit.Fuses[f].Id).ToHashSet(StringComparer.Ordinal);

    /// <summary>The greatest share of its rating that a fuse bore without blowing: one that bears less would have blown.</summary>
    public double Borne { get; }

    /// <summary>Voltage of a node against ground, V.</summary>
    public double Voltage(string node) => _circuit.Voltage(node, _voltages);

    /// <summary>Voltage between two nodes, V.</summary>
    public double Between(string from, string to) => Voltage(from) - Voltage(to);

    /// <summary>Current into the first node of an element, A.</summary>
    public double Current(string element) => _circuit.Current(element, _voltages);

    /// <summary>
    /// Tells many quantities at once: <c>v</c> of a node (V), <c>i</c> into an element (A), <c>speed</c> of a motor (rad/s; of anything
    /// else 0), and as 0 or 1 <c>pulled</c> and <c>chatter</c> of a relay and <c>blown</c> of a fuse.
    /// </summary>
    /// <param name="quantities">What is wanted; the same array each time for circuits of the same shape, so that names are looked up once.</param>
    /// <param name="values">Gets the values in that order.</param>
    public void Tell((string Quantity, string Id)[] quantities, Span<double> values) => _circuit.Tell(quantities, values, _voltages, _pulled, _blown, _restless);

    /// <summary>
    /// What an instrument between two nodes sees behind it: the change of voltage for a small current drawn there, ohm
    /// (Thévenin's theorem; exact where the circuit is ohmic, else at this operating point).
    /// </summary>
    public double TheveninOhms(string from, string to)
    {
        var probe = _circuit.Probe([(from, to)]);
        TheveninOhms(probe);
        return probe.Ohms[0];
    }

    /// <summary>The same for many pairs of nodes at once; they get the ohms.</summary>
    internal void TheveninOhms(Probes probes) => _circuit.OhmsBetween(_voltages, probes);

    private HashSet<string> Relays(bool[] which) => Enumerable.Range(0, which.Length).Where(r => which[r]).Select(r => _circuit.Relays[r].Id).ToHashSet(StringComparer.Ordinal);
}

/// <summary>Thrown when a circuit cannot be solved; it is never guessed.</summary>
public sealed class NotSolvedException(string message) : Exception(message);
