using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>Will another socket do?</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class SocketModel(ToolStore tools, ShippedLibrary library) : BenchPage
{
    public override string Title => "Will another socket do?";

    public Drive? Head { get; private set; }

    public Drive? Tool { get; private set; }

    public SocketVerdict? Verdict { get; private set; }

    /// <summary>What of the owned goes on, the best first.</summary>
    public IReadOnlyList<(Tool Tool, SocketVerdict Verdict)> Owned { get; private set; } = [];

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Head = Read("head");
        Tool = Read("tool");
        if (Head is null)
        {
            return;
        }

        Verdict = Tool is null ? null : SocketFit.Judge(Head, Tool);
        var owned = await tools.OwnedAsync(cancel);
        Owned = [.. library.Tools.Where(t => t.Drive is not null && owned.Contains(t.Id)).Select(t => (t, SocketFit.Judge(Head, t.Drive!))).Where(x => x.Item2.Fit is Fit.Fits or Fit.Perhaps or Fit.Loose).OrderBy(x => x.Item2.Fit switch { Fit.Fits => 0, Fit.Perhaps => 1, _ => 2 })];
    }

    /// <summary>A verdict in words.</summary>
    public static string Words(Fit fit) => fit switch
    {
        Fit.Fits => "Fits",
        Fit.Perhaps => "Goes on a small head only",
        Fit.Loose => "Loose: rounds it off under load",
        Fit.Spoils => "Spoils the head",
        _ => "Does not go on",
    };

    private Drive? Read(string field)
    {
        if (Asked(field).Length == 0)
        {
            return null;
        }

        var (drive, reason) = Drive.Read(Asked(field));
        if (reason is not null)
        {
            Faults[field] = reason;
        }

        return drive;
    }
}
