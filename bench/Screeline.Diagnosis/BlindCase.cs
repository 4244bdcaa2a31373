using Screeline.Core.Circuits;
using Screeline.Core.Diagnosis;
using Screeline.Core.Quantities;

namespace Screeline.Diagnosis;

/// <summary>
/// A vehicle with a hidden fault that answers tests. It is drawn wider than the template the engine reasons with: severities lie from
/// twice what is just noticeable to open, what the vehicle file does not state differs by up to a quarter to either side, it is some
/// degrees warmer or colder than was said, meters err, one number in fifty is grossly wrong, people mishear.
/// </summary>
public sealed class BlindCase
{
    /// <summary>How far unstated parameters may lie from the template.</summary>
    public const double OffTemplate = 0.25;

    /// <summary>Share of behaviours misheard.</summary>
    public const double Misheard = 0.03;

    /// <summary>Share of numbers that are grossly wrong: anything a meter could show.</summary>
    public const double Gross = 0.02;

    // How far the temperature is from what was said, °C.
    private const double Degrees = 5;

    private readonly FaultSystem _system;
    private readonly SampledCircuit _circuit;
    private readonly double[] _bad;
    private readonly double[] _good;
    private readonly int _seed;
    private readonly int[] _takes;
    private Random _random;
    private readonly Spice? _spice;

    public BlindCase(FaultTable table, int seed, Spice? spice)
    {
        var (system, setting) = (table.System, table.Setting);
        var random = new Random(seed);
        (_system, _seed, _random, _spice, _takes) = (system, seed, random, spice, new int[system.Tests.Count]);
        _circuit = new SampledCircuit(system);
        var configuration = Pick(table.Configurations, c => c.Share, random);
        setting = configuration.Choices.Aggregate(setting, (s, c) => s.With(c.Key, c.Value)) with { Celsius = Math.Clamp(setting.Celsius + Degrees * (2 * random.NextDouble() - 1), -40, 60) };
        var applies = table.Applies[table.Configurations.ToList().IndexOf(configuration)];
        Fault = Pick([.. system.Faults.Where((_, f) => applies[f])], f => f.Prior, random);
        var places = system.Parameters.Select(_ => random.NextDouble()).ToArray();
        var sets = system.Parameters.Select(_ => random.NextDouble()).ToArray();
        _good = Row(setting, system.Faults[0], places, sets);
        _bad = Row(setting, Fault, places, sets);
        // One fuse bears more than another: drawn by itself, so that all else of a case stays as it was.
        var fuse = Fuse.Least + (Fuse.Most - Fuse.Least) * new Random(seed ^ int.MaxValue).NextDouble();
        if (!_circuit.TrySolve(_good, null, fuse) || !_circuit.TrySolve(_bad, null, fuse))
        {
            throw new InvalidOperationException($"A case of {Fault.Id} has no steady state.");
        }

        var chance = random.NextDouble();
        Cold = Fault.Cold.From + (Fault.Cold.To - Fault.Cold.From) * chance;
        Hot = Fault.Hot.From + (Fault.Hot.To - Fault.Hot.From) * chance;
        Volts = (decimal)setting.Stated.GetValueOrDefault(VehicleSetting.Volts, 12);
    }

    public Fault Fault { get; }
    public double Cold { get; }
    public double Hot { get; }
    public decimal Volts { get; }
    public int BySpice { get; private set; }

    /// <summary>The complaint: behaviours of the occasion on which it failed, and five tries.</summary>
    public FindCase Complaint()
    {
        var behaviours = new List<string>();
        for (var t = 0; t < _system.Tests.Count; t++)
        {
            if (_system.Tests[t].Complaint)
            {
                var answer = _system.Tests[t].Choices[Answer(t, true)].Id;
                behaviours.AddRange(_system.Behaviours.Where(b => b.Test == _system.Tests[t].Id && b.Choice == answer).Select(b => b.Id));
            }
        }

        return new FindCase(_system, Volts, behaviours, []) { Tried = 5, Failed = Fails(5, Cold) };
    }

    /// <summary>Does a test.</summary>
    public Evidence Take(FaultTest test)
    {
        var t = _system.Tests.ToList().IndexOf(test);
        // A test reads the same whenever it is done, so that two orders of testing meet the same vehicle.
        _random = new Random(unchecked(_seed * 31 + t + 1 + 1000 * _takes[t]++) & int.MaxValue);
        var shows = _random.NextDouble() < (test.Hot ? Hot : Cold);
        if (test.Unit is null)
        {
            return new Evidence(test.Id, null, test.Choices[test.Measure == Measure.Attempts ? OfTen(test.Hot ? Hot : Cold) : Answer(t, shows)].Id);
        }

        var row = shows ? _bad : _good;
        if (_random.NextDouble() < Gross && test.Plausible is { } plausible)
        {
            var anything = (decimal)_random.NextDouble() * (plausible.High - plausible.Low) + plausible.Low;
            return new Evidence(test.Id, new Figure(decimal.Round(anything * test.Scale(Volts), Math.Max(2, test.Unit.Decimals)), test.Unit), null);
        }

        var value = test.Measure == Measure.Volts && _spice is not null && _random.NextDouble() < _spice.Share
            ? ReadBySpice(test, row)
            : _circuit.Number(t, row, _good);
        var scale = ReadingScale.Of(test);
        var error = Gauss() * Math.Sqrt(scale.Fixed * scale.Fixed + Math.Pow(scale.Relative * value, 2));
        var number = test.Unit.FromBase((decimal)Math.Clamp(value + error, -1e9, 1e9));
        return new Evidence(test.Id, new Figure(decimal.Round(number, Math.Max(2, test.Unit.Decimals)), test.Unit), null);
    }

    private double ReadBySpice(FaultTest test, double[] row)
    {
        BySpice++;
        string Node(int probe) => _system.Points.First(p => p.Id == test.Probes[probe]).Node;
        var blown = _system.Circuit.Where(p => p.Kind == "fuse" && row[_circuit.Slots.Find($"blown.{p.Id}", test.State.Id)!.Value] != 0).Select(p => p.Id).ToHashSet(StringComparer.Ordinal);
        return _spice!.Voltmeter(_circuit.NetworkOf(row, test.State), blown, Node(0), Node(1));
    }

    private double[] Row(VehicleSetting setting, Fault fault, double[] places, double[] sets)
    {
        var row = new double[_circuit.Slots.Count];
        row[_circuit.Slots[Slots.Celsius]] = setting.Celsius;
        var values = new FormulaValues(row, row);
        for (var p = 0; p < _system.Parameters.Count; p++)
        {
            var parameter = _system.Parameters[p];
            row[_circuit.Slots[parameter.Id]] = fault.Set.TryGetValue(parameter.Id, out var set) ? set.At(Noticeable(set, sets[p]), values)
                : setting.Stated.TryGetValue(parameter.Id, out var stated) ? stated
                : parameter.Draw.Kind == Spread.Share ? parameter.Draw.Value.At(values) * (1 + Off(parameter) * (2 * places[p] - 1))
                : parameter.Draw.At(places[p], values);
        }

        return row;
    }

    // Of a range over orders of magnitude what lies at twice its beginning or above.
    private static double Noticeable(Draw draw, double place) => draw.Kind == Spread.Log && draw.To > 10 * draw.From ? Math.Log(2) / Math.Log(draw.To / draw.From) is var least ? least + (1 - least) * place : 0 : place;

    // What differs from vehicle to vehicle is off by a quarter; what a maker holds within a few per cent (a regulator's voltage)
    // by twice its tolerance.
    private static double Off(Parameter parameter) => parameter.Low is not null || parameter.Draw.Share >= 0.1 ? OffTemplate : 2 * parameter.Draw.Share;

    private int Answer(int test, bool shows)
    {
        var t = _system.Tests[test];
        var fault = shows ? Fault : _system.Faults[0];
        if (_random.NextDouble() < Misheard)
        {
            return _random.Next(t.Choices.Count);
        }

        if (!fault.Signs.ContainsKey(t.Id) && _circuit.Answer(test, shows ? _bad : _good, _good) is var decided && decided != FaultTable.Undecided)
        {
            return decided;
        }

        var given = fault.Signs.GetValueOrDefault(t.Id) ?? t.Usual;
        var place = _random.NextDouble();
        foreach (var (choice, chance) in given)
        {
            place -= chance;
            if (place < 0)
            {
                return t.Choices.ToList().FindIndex(c => c.Id == choice);
            }
        }

        var others = Enumerable.Range(0, t.Choices.Count).Where(i => !given.ContainsKey(t.Choices[i].Id)).DefaultIfEmpty(0).ToList();
        return others[_random.Next(others.Count)];
    }

    private int Fails(int tries, double chance) => Fault == _system.Faults[0] ? 0 : Enumerable.Range(0, tries).Count(_ => _random.NextDouble() < chance);

    private int OfTen(double chance) => _random.NextDouble() < Misheard ? _random.Next(3) : Fails(10, chance) switch { 10 => 0, 0 => 2, _ => 1 };

    private double Gauss() => Math.Sqrt(-2 * Math.Log(1 - _random.NextDouble())) * Math.Cos(2 * Math.PI * _random.NextDouble());

    private static T Pick<T>(IReadOnlyList<T> all, Func<T, double> share, Random random)
    {
        var place = random.NextDouble() * all.Sum(share);
        foreach (var one in all)
        {
            place -= share(one);
            if (place < 0)
            {
                return one;
            }
        }

        return all[^1];
    }
}
