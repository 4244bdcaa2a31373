using System.Text.Json;
using FsCheck;
using FsCheck.Xunit;
using Screeline.Core.Access.Planning;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;

namespace Screeline.Core.Tests;

/// <summary>That a job follows from its entries alone, and that nobody gets round a rule by way of a date or a correction.</summary>
public sealed class TrustTests
{
    private static readonly DateTimeOffset Noon = new(2036, 5, 4, 12, 0, 0, TimeSpan.Zero);

    /// <summary>The only clock in Core is that of searches for which somebody waits; the fold is given a limit of work.</summary>
    [Fact]
    public void The_fold_asks_no_clock()
    {
        var core = Path.Combine(Root(), "src", "Screeline.Core");
        var clocks = Directory.EnumerateFiles(core, "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal))
            .Where(f => System.Text.RegularExpressions.Regex.IsMatch(File.ReadAllText(f), @"TickCount|Stopwatch|\bDate(Time|TimeOffset)\.(Utc)?Now|TimeProvider")).Select(f => Path.GetRelativePath(core, f));
        Assert.Equal(["Access/Planning/SearchLimit.cs"], clocks);
        var callers = Directory.EnumerateFiles(core, "*.cs", SearchOption.AllDirectories).Where(f => File.ReadAllText(f).Contains("SearchLimit.OfTime(", StringComparison.Ordinal)).Select(f => Path.GetRelativePath(core, f));
        Assert.Equal(["Access/Planning/RoutePlanner.cs"], callers);
        Assert.DoesNotContain(Directory.EnumerateFiles(Path.Combine(core, "Jobs"), "*.cs", SearchOption.AllDirectories), f => File.ReadAllText(f).Contains("RoutePlanner.Plan", StringComparison.Ordinal));
    }

    private static string Root([System.Runtime.CompilerServices.CallerFilePath] string here = "") => Path.GetFullPath(Path.Combine(Path.GetDirectoryName(here)!, "..", ".."));

    /// <summary>An order of the way back is the same however long it took; one that would take too long is found without a search.</summary>
    [Fact]
    public void The_way_back_hangs_on_work_not_on_time()
    {
        var map = JobStory.Map.Map;
        var removal = JobStory.Plan.Removal.Select(a => a.Id).ToList();
        var progress = new Access.RefitProgress(removal.ToHashSet(), new HashSet<string>(), new HashSet<string>());
        var first = RoutePlanner.Back(map, removal, progress, map.StartPosition)!;
        Assert.All(Enumerable.Range(0, 3), _ => Assert.Equal(first, RoutePlanner.Back(map, removal, progress, map.StartPosition)!));
        Assert.True(Refit.Holds(map, first, progress));
    }

    private static Job Fold(params IEnumerable<Entry> entries) => Job.Fold([.. entries.Select((e, i) => e with { Position = i + 1 })], JobStory.Knowledge);

    private static Entry Told(JobStory story, Payload payload, DateTimeOffset occurred, DateTimeOffset received, int? waited) =>
        new(new EntryDraft(Guid.NewGuid(), story.Job.Id, 0, JobStory.Ansa, occurred, payload, waited), 0, JobStory.Ansa, received);

    /// <summary>A wait that protects people begins when the server was told, less what the page's own clock counted; never by a date. Entries of the version before keep theirs.</summary>
    [Theory]
    [InlineData(TimerKind.Restraint, 0, 0)]
    [InlineData(TimerKind.Restraint, 300, -5)]
    [InlineData(TimerKind.Restraint, null, -60)]
    [InlineData(TimerKind.Cool, 0, 0)]
    [InlineData(TimerKind.Soak, 0, -60)]
    [InlineData(TimerKind.Cure, 0, -60)]
    public void A_wait_begins(TimerKind kind, int? waited, int minutes)
    {
        var story = new JobStory().OnItsWay();
        var job = Fold([.. story.Entries, Told(story, new TimerStarted("cooled", kind, 15, "w"), Noon.AddHours(-1), Noon, waited)]);
        Assert.Equal(Noon.AddMinutes(minutes + 15), job.Timers[^1].EndsAt);
    }

    [Theory]
    [InlineData(10, 14, true)]
    [InlineData(120, 14, true)]
    [InlineData(120, 16, false)]
    public void A_tick_dated_ahead_does_not_shorten_a_wait(int dated, int received, bool disputed)
    {
        var story = new JobStory().OnItsWay();
        foreach (var before in JobStory.Plan.Removal.Select(a => a.Id).TakeWhile(id => id != "cooled"))
        {
            story.Off(before);
        }

        var job = Fold([
            .. story.Entries,
            Told(story, new TimerStarted("cooled", TimerKind.Cool, 15, "w"), Noon, Noon, 0),
            Told(story, new StepDone(WorkPhase.Apart, "cooled", null, []), Noon.AddMinutes(dated), Noon.AddMinutes(received), 0)]);
        Assert.Equal(disputed, job.Disputes.Any(d => d.Reason.StartsWith("Its wait runs", StringComparison.Ordinal)));
    }

    private static EntryCorrected Correct(Entry entry, Payload payload) => new(entry.Id, EntryKinds.Write(payload));

    /// <summary>What a correction must not be a way round: another thing, a shorter wait, an entry that is not here, figures that cannot be.</summary>
    [Fact]
    public void A_correction_is_checked_as_what_it_puts()
    {
        var story = new JobStory().Apart("wheel-off");
        var tick = story.Job.Removed["undertray"].Entry;
        var timer = story.Say(new TimerStarted("cooled", TimerKind.Restraint, 15, "w"));
        var wanted = new (EntryCorrected Said, string? Fault)[]
        {
            (Correct(tick, new StepDone(WorkPhase.Apart, "undertray", 2, [])), null),
            (Correct(tick, new StepDone(WorkPhase.Apart, "raised", null, [])), "$.payload.payload"),
            (Correct(tick, new StepDone(WorkPhase.Refit, "undertray", null, [])), "$.payload.payload"),
            (Correct(tick, new StepDone(WorkPhase.Apart, "undertray", 5000, [])), "$.payload.payload.cell"),
            (Correct(timer, new TimerStarted("cooled", TimerKind.Cool, 1, "w")), "$.payload.entry"),
            (new EntryCorrected(timer.Id, JsonDocument.Parse("{\"kind\":\"cool\",\"minutes\":1e27,\"step\":\"cooled\",\"what\":\"w\"}").RootElement), "$.payload.entry"),
            (new EntryCorrected(Guid.NewGuid(), EntryKinds.Write(new TimerStarted("cooled", TimerKind.Cool, 1, "w"))), "$.payload.entry"),
        };
        Assert.All(wanted, w => Assert.Equal(w.Fault, JobRules.Malformed(story.Job, w.Said).Select(f => f.Path).FirstOrDefault()));
    }

    /// <summary>A correction needs the rights of what it puts, a withdrawal those of what it takes back.</summary>
    [Fact]
    public void Corrections_and_withdrawals_carry_the_rights_of_what_they_are_about()
    {
        var story = new JobStory().Apart("wheel-off");
        var signed = story.Say(new DifferenceSigned("on order", ["undertray/edge:1"]));
        var note = story.Say(new NoteAdded(null, "n"));
        foreach (var (payload, apprentice) in new (Payload, bool)[]
        {
            (Correct(note, new NoteAdded(null, "m")), true), (new EntryWithdrawn(note.Id), true),
            (Correct(signed, new DifferenceSigned("wider", ["undertray/edge:2"])), false), (new EntryWithdrawn(signed.Id), false),
        })
        {
            Assert.Equal(apprentice, Roles.Refuses(Role.Apprentice, payload, story.Job) is null);
            Assert.Null(Roles.Refuses(Role.Technician, payload, story.Job));
            Assert.NotNull(Roles.Refuses(Role.Viewer, payload, story.Job));
        }
    }

    /// <summary>An apprentice's correction of a tick that a second person looks at is looked at again, and what hangs on it waits.</summary>
    [Fact]
    public void A_corrected_support_waits_for_a_second_person_again()
    {
        var story = new JobStory().OnItsWay();
        foreach (var before in JobStory.Plan.Removal.Select(a => a.Id).TakeWhile(id => id != "raised"))
        {
            story.Off(before);
        }

        var tick = story.Say(new StepDone(WorkPhase.Apart, "raised", null, []));
        var correction = Correct(tick, new StepDone(WorkPhase.Apart, "raised", 3, []));
        Assert.StartsWith("Supports:", correction.NeedsSecondPerson(story.Job), StringComparison.Ordinal);
        var said = story.Say(correction);
        story.Say(new SecondWanted(said.Id, correction.NeedsSecondPerson(story.Job)!));
        Assert.Equal("raised", (story.Job.SecondMissingAt("raised")!.What as StepDone)!.Step);
        Assert.Contains("second person", JobRules.OutOfOrder(story.Job, new StepDone(WorkPhase.Apart, "undertray", 1, []), Noon.AddYears(10)), StringComparison.Ordinal);
    }

    /// <summary>Going through entries one by one comes to the same job as folding them, whatever was withdrawn or corrected, also beforehand.</summary>
    [Property(MaxTest = 40)]
    public void Walking_is_folding(DoNotSize<int> seed)
    {
        var random = new Random(seed.Item);
        var story = new JobStory().Apart("wheel-off");
        var later = Guid.NewGuid();
        for (var i = random.Next(12); i > 0; i--)
        {
            var any = story.Entries[1 + random.Next(story.Entries.Count - 1)];
            story.Say(random.Next(5) switch
            {
                0 => new EntryWithdrawn(any.Id),
                1 => new EntryWithdrawn(later),
                2 => new ReadingTaken("battery-rest", new Figure(12m + random.Next(90) / 100m, Units.Volt), null),
                3 => any.Payload is ReadingTaken r ? Correct(any, r with { Value = new Figure(11.9m, Units.Volt) }) : new NoteAdded(null, "n"),
                _ => new NoteAdded(null, $"{random.Next()}"),
            }, random.Next(6) == 0 ? later : null);
            later = story.Entries.Any(e => e.Id == later) ? Guid.NewGuid() : later;
        }

        var entries = story.Entries;
        var looked = new List<Guid>();
        var walked = Job.Walk(entries, JobStory.Knowledge, (_, e) => looked.Add(e.Id));
        var folded = Job.Fold(entries, JobStory.Knowledge);
        Assert.Equal(entries.Skip(1).Select(e => e.Id), looked);
        string Shown(Job job) => string.Join('|', job.Head, job.Current, job.Next, job.Readings.Count, job.Notes.Count, job.Removed.Count, string.Join(';', job.Disputes.Select(d => d.Reason)), string.Join(';', job.History.Select(h => $"{h.Entry.Id} {h.WithdrawnBy?.Id} {h.CorrectedBy?.Id}")), string.Join(';', job.Readings.Select(r => r.Payload.Value)));
        Assert.Equal(Shown(folded), Shown(walked));
    }
}
