using Screeline.Core.Quantities;

namespace Screeline.Core.Diagnosis;

/// <summary>
/// A plain rule for starters. Power and ground count only while the start is commanded, because only the motor's own current
/// finds milliohms: readings of a meter or lamp without it are kept, and show neither. Limits come from the system's file
/// (common practice, no source).
/// </summary>
public sealed class StartingRule : IFindEngine
{
    /// <summary>Volts that may be lost between battery + and the main terminal at cranking current, per 12 V. Common practice, no source.</summary>
    public const decimal LargestCableDrop = 0.5m;

    private const string Rest = "battery-rest";
    private const string Load = "battery-load";
    private const string Sag = "battery-cranking";
    private const string AtStarter = "starter-volts-cranking";
    private const string GroundDrop = "ground-drop-cranking";
    private const string Switched = "switched-terminal-cranking";
    private const string Turns = "engine-turns";

    /// <inheritdoc/>
    public Finding Assess(FindCase @case)
    {
        var (power, ground) = PowerAndGround(@case);
        List<ProofLine> proof = [power, ground, Command(@case), Mechanical(@case)];
        var failed = proof.Where(l => l.State == ProofState.Failed).ToList();
        if (failed.Count > 0)
        {
            return new Finding(proof, FindVerdict.Elsewhere, failed[0].Because, Confirm(@case, proof));
        }

        var observed = @case.Behaviours.Select(id => @case.System.Behaviours.FirstOrDefault(b => b.Id == id)).OfType<Behaviour>().ToList();
        if (proof.All(l => l.State == ProofState.Shown))
        {
            return observed.Count > 0 && observed.All(b => b.MotorDoesItsWork)
                ? new Finding(proof, FindVerdict.NotJudged, $"Because the {@case.System.Motor} itself runs, look at what it engages with before condemning it.", null)
                : new Finding(proof, FindVerdict.MotorProven, $"Because it has power, ground and the command, and is free to turn, and still does not do its work: the {@case.System.Motor}.", null);
        }

        var next = Next(@case, proof);
        return new Finding(proof, FindVerdict.Open, next?.Because ?? "Because something is still open.", next);
    }

    private static (ProofLine Power, ProofLine Ground) PowerAndGround(FindCase c)
    {
        var scale = c.NominalVolts / 12m;
        var groundLine = c.Good(GroundDrop) switch
        {
            true => new ProofLine(ProofPart.Ground, ProofState.Shown, $"{Told(c, GroundDrop)} lost on the ground side while commanded."),
            false => new ProofLine(ProofPart.Ground, ProofState.Failed, $"{Told(c, GroundDrop)} lost on the ground side while commanded; {Limit(c, GroundDrop)} is good."),
            null => null,
        };

        ProofLine Power(ProofState state, string because) => new(ProofPart.Power, state, because);
        ProofLine Ground(ProofState state, string because) => groundLine ?? new(ProofPart.Ground, state, because);

        if (c.Value(Sag) is not { } battery || c.Value(AtStarter) is not { } atStarter)
        {
            var lackOf = c.Value(AtStarter) is null
                ? "Not yet measured at the starter while commanded."
                : "The battery's own volts at that moment are missing.";
            return (Power(ProofState.Open, lackOf), Ground(ProofState.Open, lackOf));
        }

        var lost = battery - atStarter;
        var batteryGood = BatteryGood(c);
        if (c.Good(AtStarter) == true)
        {
            // Little lost in both sides together; what remains is whether the battery itself holds.
            var told = $"Only {Volts(lost)} lost between battery and starter while commanded.";
            var ground = Ground(ProofState.Shown, told);
            var plusSide = c.Value(GroundDrop) is { } drop ? lost - drop : (decimal?)null;
            return plusSide > LargestCableDrop * scale
                ? (Power(ProofState.Failed, $"{Volts(plusSide.Value)} lost on the plus side while commanded; {Volts(LargestCableDrop * scale)} at most is good."), ground)
                : batteryGood switch
                {
                    true => (Power(ProofState.Shown, told), ground),
                    false => (Power(ProofState.Failed, BatteryWords(c)), ground),
                    null => (Power(ProofState.Open, BatteryWords(c)), ground),
                };
        }

        if (c.Value(GroundDrop) is not { } groundDrop)
        {
            var told = $"{Volts(lost)} lost between battery and starter: which side is not known yet.";
            return (Power(ProofState.Open, told), Ground(ProofState.Open, told));
        }

        var plus = lost - groundDrop;
        return plus > LargestCableDrop * scale
            ? (Power(ProofState.Failed, $"{Volts(plus)} lost on the plus side while commanded; {Volts(LargestCableDrop * scale)} at most is good."), groundLine!)
            : (batteryGood == true ? Power(ProofState.Shown, $"{Volts(plus)} lost on the plus side while commanded.") : Power(batteryGood is null ? ProofState.Open : ProofState.Failed, BatteryWords(c)), groundLine!);
    }

    // The battery holds when it was full enough at rest and stays up while commanded, or passes its load test.
    private static bool? BatteryGood(FindCase c) =>
        c.Good(Load) is { } load ? load
        : c.Good(Rest) switch
        {
            null => null,
            false => null, // low means: recharge and test again, not yet condemned
            true => c.Good(Sag) == true ? true : null,
        };

    private static string BatteryWords(FindCase c) =>
        c.Good(Load) == false ? $"The battery fell to {Told(c, Load)} under its load test; {Limit(c, Load)} is good."
        : c.Good(Rest) == false ? $"The battery rests at {Told(c, Rest)}: recharge it and test again before condemning anything."
        : c.Good(Rest) is null ? "The battery at rest, isolated, is not yet measured."
        : $"The battery sags to {Told(c, Sag)} while commanded: weak, or the starter is stalled.";

    private static ProofLine Command(FindCase c) => c.Good(Switched) switch
    {
        true => new(ProofPart.Command, ProofState.Shown, $"{Told(c, Switched)} at the switched terminal while commanded."),
        false => new(ProofPart.Command, ProofState.Failed, $"{Told(c, Switched)} at the switched terminal while commanded; {Limit(c, Switched)} is good: switch, interlock, relay or wiring."),
        null => new(ProofPart.Command, ProofState.Open, "The switched terminal is not yet measured while commanded."),
    };

    private static ProofLine Mechanical(FindCase c) => c.Good(Turns) switch
    {
        true => new(ProofPart.Mechanical, ProofState.Shown, "The engine turns by hand."),
        false => new(ProofPart.Mechanical, ProofState.Failed, "The engine does not turn by hand: it is not the starter that is stuck."),
        null => new(ProofPart.Mechanical, ProofState.Open, "The engine is not yet turned by hand."),
    };

    private static NextTest? Next(FindCase c, List<ProofLine> proof)
    {
        NextTest? Test(string id, string because) => c.System.Test(id) is { } test ? new NextTest(test, because) : null;
        if (c.Latest(Rest) is null)
        {
            return Test(Rest, "Because everything hangs on the battery and it is cheap to test.");
        }

        if (c.Good(Rest) == false && c.Good(Load) is null)
        {
            return Test(Rest, $"Because {Told(c, Rest)} at rest is low: recharge, rest, test again.");
        }

        if (c.Latest(Sag) is null)
        {
            return Test(Sag, "Because how far the battery sags tells a stalled starter from an open one.");
        }

        if (c.Good(Sag) == false && c.Latest(Turns) is null)
        {
            return Test(Turns, $"Because the battery sags to {Told(c, Sag)}: the starter may be held fast.");
        }

        if (c.Latest(AtStarter) is null)
        {
            return Test(AtStarter, "Because this shows power and ground at once, at the starter's own current.");
        }

        if (c.Good(AtStarter) == false && c.Latest(GroundDrop) is null)
        {
            return Test(GroundDrop, "Because cable and ground still look alike.");
        }

        if (c.Good(Sag) == false && c.Latest(Load) is null)
        {
            return Test(Load, "Because a weak battery and a stalled starter sag alike.");
        }

        if (c.Latest(Switched) is null)
        {
            return Test(Switched, "Because the command has not been seen at the starter.");
        }

        return proof[(int)ProofPart.Mechanical].State == ProofState.Open
            ? Test(Turns, "Because a starter that cannot turn the engine is not yet a bad starter.")
            : null;
    }

    // With one side failed the other side may still be unmeasured; naming it saves a second walk round.
    private static NextTest? Confirm(FindCase c, List<ProofLine> proof) =>
        proof.Any(l => l.State == ProofState.Open) && c.Latest(GroundDrop) is null && c.Good(AtStarter) == false && c.System.Test(GroundDrop) is { } test
            ? new NextTest(test, "Because the ground side may have a share in it.")
            : null;

    private static string Told(FindCase c, string test) => c.Latest(test)?.Value?.ToString() ?? "";

    private static string Limit(FindCase c, string test) => c.System.Test(test)!.GoodWords(c.NominalVolts);

    private static string Volts(decimal volts) => new Figure(decimal.Round(volts, 2), Units.Volt).ToString();
}
