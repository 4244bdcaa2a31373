namespace Screeline.Core.Motion;

/// <summary>Pulleys and belt of a driven alternator or fan.</summary>
public static class BeltDrive
{
    /// <summary>Speed of the driven pulley, rev/min: the rim of both goes equally fast.</summary>
    /// <param name="drivingSpeed">rev/min.</param>
    /// <param name="drivingDiameter">mm.</param>
    /// <param name="drivenDiameter">mm.</param>
    public static double DrivenSpeed(double drivingSpeed, double drivingDiameter, double drivenDiameter) => drivingSpeed * drivingDiameter / drivenDiameter;

    /// <summary>
    /// Tension of a belt from the frequency its free span rings with, N: T = 4·m·L²·f² (the ideal string; M. Mersenne 1636). A stiff
    /// belt rings a little higher than a string.
    /// </summary>
    /// <param name="kilogramsPerMetre">Mass of the belt for each metre.</param>
    /// <param name="spanMetres">Free length between the pulleys.</param>
    /// <param name="hertz">Frequency of the span.</param>
    public static double TensionByFrequency(double kilogramsPerMetre, double spanMetres, double hertz) => 4 * kilogramsPerMetre * spanMetres * spanMetres * hertz * hertz;

    /// <summary>The frequency that belongs to a tension, Hz.</summary>
    public static double FrequencyAt(double kilogramsPerMetre, double spanMetres, double newtons) => Math.Sqrt(newtons / kilogramsPerMetre) / (2 * spanMetres);

    /// <summary>
    /// Tension from pressing the middle of the span, N: the force is held by both halves, F = 4·T·d/L for small deflections, solved
    /// exactly for the angle: T = F / (2·sin(atan(2d/L))). The stretching of the belt by the pressing itself is left out.
    /// </summary>
    /// <param name="newtons">Force at the middle of the span, square to it.</param>
    /// <param name="spanMillimetres">Free length between the pulleys.</param>
    /// <param name="deflectionMillimetres">How far it gives.</param>
    public static double TensionByDeflection(double newtons, double spanMillimetres, double deflectionMillimetres) => newtons / (2 * Math.Sin(Math.Atan(2 * deflectionMillimetres / spanMillimetres)));
}
