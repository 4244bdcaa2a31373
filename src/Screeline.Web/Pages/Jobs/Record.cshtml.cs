using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>What a map does not know, found on the way in: told with the keys of a job that is recorded as it goes.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class RecordModel(JobStore jobs, PeopleStore people, CurrentPerson current, Workshop shop) : StepPage(jobs, people, current, shop)
{
    /// <inheritdoc/>
    public override Stage Stage => Stage.TakeApart;

    /// <inheritdoc/>
    public override WorkPhase Phase => WorkPhase.Apart;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Order => Job.Route?.Payload.Removal ?? [];

    /// <inheritdoc/>
    protected override WithoutNetwork WithoutNetwork => WithoutNetwork.Beside;

    public void OnGet()
    {
    }
}
