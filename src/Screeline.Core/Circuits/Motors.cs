namespace Screeline.Core.Circuits;

/// <summary>
/// What a motor turns: torque to break loose, and torque that grows with speed. Torque in N·m at ω rad/s:
/// Friction + PerSpeed·ω + PerSpeedSquared·ω².
/// </summary>
/// <param name="Friction">Torque that resists at any speed; below it the motor stands, N·m.</param>
/// <param name="PerSpeed">Viscous load, N·m·s/rad.</param>
/// <param name="PerSpeedSquared">Fan load, N·m·s²/rad².</param>
/// <param name="Stuck">True when it cannot turn at all.</param>
public sealed record MechanicalLoad(double Friction, double PerSpeed, double PerSpeedSquared = 0, bool Stuck = false);

/// <summary>
/// A direct-current motor with permanent magnets, in the steady state: V = I·R + k·ω and k·I = load torque at ω. It stands when
/// k·I does not pass the friction; then only R carries the current. k is both V·s/rad and N·m/A.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">Positive brush.</param>
/// <param name="To">Negative brush.</param>
/// <param name="Ohms">Winding, brushes and commutator, above zero.</param>
/// <param name="Constant">k, above zero.</param>
/// <param name="Load">What it turns; at least one of its speed terms above zero unless it is stuck.</param>
public sealed record MagnetMotor(string Id, string From, string To, double Ohms, double Constant, MechanicalLoad Load) : TwoTerminal(Id, From, To)
{
    // Where it breaks loose.
    internal override (double First, double Second)? Bends => Load.Stuck ? null : (-Ohms * Load.Friction / Constant, Ohms * Load.Friction / Constant);

    /// <summary>Speed at a voltage across it, rad/s; zero when it stands, negative when it turns the other way.</summary>
    public double Speed(double voltage)
    {
        var (k, size) = (Constant, Math.Abs(voltage));
        if (Load.Stuck || k * size / Ohms <= Load.Friction)
        {
            return 0;
        }

        // (R/k)(F + Bω + Cω²) + kω = V, the positive root in the form that keeps its digits when C is small.
        var a = Ohms / k * Load.PerSpeedSquared;
        var b = Ohms / k * Load.PerSpeed + k;
        var c = Ohms / k * Load.Friction - size;
        return Math.Sign(voltage) * (-2 * c / (b + Math.Sqrt(b * b - 4 * a * c)));
    }

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage)
    {
        var speed = Math.Abs(Speed(voltage));
        if (speed == 0)
        {
            return (voltage / Ohms, 1 / Ohms);
        }

        var current = (Load.Friction + Load.PerSpeed * speed + Load.PerSpeedSquared * speed * speed) / Constant;
        var torqueSlope = Load.PerSpeed + 2 * Load.PerSpeedSquared * speed;
        return (Math.Sign(voltage) * current, torqueSlope / (Ohms * torqueSlope + Constant * Constant));
    }
}

/// <summary>
/// A series-wound starter in the steady state. Its field is its own current: k(I) = K·I/(I + Is), K at full saturation. Then
/// V = I·R + k(I)·ω and k(I)·I = load torque (friction and viscous part). It turns one way whatever the polarity.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="From">One terminal.</param>
/// <param name="To">Other terminal.</param>
/// <param name="Ohms">Armature, field and brushes, above zero.</param>
/// <param name="SaturatedConstant">K, N·m/A.</param>
/// <param name="SaturationAmperes">Is, A: the current at which half of K is reached.</param>
/// <param name="Load">What it cranks; the quadratic term is not used.</param>
public sealed record SeriesMotor(string Id, string From, string To, double Ohms, double SaturatedConstant, double SaturationAmperes, MechanicalLoad Load) : TwoTerminal(Id, From, To)
{
    private double Constant(double amperes) => SaturatedConstant * amperes / (amperes + SaturationAmperes);

    /// <summary>Speed at a current, rad/s.</summary>
    public double SpeedAtCurrent(double amperes) =>
        Load.Stuck ? 0 : Math.Max(0, (Constant(amperes) * amperes - Load.Friction) / Load.PerSpeed);

    /// <summary>Speed at a voltage across it, rad/s.</summary>
    public double Speed(double voltage) => SpeedAtCurrent(Math.Abs(At(voltage).Current));

    private double Volts(double amperes) => amperes * Ohms + Constant(amperes) * SpeedAtCurrent(amperes);

    /// <inheritdoc/>
    public override (double Current, double Slope) At(double voltage)
    {
        // V(I) only grows, from zero; the current lies between nothing and the standing current.
        var size = Math.Abs(voltage);
        var (low, high) = (0.0, size / Ohms);
        for (var i = 0; i < 200 && high - low > 1e-13 * (1 + high); i++)
        {
            var middle = (low + high) / 2;
            (low, high) = Volts(middle) > size ? (low, middle) : (middle, high);
        }

        var current = (low + high) / 2;
        var (constant, growth) = (Constant(current), SaturatedConstant * SaturationAmperes / Math.Pow(current + SaturationAmperes, 2));
        var speed = SpeedAtCurrent(current);
        var speedGrowth = speed > 0 ? (constant + current * growth) / Load.PerSpeed : 0;
        var slope = 1 / (Ohms + growth * speed + constant * speedGrowth);
        return (Math.Sign(voltage) * current, slope);
    }
}

/// <summary>
/// A magnet motor with two positive brushes, as wipers have: the second brush sits nearer to the common one, sees fewer turns,
/// and so turns the shaft faster. With the brush currents I₁ = (V₁ − k₁ω)/R₁ and I₂ = (V₂ − k₂ω)/R₂ the shaft obeys
/// k₁I₁ + k₂I₂ = load torque at ω; a brush without supply floats at its back-EMF.
/// </summary>
/// <param name="Id">Identifier.</param>
/// <param name="Low">Brush for the low speed.</param>
/// <param name="High">Brush for the high speed.</param>
/// <param name="Common">Common brush.</param>
/// <param name="LowOhms">Resistance from the low brush, above zero.</param>
/// <param name="HighOhms">Resistance from the high brush, above zero.</param>
/// <param name="LowConstant">k of the low brush, V·s/rad.</param>
/// <param name="HighConstant">k of the high brush, smaller.</param>
/// <param name="Load">What it turns; at least one speed term above zero unless it is stuck.</param>
public sealed record TwoBrushMotor(string Id, string Low, string High, string Common, double LowOhms, double HighOhms, double LowConstant, double HighConstant, MechanicalLoad Load) : Element(Id)
{
    /// <inheritdoc/>
    public override IReadOnlyList<string> Nodes => [Low, High, Common];

    /// <summary>Speed at the brush voltages against the common brush, rad/s; negative when it turns the other way.</summary>
    public double Speed(double low, double high)
    {
        // Torque while standing, and how much of it each rad/s takes away.
        var standing = LowConstant * low / LowOhms + HighConstant * high / HighOhms;
        var size = Math.Abs(standing);
        if (Load.Stuck || size <= Load.Friction)
        {
            return 0;
        }

        var b = LowConstant * LowConstant / LowOhms + HighConstant * HighConstant / HighOhms + Load.PerSpeed;
        var c = Load.Friction - size;
        return Math.Sign(standing) * (-2 * c / (b + Math.Sqrt(b * b - 4 * Load.PerSpeedSquared * c)));
    }

    /// <inheritdoc/>
    public override void Evaluate(ReadOnlySpan<double> voltages, Span<double> currents, Span<double> conductances)
    {
        var (low, high) = (voltages[0] - voltages[2], voltages[1] - voltages[2]);
        var speed = Speed(low, high);
        var (i1, i2) = ((low - LowConstant * speed) / LowOhms, (high - HighConstant * speed) / HighOhms);
        (currents[0], currents[1], currents[2]) = (i1, i2, -i1 - i2);

        // dω/dV from the torque balance; nothing while it stands.
        var (g1, g2) = (LowConstant / LowOhms, HighConstant / HighOhms);
        var stiffness = speed == 0 ? double.PositiveInfinity : g1 * LowConstant + g2 * HighConstant + Load.PerSpeed + 2 * Load.PerSpeedSquared * Math.Abs(speed);
        var (w1, w2) = (g1 / stiffness, g2 / stiffness);
        var (d11, d12) = (1 / LowOhms - g1 * w1, -g1 * w2);
        var (d21, d22) = (-g2 * w1, 1 / HighOhms - g2 * w2);
        (conductances[0], conductances[1], conductances[2]) = (d11, d12, -d11 - d12);
        (conductances[3], conductances[4], conductances[5]) = (d21, d22, -d21 - d22);
        (conductances[6], conductances[7], conductances[8]) = (-d11 - d21, -d12 - d22, d11 + d12 + d21 + d22);
    }
}
