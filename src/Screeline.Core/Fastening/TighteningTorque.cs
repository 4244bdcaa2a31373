namespace Screeline.Core.Fastening;

/// <summary>What a fastener is screwed into or made of: it decides which rule gives a torque where none is specified.</summary>
public enum Joint
{
    /// <summary>A steel bolt in steel or iron.</summary>
    Steel,
    /// <summary>A steel bolt in a tapped hole of light alloy.</summary>
    LightAlloy,
    /// <summary>A nut on a copper or brass stud.</summary>
    CopperStud,
    /// <summary>A self-tapping screw in sheet metal.</summary>
    SelfTapper,
    /// <summary>A screw in plastic.</summary>
    Plastic,
}

/// <summary>A torque worked out where nobody specifies one.</summary>
/// <param name="Value">N·m to set; null when only a way of doing it is told.</param>
/// <param name="Ceiling">N·m never to be passed.</param>
/// <param name="AngleDegrees">Angle after it is seated, degrees; null when it is set by torque.</param>
/// <param name="How">The rule in words.</param>
/// <param name="Why">What limits it, with the source.</param>
public sealed record WorkedTorque(double? Value, double Ceiling, double? AngleDegrees, string How, string Why);

/// <summary>
/// Tightening torques from geometry, strength and friction, by the method of VDI 2230 part 1, and our own lower rules for what is
/// not steel in steel. The maker's figure always comes first.
/// </summary>
public static class TighteningTorque
{
    /// <summary>Friction of a lightly oiled thread as delivered.</summary>
    public const double UsualFriction = 0.12;

    /// <summary>Friction of a greased or copper-pasted thread.</summary>
    public const double GreasedFriction = 0.08;

    /// <summary>Share of the yield used by tension and torsion together (VDI 2230).</summary>
    public const double Utilisation = 0.9;

    /// <summary>0.2 % yield taken for a copper or brass stud, MPa: half-hard electrolytic copper (EN 12163 R290, from memory).</summary>
    public const double CopperYield = 250;

    /// <summary>Shear strength taken for cast light alloy, MPa: 0.7 of a tensile strength of 200 (ratio as in VDI 2230 table A9, from memory).</summary>
    public const double LightAlloyShear = 140;

    /// <summary>Angle after seating on a copper stud, degrees; a common practice differs from shop to shop.</summary>
    public const double StudAngle = 30;

    /// <summary>
    /// Assembly preload, N: F = As·ν·Rp / √(1 + 3·[1.5·d2/ds·(P/(π·d2) + 1.155·μ)]²) (VDI 2230 part 1, with ds the diameter of the stress area).
    /// </summary>
    public static double Preload(MetricThread thread, double yield, double friction = UsualFriction, double utilisation = Utilisation)
    {
        var twist = 1.5 * thread.PitchDiameter / thread.StressDiameter * (thread.Pitch / (Math.PI * thread.PitchDiameter) + 1.155 * friction);
        return thread.StressArea * utilisation * yield / Math.Sqrt(1 + 3 * twist * twist);
    }

    /// <summary>Torque for a preload, N·m: M = F·(0.16·P + 0.58·d2·μ + Dkm/2·μ) with Dkm = (dw + dh)/2 (VDI 2230 part 1).</summary>
    public static double ForPreload(MetricThread thread, double preload, double friction = UsualFriction)
    {
        var underHead = (thread.HeadBearingDiameter + thread.ClearanceHole) / 2;
        return preload * (0.16 * thread.Pitch + 0.58 * thread.PitchDiameter * friction + underHead / 2 * friction) / 1000;
    }

    /// <summary>Torque of a steel bolt in steel, N·m.</summary>
    public static double Steel(MetricThread thread, StrengthClass strength, double friction = UsualFriction) =>
        ForPreload(thread, Preload(thread, strength.Yield(thread), friction), friction);

    /// <summary>Torque at which a stud of its own material yields, N·m, times the usual utilisation: never to be passed.</summary>
    public static double StudCeiling(MetricThread thread, double yield = CopperYield, double friction = UsualFriction) =>
        ForPreload(thread, Preload(thread, yield, friction), friction);

    /// <summary>
    /// Load that strips the internal thread, N: shear area π·d·(le/P)·(P/2 + (d − d2)·tan 30°) times the shear strength (VDI 2230 part 1, 5.5.5,
    /// without its correction for widening).
    /// </summary>
    public static double StrippingLoad(MetricThread thread, double engagement, double shear = LightAlloyShear) =>
        Math.PI * thread.Diameter * engagement / thread.Pitch * (thread.Pitch / 2 + (thread.Diameter - thread.PitchDiameter) * Math.Tan(Math.PI / 6)) * shear;

    /// <summary>What to do where no torque is specified.</summary>
    /// <param name="thread">The thread.</param>
    /// <param name="joint">What it is screwed into.</param>
    /// <param name="strength">The bolt's class; of no account for studs, self-tappers and plastic.</param>
    /// <param name="friction">Of thread and head, 0.05 to 0.3.</param>
    /// <param name="engagement">Length of thread in light alloy, mm; null for one diameter.</param>
    public static WorkedTorque Work(MetricThread thread, Joint joint, StrengthClass strength, double friction = UsualFriction, double? engagement = null)
    {
        var steel = Steel(thread, strength, friction);
        switch (joint)
        {
            case Joint.Steel:
                return new WorkedTorque(steel, steel / Utilisation, null, $"Class {strength.Name}, friction {friction:0.00}", "90 % of the yield in tension and torsion together (VDI 2230, ISO 898-1, ISO 724)");
            case Joint.LightAlloy:
                // Half the load that strips it: the thread of the casting must outlive the bolt, and many removals.
                var strip = StrippingLoad(thread, engagement ?? thread.Diameter) / 2;
                var limited = ForPreload(thread, Math.Min(Preload(thread, strength.Yield(thread), friction), strip), friction);
                return new WorkedTorque(limited, limited * 1.2, null, limited < steel ? "Held below the bolt's own value: the thread in the alloy strips first" : $"Class {strength.Name}, friction {friction:0.00}", $"half of what strips {engagement ?? thread.Diameter:0.#} mm of thread in cast alloy (VDI 2230; strength from memory)");
            case Joint.CopperStud:
                var ceiling = StudCeiling(thread, CopperYield, friction);
                return new WorkedTorque(null, ceiling, StudAngle, $"Seat the nut, then {StudAngle:0}° more, holding the stud", $"there the copper yields (its section, {CopperYield:0} MPa); a steel-class value would twist it off");
            case Joint.SelfTapper:
                var sheet = 0.03 * Math.Pow(thread.Diameter, 3);
                return new WorkedTorque(null, sheet, null, "Turn it back until the thread drops in, then by hand until it seats", "common practice, no source: 0.03·d³ N·m is the most for sheet metal");
            default:
                var plastic = 0.02 * Math.Pow(thread.Diameter, 3);
                return new WorkedTorque(null, plastic, null, "Turn it back until the thread drops in, then by hand until it seats; no power tool", "common practice, no source: 0.02·d³ N·m is the most for plastic");
        }
    }
}
