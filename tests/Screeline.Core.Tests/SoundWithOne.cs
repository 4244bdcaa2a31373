using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;
using Screeline.Diagnosis;

namespace Screeline.Core.Tests;

/// <summary>The usual vehicle, sound but for one thing, read by our solver or by ngspice.</summary>
internal sealed class SoundWithOne
{
    private readonly FaultSystem _system;
    private readonly VehicleSetting _setting;
    private readonly SampledCircuit _circuit;
    private readonly Fault _fault;
    private readonly double[] _good;

    public SoundWithOne(FaultSystem system, VehicleSetting setting, Fault fault)
    {
        (_system, _setting, _circuit) = (system, setting, new SampledCircuit(system));
        _fault = fault;
        _good = SystemTests.Draw(system, _circuit, setting, system.Faults[0], [.. system.Parameters.Select(_ => 0.5)]);
        Assert.True(_circuit.TrySolve(_good));
        Severity = system.Parameters.ToList().FindIndex(p => fault.Set.GetValueOrDefault(p.Id) is { Kind: Spread.Log });
        Row = _good;
    }

    public decimal Volts => (decimal)_setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12);

    /// <summary>The parameter that is the fault's severity; −1 when it has none.</summary>
    public int Severity { get; }

    /// <summary>The vehicle as it was solved last.</summary>
    public double[] Row { get; private set; }

    /// <summary>Gives the fault a severity, a place in its range; false when nothing comes to rest.</summary>
    /// <param name="place">The severity's place, 0 to 1.</param>
    /// <param name="others">That of all that is not the fault's, by parameter; the middle when left out.</param>
    public bool At(double place, Func<int, double>? others = null)
    {
        Row = SystemTests.Draw(_system, _circuit, _setting, _fault, [.. _system.Parameters.Select((_, p) => p == Severity ? place : others?.Invoke(p) ?? 0.5)]);
        return _circuit.TrySolve(Row, null, 1.35);
    }

    /// <summary>Finds the severity at which a test reads so much; false when there is none.</summary>
    public bool Find(Func<double> read, double wanted)
    {
        var (low, high) = (0.0, 1 - (_fault.Set[_system.Parameters[Severity].Id].Open + 1e-9));
        double At(double place) => this.At(place) ? read() : double.NaN;
        var (a, b) = (At(low), At(high));
        if (!(Math.Min(a, b) <= wanted && wanted <= Math.Max(a, b)))
        {
            return false;
        }

        for (var k = 0; k < 60; k++)
        {
            var middle = (low + high) / 2;
            var value = At(middle);
            if (double.IsNaN(value))
            {
                return false;
            }

            (low, high) = value < wanted == a < b ? (middle, high) : (low, middle);
        }

        return Math.Abs(At(low) - wanted) < 0.02 * (double)Volts / 12;
    }

    /// <summary>What a test reads on the sound vehicle.</summary>
    public double Sound(FaultTest test) => _circuit.Number(_system.Tests.ToList().IndexOf(test), _good, _good);

    public double Number(FaultTest test) => _circuit.Number(_system.Tests.ToList().IndexOf(test), Row, _good);

    public bool Chatters => _system.Circuit.Where(p => p.Kind == "relay").Any(p => _system.States.Any(s => Row[_circuit.Slots.Find($"chatter.{p.Id}", s.Id)!.Value] != 0));

    /// <summary>What a test reads or is answered; the voltmeter by ngspice where it is given.</summary>
    public Evidence Take(FaultTest test, Spice? spice = null)
    {
        if (test.Unit is null)
        {
            var answer = _circuit.Answer(_system.Tests.ToList().IndexOf(test), Row, _good);
            return new Evidence(test.Id, null, answer != FaultTable.Undecided ? test.Choices[answer].Id : test.Usual.Count > 0 ? test.Usual.MaxBy(u => u.Value).Key : test.Choices[0].Id);
        }

        string Node(int probe) => _system.Points.First(p => p.Id == test.Probes[probe]).Node;
        var blown = _system.Circuit.Where(p => p.Kind == "fuse" && Row[_circuit.Slots.Find($"blown.{p.Id}", test.State.Id)!.Value] != 0).Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        var value = spice is not null && test.Measure == Measure.Volts ? spice.Voltmeter(_circuit.NetworkOf(Row, test.State), blown, Node(0), Node(1)) : Number(test);
        return new Evidence(test.Id, new Figure(decimal.Round(test.Unit.FromBase((decimal)Math.Clamp(value, -1e9, 1e9)), Math.Max(2, test.Unit.Decimals)), test.Unit), null);
    }
}
