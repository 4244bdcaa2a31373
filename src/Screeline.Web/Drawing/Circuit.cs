using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;

namespace Screeline.Web.Drawing;

/// <summary>The circuit drawing of a job: which point is probed now and what was read where.</summary>
public sealed record Circuit(Job Job, FaultTest Test)
{
    /// <summary>Whether a point is probed in the test at hand: the hand goes here next.</summary>
    public bool Now(string point) => Test.Probes.Contains(point) && Job.Decision is null;

    /// <summary>How a point stands: now, danger (a reading with it is not good), done (good), or todo.</summary>
    public string State(string point)
    {
        if (Now(point))
        {
            return "now";
        }

        var read = Job.System.Tests.Where(t => t.Probes.Contains(point)).Select(t => Job.Case.Good(t.Id)).Where(g => g is not null).ToList();
        return read.Contains(false) ? "danger" : read.Count > 0 ? "done" : "todo";
    }

    /// <summary>The latest figure read in a test, for its label; empty when there is none.</summary>
    public string Read(string test) => Job.Case.Latest(test)?.Value?.ToString() ?? "";
}
