using System.Globalization;
using Screeline.Core.Quantities;

namespace Screeline.Core.Fastening;

/// <summary>Asks about a torque that a thread cannot mean: a slip of ten, or the unit of another scale.</summary>
public static class TorqueDoubt
{
    /// <summary>What a thread can bear and what still holds, N·m, for a joint.</summary>
    /// <remarks>
    /// Steel: from a fifth of class 4.6 well greased to class 12.9 at a friction of 0.2 driven to its yield. Other joints end at their own ceiling.
    /// </remarks>
    public static (double Low, double High) Band(MetricThread thread, Joint joint = Joint.Steel)
    {
        var low = 0.2 * TighteningTorque.Steel(thread, StrengthClass.Parse("4.6")!, TighteningTorque.GreasedFriction);
        var high = joint switch
        {
            Joint.CopperStud => TighteningTorque.StudCeiling(thread) * 1.25,
            Joint.SelfTapper or Joint.Plastic => TighteningTorque.Work(thread, joint, StrengthClass.Parse("8.8")!).Ceiling * 2,
            _ => TighteningTorque.ForPreload(thread, TighteningTorque.Preload(thread, 1100, 0.2, 1), 0.2),
        };
        return (joint is Joint.SelfTapper or Joint.Plastic ? low * 0.2 : low, high);
    }

    /// <summary>
    /// The doubt about a figure in words, naming what was probably meant; null when the thread can mean it. For example
    /// "24 N·m on an M5? 24 lbf·in is 2.71 N·m."
    /// </summary>
    public static string? Find(Figure torque, MetricThread thread, Joint joint = Joint.Steel)
    {
        var (low, high) = Band(thread, joint);
        var value = (double)torque.Base;
        if (value >= low && value <= high)
        {
            return null;
        }

        var meant = Candidates(torque).Where(c => (double)c.Base >= low && (double)c.Base <= high).ToList();
        // How far from what the thread usually gets, and how rare the slip is: a unit is mixed up more often than a point is lost.
        var usual = joint is Joint.Steel or Joint.LightAlloy ? TighteningTorque.Steel(thread, StrengthClass.Parse("8.8")!) : Math.Sqrt(low * high);
        double Oddness(Figure c) => Math.Abs(Math.Log((double)c.Base / usual))
            + (c.Unit == torque.Unit ? 0.5 : c.Unit == Units.KilogramForceCentimetre ? 1 : c.Unit == Units.KilogramForceMetre ? 0.3 : 0);
        var on = $"{torque} on an {thread}?";
        var limit = value > high ? $"It takes at most about {Short(high)} N·m{(joint == Joint.CopperStud ? " on copper" : "")}." : $"At least about {Short(low)} N·m would be expected.";
        if (meant.Count == 0)
        {
            return $"{on} {limit}";
        }

        var best = meant.MinBy(Oddness);
        return best.Unit == torque.Unit ? $"{on} Meant {best}? {limit}" : $"{on} {best} is {Short((double)best.Base)} N·m. {limit}";
    }

    private static IEnumerable<Figure> Candidates(Figure torque) =>
        Units.OfKind(QuantityKind.Torque).Where(u => u != torque.Unit).Select(u => new Figure(torque.Number, u))
            .Concat([new Figure(Trim(torque.Number / 10), torque.Unit), new Figure(Trim(torque.Number * 10), torque.Unit)]);

    private static decimal Trim(decimal number) => number / 1.0000000000000000000000000000m;

    private static string Short(double newtonMetres) => newtonMetres.ToString(newtonMetres < 10 ? "0.0#" : "0", CultureInfo.InvariantCulture);
}
