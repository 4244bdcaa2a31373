namespace Screeline.Core.Motion;

/// <summary>A point or vector in the plane of a mechanism, mm: x to the right, y up, seen from the driver's seat.</summary>
public readonly record struct Planar(double X, double Y)
{
    /// <summary>Sum of two vectors.</summary>
    public static Planar operator +(Planar a, Planar b) => new(a.X + b.X, a.Y + b.Y);
    /// <summary>Vector from b to a.</summary>
    public static Planar operator -(Planar a, Planar b) => new(a.X - b.X, a.Y - b.Y);
    /// <summary>A vector made longer.</summary>
    public static Planar operator *(double factor, Planar a) => new(factor * a.X, factor * a.Y);

    /// <summary>Length, mm.</summary>
    public double Length => Math.Sqrt(X * X + Y * Y);

    /// <summary>Direction in degrees against the clock from the right, above −180 to 180.</summary>
    public double Degrees => Math.Atan2(Y, X) * 180 / Math.PI;

    /// <summary>The vector of a length and a direction in degrees.</summary>
    public static Planar At(double length, double degrees) => new(length * Math.Cos(degrees * Math.PI / 180), length * Math.Sin(degrees * Math.PI / 180));

    /// <summary>Scalar product.</summary>
    public double Dot(Planar other) => X * other.X + Y * other.Y;

    /// <summary>The third component of the vector product: above zero when <paramref name="other"/> points to the left of this.</summary>
    public double Cross(Planar other) => X * other.Y - Y * other.X;

    /// <summary>
    /// Distance from a line of points, mm: above zero to the left of the direction in which the line is drawn. Beyond its ends the
    /// first and the last stretch go on.
    /// </summary>
    public double DistanceFrom(IReadOnlyList<Planar> line)
    {
        var (nearest, side) = (double.MaxValue, 1.0);
        for (var i = 0; i + 1 < line.Count; i++)
        {
            var (from, along) = (line[i], line[i + 1] - line[i]);
            var t = (this - from).Dot(along) / along.Dot(along);
            t = Math.Clamp(t, i == 0 ? double.MinValue : 0, i + 2 == line.Count ? double.MaxValue : 1);
            var away = this - (from + t * along);
            if (away.Length < nearest)
            {
                (nearest, side) = (away.Length, along.Cross(this - from) < 0 ? -1 : 1);
            }
        }

        return side * nearest;
    }
}
