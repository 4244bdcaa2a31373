using Screeline.Web.Pages;

namespace Screeline.Web.Setting;

/// <summary>A setting as its screen shows it.</summary>
/// <param name="Work">What was typed and what it comes to.</param>
/// <param name="Back">The step one came from, on the bench; null for none.</param>
/// <param name="Job">The page of the job it belongs to; null on the bench.</param>
/// <param name="Step">The step of the job.</param>
public sealed record SettingView(SettingWork Work, string? Back, JobPage? Job, string? Step)
{
    /// <summary>Ids of what follows the answer in the action bar.</summary>
    public string AsideIds => Job is null ? "set-files" : "set-files keep-words";

    /// <summary>The fault at a field, or null.</summary>
    public string? Fault(string field) => Work.Faults.GetValueOrDefault(field) ?? Job?.FieldFaults.GetValueOrDefault(field);
}
