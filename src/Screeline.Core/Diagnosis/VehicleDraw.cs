namespace Screeline.Core.Diagnosis;

/// <summary>Draws the parameters of one vehicle with one fault: what its file states, what the fault sets, the rest at places in their ranges.</summary>
internal sealed class VehicleDraw
{
    // How much a parameter that the vehicle's file states may still differ.
    private const double StatedShare = 0.03;

    private readonly int _count, _celsiusSlot;
    private readonly double _celsius;
    private readonly Drawn[] _parameters;

    // What the fault sets or how it is drawn; or what is stated, and by how much it may differ.
    private readonly record struct Drawn(int Slot, bool Set, Draw? From, double Stated, double Share);

    /// <summary>Prepares it.</summary>
    public VehicleDraw(FaultSystem system, Slots slots, VehicleSetting setting, Fault fault)
    {
        (_count, _celsiusSlot, _celsius) = (slots.Count, slots[Slots.Celsius], setting.Celsius);
        _parameters = [.. system.Parameters.Select(p =>
            fault.Set.TryGetValue(p.Id, out var set) ? new Drawn(slots[p.Id], true, set, 0, 0)
            : !setting.Stated.TryGetValue(p.Id, out var stated) ? new Drawn(slots[p.Id], false, p.Draw, 0, 0)
            : new Drawn(slots[p.Id], false, null, stated, p.Choices.Count > 0 || p.Draw.Kind == Spread.None ? 0 : StatedShare))];
        All = [.. Enumerable.Range(0, _parameters.Length)];
        Set = [.. system.Parameters.Select(p => fault.Set.GetValueOrDefault(p.Id))];
        OtherSlots = SlotsFrom(p => _parameters[p].Set);
        Others = [.. All.Where(p => OtherSlots.Contains(_parameters[p].Slot))];
    }

    /// <summary>All parameters, in order.</summary>
    public int[] All { get; }

    /// <summary>The parameters that can differ from a sound vehicle's: those the fault sets, and those that are worked out from them.</summary>
    public int[] Others { get; }

    /// <summary>Their slots.</summary>
    public IReadOnlySet<int> OtherSlots { get; }

    /// <summary>By parameter: how the fault sets it; null where it does not.</summary>
    public IReadOnlyList<Draw?> Set { get; }

    /// <summary>A row of the system's slots with the parameters of a vehicle.</summary>
    /// <param name="place">By parameter, and whether the fault sets it: its place in its range, 0 to 1.</param>
    public double[] Row(Func<int, bool, double> place)
    {
        var row = new double[_count];
        row[_celsiusSlot] = _celsius;
        foreach (var p in All)
        {
            Into(row, p, place(p, _parameters[p].Set));
        }

        return row;
    }

    /// <summary>Draws one parameter; those it is worked out from must be there.</summary>
    public void Into(double[] row, int parameter, double place)
    {
        ref readonly var drawn = ref _parameters[parameter];
        row[drawn.Slot] = drawn.From is { } from ? from.At(place, new FormulaValues(row, row)) : drawn.Stated * (1 + drawn.Share * (2 * place - 1));
    }

    // Parameters are worked out from those before them.
    private HashSet<int> SlotsFrom(Func<int, bool> isFirst)
    {
        var slots = new HashSet<int>();
        foreach (var p in All)
        {
            if (isFirst(p) || _parameters[p].From is { } from && from.Value.Uses.Overlaps(slots))
            {
                slots.Add(_parameters[p].Slot);
            }
        }

        return slots;
    }
}
