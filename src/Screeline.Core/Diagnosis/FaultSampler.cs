using System.Collections.Concurrent;
using Screeline.Core.Circuits;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// Simulates sampled vehicles for a table: each is solved while it is sound, then with one fault after the other put into it and
/// taken out again, and every test is read. A fault changes few parts and often not in every operating state, and where currents
/// flow in the sound vehicle is where the search in the faulty one begins.
/// </summary>
internal sealed class FaultSampler
{
    // Into how many parts a fault's range is divided to see where readings change.
    private const int RangeParts = 16;

    // How many vehicles one thread simulates one after the other. They are always the same and each lot begins its
    // searches anew, so that a table is the same on however many cores.
    private const int Lot = 61;

    // One of so many coarse vehicles shows mostly that something is rare.
    private const int First = 3;

    private readonly FaultTable _table;
    private readonly FaultSystem _system;
    private readonly SampledCircuit _circuit;
    private readonly int[] _fuses;
    // By test that reads a number.
    private readonly ReadingScale?[] _scales;
    private readonly ConcurrentBag<PreparedCircuit> _prepared = [];

    /// <summary>Prepares it.</summary>
    /// <param name="table">Knows the vehicle, the scales, and which faults it can have.</param>
    /// <param name="circuit">The system's circuit.</param>
    public FaultSampler(FaultTable table, SampledCircuit circuit)
    {
        (_table, _system, _circuit) = (table, table.System, circuit);
        _fuses = [.. circuit.Slots.Fuses()];
        _scales = [.. _system.Tests.Select((test, t) => test.Unit is null ? (ReadingScale?)null : table.Scales[t])];
    }

    /// <summary>
    /// Samples each fault that the vehicle can have: in the coarse vehicles, but in the fine ones where something proves to be rare or
    /// is nearly answered, or two things are set. Where in the fault's ranges that was is then sampled more densely.
    /// </summary>
    /// <returns>By fault, the first of which is none: what was read, and what was read of the same vehicles while they were sound.</returns>
    public (FaultSamples Faulty, FaultSamples Sound)[] Sample(Sampling sampling)
    {
        int[] order = [.. ByInfluence()];
        Vehicles few = VehiclesOf(sampling.Coarse, sampling.CoarseShuffling, order), many = VehiclesOf(sampling.Fine, sampling.FineShuffling, order);
        var changes = Changes();
        List<InVehicles> coarse = [.. changes.Where(_ => few.Count < many.Count).Select(c => new InVehicles(this, c, few))];
        List<Change> rare = [.. changes.Where(_ => coarse.Count == 0)];
        foreach (var isFirst in new[] { true, false })
        {
            Simulate(few, [.. Enumerable.Range(0, few.Count).Where(i => i % First == 0 == isFirst)], coarse);
            Parallel.ForEach(coarse, f => f.Look());
            // Where two things are set all the coarse vehicles are worth it only to see better what is rare.
            var found = coarse.Where(f => f.Change.IsDouble ? !isFirst || f.Seen.Length == 0 : f.Seen.Length > 0).ToList();
            rare.AddRange(found.Select(f => f.Sharpened()));
            coarse.RemoveAll(found.Contains);
        }

        Parallel.ForEach(coarse, f =>
        {
            f.Measure();
            f.Look();
        });
        var near = coarse.Where(f => f.Seen.Length > 0).ToList();
        rare.AddRange(near.Select(f => f.Sharpened()));
        coarse.RemoveAll(near.Contains);
        InVehicles[] fine = [.. rare.Select(c => new InVehicles(this, c, many))];
        Simulate(many, [.. Enumerable.Range(0, many.Count)], fine);
        Parallel.ForEach((InVehicles[])[few.Sound, many.Sound, .. fine], f => f.Measure());
        InVehicles[] all = [few.Sound, many.Sound, .. coarse, .. fine];
        var none = new FaultSamples(_system, 0, 1);
        return [.. _system.Faults.Select(fault => fault == _system.Faults[0] ? (many.Sound.Samples, many.Sound.Samples)
            : all.FirstOrDefault(f => f.Change.Fault == fault) is { } found ? (found.Samples, found.Vehicles.Sound.Samples) : (none, none))];
    }

    // What a fault, by its number, changes: in a vehicle, its parameters and the parts that hang on them; how densely to sample what it
    // sets, by parameter; by test how many comparisons decide its answer, −1 for none; and whether it sets two things that currents meet.
    private sealed record Change(Fault Fault, int Number, VehicleDraw Draw, int[] Parts, FaultRange?[] Ranges, int[] Comparisons, bool IsDouble);

    // Sampled vehicles: columns of places for what a fault sets, in the order of the parameters, and for each parameter of the vehicle.
    private sealed record Vehicles(int Count, double[][] Set, double[][] Parameters)
    {
        public InVehicles Sound { get; set; } = null!;
    }

    // A fault in sampled vehicles: by parameter the column of its places, what is read, and by test how far comparisons are from turning.
    private sealed class InVehicles
    {
        private readonly FaultSampler _sampler;
        private readonly double[][] _columns;
        private readonly double[][] _compared;
        private readonly int _times;

        public InVehicles(FaultSampler sampler, Change change, Vehicles vehicles)
        {
            (_sampler, Change, Vehicles) = (sampler, change, vehicles);
            _times = sampler._fuses.Length > 0 && change.Fault != sampler._system.Faults[0] ? 2 : 1;
            Samples = new FaultSamples(sampler._system, vehicles.Count, _times);
            var set = Enumerable.Range(0, vehicles.Parameters.Length).Where(p => change.Fault.Set.ContainsKey(sampler._system.Parameters[p].Id)).ToList();
            _columns = [.. vehicles.Parameters.Select((column, p) => set.IndexOf(p) is >= 0 and var k ? vehicles.Set[k] : column)];
            _compared = [.. change.Comparisons.Select(c => new double[Math.Max(0, c) * Samples.Count])];
        }

        public Change Change { get; }

        public Vehicles Vehicles { get; }

        public FaultSamples Samples { get; private set; }

        // What proved to be rare or, once margins are measured, is nearly answered: the samples of each.
        public int[][] Seen { get; private set; } = [];

        // Simulates a vehicle while it is sound; its row gets everything. Its fuses bear all that any fuse bears.
        public void Simulate(int vehicle, double[] sound, PreparedCircuit prepared)
        {
            Draw(vehicle, sound, Change.Draw.All);
            Samples.Weights[vehicle] = 1;
            Samples.Solved[vehicle] = _sampler._circuit.TrySolve(sound, prepared, Fuse.Most);
            Read(vehicle, sound, sound);
        }

        // Simulates the sound vehicle solved last with the fault. Where some fuses bear the current and others blow, both are told with
        // their shares, as one fuse is like another: a share that was counted would hang on the vehicles drawn.
        public void Simulate(int vehicle, double[] row, double[] sound, PreparedCircuit prepared)
        {
            if (!Vehicles.Sound.Samples.Solved[vehicle])
            {
                return;
            }

            var weight = Put();
            Samples.Weights[vehicle] = (float)weight;
            Samples.Solved[vehicle] = _sampler._circuit.TrySolveWith(Change.Parts, row, prepared, out var borne, Fuse.Most, Change.Number);
            Read(vehicle, row, sound);
            if (_times > 1 && Samples.Solved[vehicle] && borne > Fuse.Least)
            {
                var (blows, other) = ((borne - Fuse.Least) / (Fuse.Most - Fuse.Least), vehicle + Vehicles.Count);
                Put();
                Samples.Weights[vehicle] = (float)(weight * (1 - blows));
                Samples.Weights[other] = (float)(weight * blows);
                Samples.Solved[other] = _sampler._circuit.TrySolveWith(Change.Parts, row, prepared, out _, (Fuse.Least + borne) / 2, Change.Number);
                Read(other, row, sound);
            }

            double Put()
            {
                sound.CopyTo(row, 0);
                return Draw(vehicle, row, Change.Draw.Others);
            }
        }

        private double Draw(int vehicle, double[] row, int[] parameters)
        {
            var weight = 1.0;
            foreach (var p in parameters)
            {
                var place = _columns[p][vehicle];
                if (Change.Ranges[p] is { } range)
                {
                    (place, var own) = range.At(place);
                    weight *= own;
                }

                Change.Draw.Into(row, p, place);
            }

            return weight;
        }

        private void Read(int sample, double[] row, double[] sound)
        {
            if (Samples.Solved[sample])
            {
                _sampler.Read(Samples, sample, row, sound, Change.Comparisons, _compared);
            }
        }

        // The same change, its ranges sampled more densely where something rare was seen.
        public Change Sharpened()
        {
            // What is rarer counts as much.
            var rare = new List<(int Vehicle, double Weight)>();
            foreach (var seen in Seen)
            {
                var all = seen.Sum(i => (double)Samples.Weights[i]);
                rare.AddRange(seen.Select(i => (Samples.Vehicles[i], Samples.Weights[i] / all)));
            }

            FaultRange? Toward(FaultRange? range, int parameter) => range?.Toward([.. rare.Select(r => (range.At(_columns[parameter][r.Vehicle]).Place, r.Weight))]);
            return Change with { Ranges = [.. Change.Ranges.Select(Toward)] };
        }

        public void Look() => Seen = [.. Samples.Rare(), .. Samples.Near()];

        // Lets go of the room that was not needed and turns comparisons into margins.
        public void Measure()
        {
            int[] needed = [.. Enumerable.Range(0, Samples.Count).Where(i => i < Vehicles.Count || Samples.Weights[i] > 0)];
            Samples = Samples.Only(needed);
            var (solved, system, first) = (Samples.WhichSolved(), _sampler._system, _sampler._table.FirstMargin);
            var none = new float[Samples.Count];
            float[][] margins = [.. Enumerable.Range(0, _sampler._table.Variables - system.Tests.Count).Select(_ => none)];
            for (var t = 0; t < _compared.Length; t++)
            {
                var (count, compared) = (Change.Comparisons[t], _compared[t]);
                if (count < 0)
                {
                    continue;
                }

                for (var k = Vehicles.Count; k < needed.Length; k++)
                {
                    compared.AsSpan(count * needed[k], count).CopyTo(compared.AsSpan(count * k, count));
                }

                var own = margins.AsSpan(first[t] - system.Tests.Count, system.Tests[t].Choices.Count + 1);
                for (var a = 0; a < own.Length; a++)
                {
                    own[a] = new float[Samples.Count];
                }

                AnswerMargins.Measure(_sampler._circuit, t, compared, count, solved, Samples.Weights, Samples.Decided(t), own);
            }

            Samples.Margins = margins;
        }
    }

    private Vehicles VehiclesOf(int levels, int? shuffling, int[] order)
    {
        // The best columns are for what faults set and for what bears on readings most.
        var sets = _system.Faults.Max(f => f.Set.Count);
        var columns = Sampling.PlacesOf(levels, shuffling, sets + order.Length);
        var vehicles = new Vehicles(columns[0].Length, columns[..sets], new double[order.Length][]);
        for (var k = 0; k < order.Length; k++)
        {
            vehicles.Parameters[order[k]] = columns[sets + k];
        }

        vehicles.Sound = new InVehicles(this, ChangeOf(0, [], new PreparedCircuit { ForTests = true }), vehicles);
        return vehicles;
    }

    private void Simulate(Vehicles vehicles, int[] which, IReadOnlyList<InVehicles> faults)
    {
        // What is near together in memory is written by one thread.
        Parallel.For(0, (which.Length + Lot - 1) / Lot, lot =>
        {
            var prepared = _prepared.TryTake(out var used) ? used : new PreparedCircuit { ForTests = true };
            prepared.Forget();
            var sound = DrawOf(_system.Faults[0]).Row((_, _) => 0.5);
            var row = new double[sound.Length];
            for (var k = Lot * lot; k < Math.Min(which.Length, Lot * (lot + 1)); k++)
            {
                vehicles.Sound.Simulate(which[k], sound, prepared);
                foreach (var fault in faults)
                {
                    fault.Simulate(which[k], row, sound, prepared);
                }
            }

            _prepared.Add(prepared);
        });
    }

    // What every test reads on a solved sample.
    private void Read(FaultSamples samples, int sample, double[] row, double[] sound, int[] counts, double[][] compared)
    {
        var hash = 17;
        foreach (var fuse in _fuses)
        {
            hash = unchecked(hash * 31 + (row[fuse] > 0.5 ? 1 : 0));
        }

        samples.Blown[sample] = hash;
        for (var t = 0; t < counts.Length; t++)
        {
            if (_scales[t] is { } scale)
            {
                samples.Keep(t, sample, scale.To(_circuit.Number(t, row, sound)));
            }
            else if (counts[t] >= 0)
            {
                samples.Keep(t, sample, _circuit.Answer(t, row, sound));
                _circuit.Comparisons(t, row, sound, compared[t].AsSpan(counts[t] * sample, counts[t]));
            }
            else
            {
                samples.Keep(t, sample, FaultTable.Undecided);
            }
        }
    }

    // The parameters, first those that move the readings of a sound vehicle most.
    private IEnumerable<int> ByInfluence()
    {
        var (prepared, sound) = (new PreparedCircuit { ForTests = true }, DrawOf(_system.Faults[0]));
        double[] At(int parameter, double place)
        {
            var row = sound.Row((p, _) => p == parameter ? place : 0.5);
            return _circuit.TrySolve(row, prepared) ? NumbersOf(row, row) : [];
        }

        return Enumerable.Range(0, _system.Parameters.Count).OrderByDescending(p => At(p, 0.1).Zip(At(p, 0.9)).Sum(x => Math.Min(10, Math.Abs(x.First - x.Second))));
    }

    // Of each fault that the vehicle can have, but of none.
    private Change[] Changes()
    {
        int[] which = [.. Enumerable.Range(1, _system.Faults.Count - 1).Where(f => _table.Applies[f])];
        var changes = new Change[which.Length];
        var lots = Math.Min(4, which.Length);
        Parallel.For(0, lots, lot =>
        {
            var (prepared, usual) = (new PreparedCircuit { ForTests = true }, DrawOf(_system.Faults[0]).Row((_, _) => 0.5));
            var isSolved = _circuit.TrySolve(usual, prepared);
            for (var k = lot; k < which.Length; k += lots)
            {
                changes[k] = ChangeOf(which[k], isSolved ? usual : [], prepared);
            }
        });
        return changes;
    }

    // The usual vehicle's row, solved with what is prepared, or nothing: then what the fault sets is sampled evenly.
    private Change ChangeOf(int number, double[] usual, PreparedCircuit prepared)
    {
        var fault = _system.Faults[number];
        var draw = DrawOf(fault);
        var parts = _circuit.PartsOf(draw.OtherSlots);
        int[] counts = [.. _system.Tests.Select((test, t) => FaultTable.IsDecided(test) && !fault.Signs.ContainsKey(test.Id) ? _circuit.ComparisonsOf(t) : -1)];
        int[] answered = [.. Enumerable.Range(0, counts.Length).Where(t => counts[t] >= 0)];
        return new Change(fault, number, draw, parts, [.. Enumerable.Range(0, _system.Parameters.Count).Select(Range)], counts, Enumerable.Range(0, _system.Parameters.Count).Count(IsInCircuit) > 1);

        bool IsInCircuit(int parameter) =>
            fault.Set.TryGetValue(_system.Parameters[parameter].Id, out var set) && set.Kind != Spread.None && _circuit.PartsOf(draw.SlotsFrom(parameter)).Length > 0;

        FaultRange? Range(int parameter)
        {
            if (usual.Length == 0 || !fault.Set.TryGetValue(_system.Parameters[parameter].Id, out var set) || set.Kind == Spread.None)
            {
                return null;
            }

            double[][] rows = [.. Enumerable.Range(0, RangeParts + 1).Select(k => Row(k / (double)RangeParts))];
            return rows.All(row => _circuit.TrySolveWith(parts, row, prepared, out _))
                ? FaultRange.Of([.. rows.Select(row => NumbersOf(row, usual))], [.. rows.Select(row => Array.ConvertAll(answered, t => _circuit.Answer(t, row, usual)))]) : null;

            double[] Row(double place)
            {
                double[] row = [.. usual];
                foreach (var p in draw.Others)
                {
                    draw.Into(row, p, p == parameter ? place : 0.5);
                }

                return row;
            }
        }
    }

    private VehicleDraw DrawOf(Fault fault) => new(_system, _circuit.Slots, _table.Setting, fault);

    private double[] NumbersOf(double[] row, double[] sound) =>
        [.. Enumerable.Range(0, _scales.Length).Where(t => _scales[t] is not null).Select(t => _scales[t]!.Value.To(_circuit.Number(t, row, sound)))];
}
