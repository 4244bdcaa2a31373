using QRCoder;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Labels for tray cells and bags: what is in them, and a code that opens the job at that step.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class LabelsModel(JobStore jobs, PeopleStore people, CurrentPerson current) : JobPage(jobs, people, current)
{
    /// <inheritdoc/>
    protected override bool ShowsGrowth => false;

    public override Stage Stage => Stage.TakeApart;

    /// <summary>What lies in the tray, by cell.</summary>
    public IReadOnlyList<IGrouping<int, FastenerAccount>> Cells => [.. Job.Count.InTray.GroupBy(a => a.Cell!.Value)];

    public void OnGet()
    {
    }

    /// <summary>Address that opens the job at a step.</summary>
    public string Address(string step) => $"{Request.Scheme}://{Request.Host}/jobs/{Number}/at/{step}";

    /// <summary>The code of an address as one path of squares, and how many modules it has each way.</summary>
    public static (string Path, int Size) Code(string address)
    {
        using var generator = new QRCodeGenerator();
        using var data = generator.CreateQrCode(address, QRCodeGenerator.ECCLevel.M);
        var rows = data.ModuleMatrix;
        var path = new System.Text.StringBuilder();
        for (var y = 0; y < rows.Count; y++)
        {
            for (var x = 0; x < rows[y].Count; x++)
            {
                if (rows[y][x])
                {
                    path.Append(System.Globalization.CultureInfo.InvariantCulture, $"M{x} {y}h1v1h-1z");
                }
            }
        }

        return (path.ToString(), rows.Count);
    }
}
