using System.Globalization;

namespace Screeline.Core.Motion;

/// <summary>What to do about a cause, in words.</summary>
/// <param name="Act">The hand's work, in one line.</param>
/// <param name="Because">Why it is that and nothing else.</param>
/// <param name="Check">How to see that it is right, or null.</param>
public sealed record SettingAdvice(string Act, string Because, string? Check)
{
    /// <summary>The advice for a cause, one for each thing that is off; one that says to turn nothing when nothing is.</summary>
    /// <param name="linkage">The linkage as it should be.</param>
    /// <param name="cause">What explains the measurements.</param>
    public static IReadOnlyList<SettingAdvice> For(WiperLinkage linkage, SettingCause cause) =>
        cause.Changes.Count == 0 ? [For(linkage, new SettingChange(SettingFault.None, -1, 0, 0))] : [.. cause.Changes.Select(c => For(linkage, c))];

    /// <summary>The advice for one change.</summary>
    /// <param name="linkage">The linkage as it should be.</param>
    /// <param name="change">What is off.</param>
    public static SettingAdvice For(WiperLinkage linkage, SettingChange change)
    {
        var arm = change.Arm >= 0 ? linkage.Rockers[change.Arm] : null;
        var name = arm?.Title.ToLowerInvariant() ?? "";
        var size = Math.Abs(change.Amount);
        var longer = change.Amount > 0 ? "too long" : "too short";
        switch (change.Fault)
        {
            case SettingFault.CrankAngle:
                var clock = change.Amount > 0 ? "with the clock" : "against the clock";
                var gauge = linkage.Gauge is { } g && Math.Abs(change.Amount) < 80 ? $"The gap goes from {Number(g.GapAt(change.Amount))} to {Number(g.Gap)} mm." : null;
                return new($"Turn the crank {Number(size)}° {clock}",
                    linkage.Drive == WiperDrive.Reversing ? "Because the whole sweep is shifted, ends and park alike: a reversing motor carries all of it along."
                        : "Because park is off while the ends of the sweep are right: the linkage fixes the ends, the crank only where it stops.", gauge);
            case SettingFault.LearnedEnds:
                return new($"Let the motor learn its ends again: the sweep is shifted by {Number(size)}° of the crank", "Because a reversing motor that lost its ends shifts the sweep as a wrong crank does. Learning costs nothing: try it first.", null);
            case SettingFault.ArmTooth:
                return new($"Move the {name} arm {Number(size)} {(size == 1 ? "tooth" : "teeth")} {Direction(linkage, change, -1)}",
                    $"Because that blade alone is off, everywhere by the same angle: one tooth of {arm!.Arm.Teeth} is {Number(arm.Arm.ToothDegrees!.Value)}°, {arm.Arm.ToothAtTip!.Value.ToString("0", CultureInfo.InvariantCulture)} mm at its tip.", null);
            case SettingFault.ArmFine:
                return new($"Turn the {name} arm {Direction(linkage, change, -1)} {Number(size)}°: {(size * Math.PI / 180 * arm!.Arm.Tip).ToString("0", CultureInfo.InvariantCulture)} mm at its tip",
                    $"Because that blade alone is off, by less than {(arm.Arm.Teeth > 0 ? "a tooth: it sits a little round on its taper" : "a whole turn of its clamp")}.", null);
            case SettingFault.CrankLength:
                return new($"Renew the crank: {Number(size)} mm {longer}, or bent", "Because the sweep itself is too large or too small on every blade, which no setting changes.", null);
            case SettingFault.LinkLength:
                return new($"Renew the {name} link: {Number(size)} mm {longer}, or bent", "Because that blade's sweep is shifted by unlike angles at its two ends.", null);
            case SettingFault.LeverLength:
                return new($"Look at the {name} lever: {Number(size)} mm {longer}, or bent", "Because that blade alone sweeps too far or too little.", null);
            case SettingFault.WrongArm:
                return new($"Hold the {name} arm against the other side's: its tip is {size.ToString("0", CultureInfo.InvariantCulture)} mm {(change.Amount > 0 ? "too far out" : "too near")}", "Because its angles are right and only its length is not: left for right, or another blade.", null);
            case SettingFault.WornJoint:
                return new($"Feel the {name} joints for play", "Because that blade's readings do not agree with each other: a worn joint lets it go here and there.", "Hold the crank, move the tip by hand: a few millimetres and no more.");
            default:
                return new("Turn nothing", "Because every reading is where it belongs.", null);
        }
    }

    /// <summary>The name of a fault in words.</summary>
    public static string Name(WiperLinkage linkage, SettingChange change)
    {
        var whose = change.Arm >= 0 ? linkage.Rockers[change.Arm].Title.ToLowerInvariant() + " " : "";
        return change.Fault switch
        {
            SettingFault.CrankAngle => "Crank at the wrong angle",
            SettingFault.LearnedEnds => "Learned ends lost",
            SettingFault.ArmTooth => $"The {whose}arm {(Math.Abs(change.Amount) == 1 ? "a tooth" : $"{Number(Math.Abs(change.Amount))} teeth")} off",
            SettingFault.ArmFine => $"The {whose}arm a little off",
            SettingFault.CrankLength => "Wrong or bent crank",
            SettingFault.LinkLength => $"The {whose}link wrong or bent",
            SettingFault.LeverLength => $"The {whose}lever wrong or bent",
            SettingFault.WrongArm => $"Wrong {whose}arm or blade",
            SettingFault.WornJoint => $"Worn joint on the {whose}side",
            _ => "Nothing off",
        };
    }

    // Up or down for a correction of an arm, by what it does to the tip at park.
    private static string Direction(WiperLinkage linkage, SettingChange change, int sign)
    {
        var park = linkage.Park[0];
        var raises = Motion.Change.Arm(linkage, change.Arm, 1).TipHeights(park)[change.Arm] > linkage.TipHeights(park)[change.Arm];
        return raises == (sign * change.Amount > 0) ? "up" : "down";
    }

    private static string Number(double value) => value.ToString("0.#", CultureInfo.InvariantCulture);
}
