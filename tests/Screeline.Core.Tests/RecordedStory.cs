using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;

namespace Screeline.Core.Tests;

/// <summary>Tells jobs without a map for tests.</summary>
internal static class RecordedStory
{
    public static readonly Guid Bram = Guid.NewGuid();

    public static JobStory Begun(string family = "starting", params string[] lines)
    {
        var story = new JobStory(family);
        story.Say(new ComplaintNoted("It does nothing", [JobStory.Library.System(family)!.Behaviours[0].Id], "always", 5, 5, null));
        story.Say(new DecisionMade(DecisionAct.Guess, "motor replaced", "for the test"));
        story.Say(new RecordingBegun(null, false, lines));
        return story;
    }

    public static string Take(JobStory story, TakenAct act, string what, string place = "bay", bool target = false) => Id(story.Say(new TakenOff(act, what, place, target)), story);

    public static string Id(Entry entry, JobStory story) => story.Job.Things.First(t => t.Entries.Any(e => e.Id == entry.Id)).Id;

    public static void Frame(JobStory story, params string[] ids)
    {
        foreach (var id in ids)
        {
            var o = story.Job.Map![id];
            if (o.WaitMinutes > 0)
            {
                story.Say(new TimerEnded(story.Say(new TimerStarted(id, TimerKind.Cool, o.WaitMinutes, o.Title)).Id));
            }

            story.Say(new StepDone(WorkPhase.Apart, id, null, []));
        }
    }

    public static IReadOnlyList<string> WayBack(Job job) => [.. Refit.Order(job).Select(id => Refit.Title(job.Map!, id))];
}
