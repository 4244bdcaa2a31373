namespace Screeline.Core.Motion;

/// <summary>How the motor drives the crank.</summary>
public enum WiperDrive
{
    /// <summary>Turns on in one direction and stops at one angle: the linkage fixes the ends of the sweep, the crank only park.</summary>
    Continuous,
    /// <summary>Turns on, and parks at one of two angles in turn to spare the rubber.</summary>
    AlternatingPark,
    /// <summary>Goes to and fro between two angles it has learned: the crank shifts the whole sweep.</summary>
    Reversing,
}

/// <summary>The arm and blade on a rocker's shaft. Lengths in mm.</summary>
/// <param name="Angle">Direction of the arm against the rocker's lever, degrees against the clock.</param>
/// <param name="Tip">From the shaft to the tip of the blade.</param>
/// <param name="Heel">From the shaft to the lower end of the blade.</param>
/// <param name="Teeth">Teeth of the knurl the arm sits on; 0 for a plain taper or a keyed shaft.</param>
public sealed record WiperArm(double Angle, double Tip, double Heel, int Teeth)
{
    /// <summary>One tooth, degrees; null without a knurl.</summary>
    public double? ToothDegrees => Teeth > 0 ? 360.0 / Teeth : null;

    /// <summary>What one tooth moves the tip by, mm along its arc: 360°/teeth × radius to the tip.</summary>
    public double? ToothAtTip => ToothDegrees * Math.PI / 180 * Tip;
}

/// <summary>What is wanted of a tip at park: its height above the cowl line.</summary>
/// <param name="Height">mm.</param>
/// <param name="Tolerance">Either way, mm.</param>
public sealed record TipBand(double Height, double Tolerance)
{
    /// <summary>Lowest allowed.</summary>
    public double Low => Height - Tolerance;
    /// <summary>Highest allowed.</summary>
    public double High => Height + Tolerance;
    /// <summary>Whether a height is allowed.</summary>
    public bool Holds(double height) => height >= Low && height <= High;
}

/// <summary>One shaft with its lever, arm and blade.</summary>
/// <param name="Title">What people call it: driver's, passenger's, rear.</param>
/// <param name="Pivot">Its shaft.</param>
/// <param name="DrivenBy">−1 for the crank; else the rocker that drives it, which stands before it in the list.</param>
/// <param name="Link">Length of the link that drives it; 0 when the arm sits on the motor's own shaft.</param>
/// <param name="Lever">Length of its lever; 0 when the arm sits on the motor's own shaft.</param>
/// <param name="Crossed">The other way of assembly: see <see cref="FourBar.Crossed"/>.</param>
/// <param name="FromLever">On the rocker that drives it: length of the lever its link hangs on; 0 when it is the crank.</param>
/// <param name="FromAngle">Direction of that lever against the driving rocker's own lever, degrees.</param>
/// <param name="Arm">Arm and blade.</param>
/// <param name="Band">What is wanted at park.</param>
public sealed record WiperRocker(string Title, Planar Pivot, int DrivenBy, double Link, double Lever, bool Crossed, double FromLever, double FromAngle, WiperArm Arm, TipBand Band)
{
    /// <summary>Whether the arm sits on the motor's own shaft.</summary>
    public bool IsDirect => Lever == 0;
}

/// <summary>Where the crank's position can be gauged: the gap between the crank's edge and the frame.</summary>
/// <param name="Radius">From the motor's shaft to where the gap is measured, mm.</param>
/// <param name="Gap">At the right park angle, mm.</param>
/// <param name="Tolerance">Either way, mm.</param>
/// <param name="Opens">1 when turning the crank against the clock opens the gap, −1 when it closes it.</param>
public sealed record CrankGauge(double Radius, double Gap, double Tolerance, int Opens)
{
    /// <summary>The gap when the crank stands away from its right angle, mm: Gap ± Radius · sin(angle).</summary>
    public double GapAt(double degreesOff) => Gap + Opens * Radius * Math.Sin(degreesOff * Math.PI / 180);

    /// <summary>How far the crank stands from its right angle at a gap, degrees.</summary>
    /// <exception cref="MotionException">The gap is wider than the crank could open it.</exception>
    public double DegreesAt(double gap) => Math.Abs(gap - Gap) <= Radius
        ? Opens * Math.Asin((gap - Gap) / Radius) * 180 / Math.PI
        : throw new MotionException($"No angle of the crank gives a gap of {gap:0.#} mm.");
}

/// <summary>The windscreen as it is seen from the driver's seat. Lines of points, mm.</summary>
/// <param name="Cowl">Its lower edge, from left to right.</param>
/// <param name="LeftPillar">Its left edge, from the bottom up.</param>
/// <param name="RightPillar">Its right edge, from the bottom up.</param>
public sealed record Windscreen(IReadOnlyList<Planar> Cowl, IReadOnlyList<Planar> LeftPillar, IReadOnlyList<Planar> RightPillar)
{
    /// <summary>Height above the cowl line, square to it, mm; below zero under it.</summary>
    public double HeightAbove(Planar point) => point.DistanceFrom(Cowl);

    /// <summary>Clearance to the nearer pillar, mm; below zero beyond it.</summary>
    public double PillarClearance(Planar point) => Math.Min(-point.DistanceFrom(LeftPillar), point.DistanceFrom(RightPillar));
}

/// <summary>Where everything stands at one angle of the crank.</summary>
/// <param name="CrankDegrees">Angle of the crank.</param>
/// <param name="CrankEnd">Its joint.</param>
/// <param name="Rockers">Each rocker.</param>
public sealed record LinkagePosition(double CrankDegrees, Planar CrankEnd, IReadOnlyList<RockerPosition> Rockers);

/// <summary>Where one rocker stands.</summary>
/// <param name="LinkFrom">Where its link begins.</param>
/// <param name="LinkTo">Where its link ends: the end of its lever.</param>
/// <param name="LeverDegrees">Direction of the lever.</param>
/// <param name="ArmDegrees">Direction of the arm, from −90 up to 270.</param>
/// <param name="Ratio">Speed of the arm against the crank's; below zero when it turns the other way.</param>
/// <param name="Transmission">Angle between link and lever, folded to 0-90 degrees: at 90 all force turns the lever, at 0 none.</param>
/// <param name="Tip">Tip of the blade.</param>
/// <param name="Heel">Its lower end.</param>
public readonly record struct RockerPosition(Planar LinkFrom, Planar LinkTo, double LeverDegrees, double ArmDegrees, double Ratio, double Transmission, Planar Tip, Planar Heel);

/// <summary>
/// A wiper linkage in its plane: the motor's crank drives one or more rockers by links, a rocker may drive the next one, or an arm
/// sits on the motor's own shaft. Lengths in mm, angles in degrees against the clock from the right, seen from the driver's seat.
/// </summary>
/// <param name="Title">What it is called.</param>
/// <param name="Drive">How the motor drives it.</param>
/// <param name="Motor">The motor's shaft.</param>
/// <param name="Crank">Length of the crank; 0 when every arm sits on the motor's own shaft.</param>
/// <param name="Park">Angle of the crank at park; two for alternating park; for a reversing motor where it rests.</param>
/// <param name="Ends">Angles a reversing motor goes between, the lower end of the sweep first; null for one that turns on.</param>
/// <param name="Gauge">Where the crank can be gauged, or null.</param>
/// <param name="Rockers">The rockers, each after the one that drives it.</param>
/// <param name="Glass">The windscreen.</param>
public sealed record WiperLinkage(string Title, WiperDrive Drive, Planar Motor, double Crank, IReadOnlyList<double> Park, (double From, double To)? Ends, CrankGauge? Gauge, IReadOnlyList<WiperRocker> Rockers, Windscreen Glass)
{
    /// <summary>The four-bar linkage of a rocker, and the direction of its ground line; null for one on the motor's own shaft.</summary>
    public (FourBar Bars, double GroundDegrees)? BarsOf(int rocker)
    {
        var r = Rockers[rocker];
        if (r.IsDirect)
        {
            return null;
        }

        var from = r.DrivenBy < 0 ? Motor : Rockers[r.DrivenBy].Pivot;
        var ground = r.Pivot - from;
        return (new FourBar(r.DrivenBy < 0 ? Crank : r.FromLever, r.Link, r.Lever, ground.Length, r.Crossed), ground.Degrees);
    }

    /// <summary>Where everything stands at an angle of the crank; null where a link does not reach.</summary>
    public LinkagePosition? At(double crankDegrees)
    {
        var rockers = new RockerPosition[Rockers.Count];
        var crankEnd = Motor + Planar.At(Crank, crankDegrees);
        for (var i = 0; i < rockers.Length; i++)
        {
            var r = Rockers[i];
            if (r.IsDirect)
            {
                rockers[i] = Place(r, crankEnd, r.Pivot, crankDegrees, 1, 90);
                continue;
            }

            var (driver, pivot, length, ratio) = r.DrivenBy < 0
                ? (crankDegrees, Motor, Crank, 1.0)
                : (rockers[r.DrivenBy].LeverDegrees + r.FromAngle, Rockers[r.DrivenBy].Pivot, r.FromLever, rockers[r.DrivenBy].Ratio);
            var from = pivot + Planar.At(length, driver);
            if (!FourBar.TryJoint(from, r.Pivot, r.Link, r.Lever, r.Crossed, out var to))
            {
                return null;
            }

            // Along the link both of its ends move alike: ω4/ω2 = a·sin(θ2 − θ3) / (c·sin(θ4 − θ3)).
            var (crank, link, lever) = (Planar.At(length, driver), to - from, to - r.Pivot);
            var across = link.Cross(lever);
            var transmission = Math.Abs(Math.Asin(Math.Clamp(across / (r.Link * r.Lever), -1, 1))) * 180 / Math.PI;
            rockers[i] = Place(r, from, to, lever.Degrees, across == 0 ? double.NaN : ratio * link.Cross(crank) / across, transmission);
        }

        return new LinkagePosition(crankDegrees, crankEnd, rockers);
    }

    private static RockerPosition Place(WiperRocker r, Planar from, Planar to, double lever, double ratio, double transmission)
    {
        var arm = lever + r.Arm.Angle;
        arm -= 360 * Math.Floor((arm + 90) / 360);
        return new RockerPosition(from, to, lever, arm, ratio, transmission, r.Pivot + Planar.At(r.Arm.Tip, arm), r.Pivot + Planar.At(r.Arm.Heel, arm));
    }

    /// <summary>Angles the crank goes through: a full turn, or from one learned end to the other.</summary>
    public (double From, double To) Range => Drive == WiperDrive.Reversing && Ends is { } ends ? (Math.Min(ends.From, ends.To), Math.Max(ends.From, ends.To)) : (0, 360);

    /// <summary>A rocker's whole movement.</summary>
    /// <exception cref="MotionException">The linkage does not go through its range.</exception>
    public Sweep SweepOf(int rocker)
    {
        var (from, to) = Range;
        const int Steps = 72;
        var step = (to - from) / Steps;
        double Arm(double crank) => At(crank)?.Rockers[rocker].ArmDegrees ?? throw new MotionException($"At {crank:0}° of the crank a link does not reach.");
        var (low, high) = ((Crank: from, Arm: double.MaxValue), (Crank: from, Arm: double.MinValue));
        for (var i = 0; i <= Steps; i++)
        {
            var crank = from + i * step;
            var arm = Arm(crank);
            low = arm < low.Arm ? (crank, arm) : low;
            high = arm > high.Arm ? (crank, arm) : high;
        }

        // The turning points lie between the steps.
        (double, double) Refine(double middle, int sign)
        {
            var (a, b) = (middle - step, middle + step);
            if (Drive == WiperDrive.Reversing)
            {
                (a, b) = (Math.Max(a, from), Math.Min(b, to));
            }

            const double Golden = 0.6180339887498949;
            for (var k = 0; k < 40 && b - a > 1e-6; k++)
            {
                var (c, d) = (b - Golden * (b - a), a + Golden * (b - a));
                (a, b) = sign * Arm(c) > sign * Arm(d) ? (a, d) : (c, b);
            }

            var at = (a + b) / 2;
            return (at, Arm(at));
        }

        var (lowCrank, lowArm) = Refine(low.Crank, -1);
        var (highCrank, highArm) = Refine(high.Crank, 1);
        return new Sweep(lowArm, highArm, lowCrank, highCrank);
    }

    /// <summary>The whole movement at equal steps of the crank.</summary>
    /// <param name="step">Degrees, above 0.</param>
    /// <exception cref="MotionException">The linkage does not go through its range.</exception>
    public IReadOnlyList<LinkagePosition> Turn(double step = 1)
    {
        var (from, to) = Range;
        var count = Math.Max(1, (int)Math.Round((to - from) / step));
        return [.. Enumerable.Range(0, count + 1).Select(i => from + i * (to - from) / count).Select(c => At(c) ?? throw new MotionException($"At {c:0}° of the crank a link does not reach."))];
    }

    /// <summary>Height of each tip above the cowl line at an angle of the crank, mm.</summary>
    public IReadOnlyList<double> TipHeights(double crankDegrees) =>
        At(crankDegrees) is { } at ? [.. at.Rockers.Select(r => Glass.HeightAbove(r.Tip))] : throw new MotionException($"At {crankDegrees:0}° of the crank a link does not reach.");

    /// <summary>Speed of an arm, degrees a second, at a position and a speed of the crank.</summary>
    public static double ArmSpeed(RockerPosition at, double crankRevolutionsPerMinute) => Math.Abs(at.Ratio) * crankRevolutionsPerMinute * 6;
}

/// <summary>What a rocker's arm goes through.</summary>
/// <param name="Low">Its smallest angle, degrees.</param>
/// <param name="High">Its largest.</param>
/// <param name="LowCrank">Angle of the crank there.</param>
/// <param name="HighCrank">Angle of the crank there.</param>
public readonly record struct Sweep(double Low, double High, double LowCrank, double HighCrank)
{
    /// <summary>The angle between, degrees.</summary>
    public double Angle => High - Low;
}

/// <summary>A mechanism that cannot do what is asked; the message says why.</summary>
public sealed class MotionException(string message) : Exception(message);
