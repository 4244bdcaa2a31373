using System.Collections.Concurrent;
using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>What was read of the sampled vehicles that have one fault.</summary>
/// <param name="Solved">By vehicle: whether its circuits were solved; those that were not are left out and counted.</param>
/// <param name="Strata">By vehicle: the stratum of the fault's severity.</param>
/// <param name="Regimes">By vehicle: a number for the regime its circuits settled in.</param>
/// <param name="Variables">By variable of <see cref="MixtureComponent"/> and vehicle: the number on its reading scale.</param>
/// <param name="Decided">By temperature, test that is answered, and vehicle: the answer that the state decides, or <see cref="FaultTable.Undecided"/>.</param>
internal sealed record SampledFault(bool[] Solved, int[] Strata, int[] Regimes, float[][] Variables, byte[][] Decided)
{
    /// <summary>The same vehicles at several temperatures as one sample: what is read while the fault shows at each, then what is read while it does not.</summary>
    /// <param name="at">By temperature.</param>
    /// <param name="numbers">How many tests read numbers.</param>
    public static SampledFault Joined(IReadOnlyList<SampledFault> at, int numbers) => at.Count == 1 ? at[0] : new SampledFault(
        [.. at[0].Solved.Select((_, i) => at.All(s => s.Solved[i]))], at[0].Strata,
        [.. at[0].Regimes.Select((_, i) => at.Aggregate(17, (hash, s) => unchecked(hash * 31 + s.Regimes[i])))],
        [.. at.SelectMany(s => s.Variables.Take(numbers)), .. at.SelectMany(s => s.Variables.Skip(numbers))],
        [.. at.SelectMany(s => s.Decided)]);
}

/// <summary>
/// Simulates sampled vehicles of one configuration: each is solved while it is sound, then with one fault after the other put into it
/// and taken out again, and every test is read. A fault changes few parts and often not in every operating state, and where currents
/// flow in the sound vehicle is where the search in the faulty one begins (a warm start).
/// </summary>
internal sealed class FaultSampler
{
    // Strata of a range over orders of magnitude, for each of them; and of any other range.
    private const double StrataPerDecade = 2;
    private const int StrataOfRange = 3;
    private const int Seed = 1;

    // How many vehicles one thread simulates one after the other. They are always the same and each lot begins its
    // searches anew, so that a table is the same on however many cores.
    private const int Lot = 32;

    private readonly FaultTable _table;
    private readonly FaultSystem _system;
    private readonly SampledCircuit _circuit;
    private readonly VehicleSetting _setting;
    private readonly (int Slot, bool IsSpeed)[] _regime;

    /// <summary>Prepares it.</summary>
    /// <param name="table">Knows the scales and the variables.</param>
    /// <param name="circuit">The system's circuit.</param>
    /// <param name="setting">The vehicle with every choice stated.</param>
    public FaultSampler(FaultTable table, SampledCircuit circuit, VehicleSetting setting)
    {
        (_table, _system, _circuit, _setting) = (table, table.System, circuit, setting);
        _regime = [.. circuit.Slots.Regime()];
    }

    /// <summary>Samples each fault that such a vehicle can have.</summary>
    /// <param name="vehicles">How many vehicles, an even number.</param>
    /// <returns>By fault; null where such a vehicle cannot have it.</returns>
    public SampledFault?[] Sample(int vehicles)
    {
        Draws[] draws = [.. _system.Faults.Select(f => new Draws(f, new VehicleDraw(_system, _circuit.Slots, _setting, f)))];
        var usual = draws[0].Draw.Row((_, _) => 0.5);
        var faults = new SampledFault?[draws.Length];
        for (var f = 0; f < draws.Length; f++)
        {
            faults[f] = draws[f].Fault.When is { } when && when.At(new FormulaValues(usual, usual)) == 0 ? null : new SampledFault(new bool[vehicles], new int[vehicles], new int[vehicles],
                Many<float>(_table.NumberTests.Length * (draws[f].Fault.IsIntermittent ? 2 : 1), vehicles), [.. _system.Tests.Select(t => FaultTable.IsDecided(t) ? new byte[vehicles] : [])]);
        }

        // What a fault sets has columns of its own: it is not what the sound vehicle has there. The last is for the fuses.
        var parameters = _system.Parameters.Count;
        var places = LatinHypercube.Of(2 * parameters + 1, vehicles, Seed);
        var prepared = new ConcurrentBag<PreparedCircuit>();
        Parallel.For(0, (vehicles + Lot - 1) / Lot, lot =>
        {
            var own = prepared.TryTake(out var used) ? used : new PreparedCircuit { ForTests = true };
            own.Forget();
            double[] sound = [.. usual];
            var row = new double[sound.Length];
            for (var i = Lot * lot; i < Math.Min(vehicles, Lot * (lot + 1)); i++)
            {
                var blowsAt = Fuse.Least + (Fuse.Most - Fuse.Least) * places[2 * parameters][i];
                draws[0].Into(sound, draws[0].Draw.All, places, i);
                faults[0]!.Solved[i] = _circuit.TrySolve(sound, own, blowsAt);
                if (!faults[0]!.Solved[i])
                {
                    continue;
                }

                Read(faults[0]!, i, sound, sound);
                for (var f = 1; f < faults.Length; f++)
                {
                    if (faults[f] is { } fault)
                    {
                        sound.CopyTo(row, 0);
                        draws[f].Into(row, draws[f].Draw.Others, places, i);
                        fault.Strata[i] = draws[f].Stratum(places, i);
                        fault.Solved[i] = _circuit.TrySolveWith(draws[f].Parts(_circuit), row, own, out _, blowsAt, f);
                        if (fault.Solved[i])
                        {
                            Read(fault, i, row, sound);
                        }
                    }
                }
            }

            prepared.Add(own);
        });
        return faults;
    }

    private static T[][] Many<T>(int count, int length) => [.. Enumerable.Range(0, count).Select(_ => new T[length])];

    // What every test reads on a solved vehicle.
    private void Read(SampledFault samples, int vehicle, double[] row, double[] sound)
    {
        var hash = 17;
        foreach (var (slot, isSpeed) in _regime)
        {
            hash = unchecked(hash * 31 + (isSpeed ? (row[slot] != 0 ? 1 : 0) : row[slot] > 0.5 ? 1 : 0));
        }

        samples.Regimes[vehicle] = hash;
        var numbers = _table.NumberTests;
        for (var v = 0; v < samples.Variables.Length; v++)
        {
            var test = numbers[v % numbers.Length];
            samples.Variables[v][vehicle] = (float)_table.Scales[test].To(_circuit.Number(test, v < numbers.Length ? row : sound, sound));
        }

        for (var t = 0; t < samples.Decided.Length; t++)
        {
            if (samples.Decided[t].Length > 0)
            {
                samples.Decided[t][vehicle] = _circuit.Answer(t, row, sound);
            }
        }
    }

    // How a fault's vehicles are drawn: the parameter that is its severity, the widest of those it sets, and over how many strata it lies.
    private sealed class Draws
    {
        private readonly int _severity = -1;
        private readonly int _strata = 1;
        private readonly bool[] _sets;
        private readonly int _parameters;
        private int[]? _parts;

        public Draws(Fault fault, VehicleDraw draw)
        {
            (Fault, Draw, _parameters) = (fault, draw, draw.All.Length);
            _sets = [.. draw.Set.Select(s => s is not null)];
            for (var p = 0; p < _parameters; p++)
            {
                var strata = draw.Set[p] switch
                {
                    { Kind: Spread.Log } log => Math.Max(StrataOfRange, (int)Math.Round(StrataPerDecade * Math.Log10(log.To / log.From))),
                    { Kind: Spread.Even } => StrataOfRange,
                    _ => 1,
                };
                if (strata > _strata)
                {
                    (_severity, _strata) = (p, strata);
                }
            }
        }

        public Fault Fault { get; }

        public VehicleDraw Draw { get; }

        public int[] Parts(SampledCircuit circuit) => _parts ??= circuit.PartsOf(Draw.OtherSlots);

        public int Stratum(double[][] places, int vehicle) => _severity < 0 ? 0 : (int)(_strata * places[_parameters + _severity][vehicle]);

        public void Into(double[] row, int[] which, double[][] places, int vehicle)
        {
            foreach (var p in which)
            {
                Draw.Into(row, p, places[_sets[p] ? _parameters + p : p][vehicle]);
            }
        }
    }
}
