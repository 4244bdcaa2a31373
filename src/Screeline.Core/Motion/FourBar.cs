namespace Screeline.Core.Motion;

/// <summary>Kinds of four-bar linkage by which of the links can turn fully.</summary>
public enum FourBarKind
{
    /// <summary>The crank turns fully, the rocker swings: what a turning wiper motor needs.</summary>
    CrankRocker,
    /// <summary>Crank and rocker both turn fully: no wiper.</summary>
    DoubleCrank,
    /// <summary>The rocker could turn, the crank only swings.</summary>
    RockerCrank,
    /// <summary>Neither can turn fully, though the link between them can.</summary>
    DoubleRocker,
    /// <summary>All links fall into one line: the rocker may go either way from there.</summary>
    ChangePoint,
    /// <summary>By Grashof's condition no link can turn fully.</summary>
    NoneTurns,
    /// <summary>One length is longer than the three others together: it cannot be put together.</summary>
    Impossible,
}

/// <summary>
/// A planar four-bar linkage: a crank and a rocker on fixed pivots, joined by a link. Lengths in mm. Angles are measured at the
/// crank's pivot and at the rocker's pivot from the direction crank pivot to rocker pivot, against the clock.
/// </summary>
/// <param name="Crank">Length of the crank.</param>
/// <param name="Link">Length of the link between crank and rocker.</param>
/// <param name="Rocker">Length of the rocker.</param>
/// <param name="Ground">Distance of the pivots.</param>
/// <param name="Crossed">False when the rocker's joint lies to the left of the line from the crank's joint to the rocker's pivot.</param>
public readonly record struct FourBar(double Crank, double Link, double Rocker, double Ground, bool Crossed = false)
{
    /// <summary>
    /// Which of the links can turn: Grashof's condition, shortest plus longest less than the sum of the others (F. Grashof,
    /// "Theoretische Maschinenlehre", 1883; from memory).
    /// </summary>
    public FourBarKind Kind
    {
        get
        {
            double[] lengths = [Crank, Link, Rocker, Ground];
            var (shortest, longest, sum) = (lengths.Min(), lengths.Max(), lengths.Sum());
            if (longest >= sum - longest)
            {
                return FourBarKind.Impossible;
            }

            var spare = sum - 2 * (shortest + longest);
            return Math.Abs(spare) < 1e-9 * sum ? FourBarKind.ChangePoint
                : spare < 0 ? FourBarKind.NoneTurns
                : shortest == Ground ? FourBarKind.DoubleCrank
                : shortest == Crank ? FourBarKind.CrankRocker
                : shortest == Rocker ? FourBarKind.RockerCrank
                : FourBarKind.DoubleRocker;
        }
    }

    /// <summary>By how many millimetres the crank's full turn is won (above zero) or missed.</summary>
    public double TurnMargin => Math.Min(Link + Rocker - (Ground + Crank), Math.Abs(Ground - Crank) - Math.Abs(Link - Rocker));

    /// <summary>The rocker's angle for an angle of the crank, degrees; false where the links do not reach each other.</summary>
    public bool TrySolve(double crankDegrees, out double rockerDegrees)
    {
        var joint = Planar.At(Crank, crankDegrees);
        if (!TryJoint(joint, new Planar(Ground, 0), Link, Rocker, Crossed, out var end))
        {
            rockerDegrees = double.NaN;
            return false;
        }

        rockerDegrees = (end - new Planar(Ground, 0)).Degrees;
        return true;
    }

    /// <summary>The joint of two links of given lengths that hang on two points; false when they do not reach.</summary>
    /// <param name="from">Where the first link hangs.</param>
    /// <param name="pivot">Where the second one hangs.</param>
    /// <param name="link">Length of the first.</param>
    /// <param name="rocker">Length of the second.</param>
    /// <param name="crossed">False for the joint to the left of the line from <paramref name="from"/> to <paramref name="pivot"/>.</param>
    /// <param name="joint">The joint.</param>
    public static bool TryJoint(Planar from, Planar pivot, double link, double rocker, bool crossed, out Planar joint)
    {
        var line = pivot - from;
        var distance = line.Length;
        var along = (link * link - rocker * rocker + distance * distance) / (2 * distance);
        var square = link * link - along * along;
        if (distance == 0 || !(square >= 0))
        {
            joint = default;
            return false;
        }

        var (unit, height) = (1 / distance * line, Math.Sqrt(square) * (crossed ? -1 : 1));
        joint = from + along * unit + height * new Planar(-unit.Y, unit.X);
        return true;
    }
}
