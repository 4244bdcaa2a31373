namespace Screeline.Core.Diagnosis;

/// <summary>Whether a vehicle may be driven before it is repaired, by what was observed.</summary>
public static class DriveMeanwhile
{
    /// <summary>The family's first rule of which a behaviour was observed; else its rule for everything else.</summary>
    public static DriveRule Of(FaultSystem system, IReadOnlyList<string> behaviours) =>
        system.DriveRules.FirstOrDefault(r => r.When.Any(behaviours.Contains))
        ?? system.DriveRules.First(r => r.When.Count == 0);

    /// <summary>The answer in one word or two.</summary>
    public static string Word(this MayDrive answer) => answer switch
    {
        MayDrive.Yes => "Yes",
        MayDrive.No => "No",
        _ => "Only with care",
    };
}
