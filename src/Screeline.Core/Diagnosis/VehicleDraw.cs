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
    }

    /// <summary>A row of the system's slots with the parameters of a vehicle.</summary>
    /// <param name="place">By parameter, and whether the fault sets it: its place in its range, 0 to 1.</param>
    public double[] Row(Func<int, bool, double> place)
    {
        var row = new double[_count];
        Into(row, place);
        return row;
    }

    /// <summary>The same into a row that was used before.</summary>
    public void Into(double[] row, Func<int, bool, double> place)
    {
        row[_celsiusSlot] = _celsius;
        var values = new FormulaValues(row, row);
        for (var p = 0; p < _parameters.Length; p++)
        {
            var drawn = _parameters[p];
            row[drawn.Slot] = drawn.From is { } from ? from.At(place(p, drawn.Set), values)
                : drawn.Share == 0 ? drawn.Stated
                : drawn.Stated * (1 + drawn.Share * (2 * place(p, false) - 1));
        }
    }
}
