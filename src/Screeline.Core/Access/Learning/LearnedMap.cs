using System.Globalization;
using Screeline.Core.Access.Recording;

namespace Screeline.Core.Access.Learning;

/// <summary>A thing of a job that may be one that the map knows already; asked, never taken for granted.</summary>
/// <param name="Thing">The job's own id.</param>
/// <param name="Title">What the job calls it.</param>
/// <param name="Known">The map's id.</param>
/// <param name="KnownTitle">What the map calls it.</param>
public sealed record LikelyName(string Thing, string Title, string Known, string KnownTitle);

/// <summary>Maps that grow with the jobs done on them.</summary>
public static class LearnedMap
{
    /// <summary>Minutes for a change of place on a map whose moves nobody measured (common practice, no source); taken off what the steps themselves took.</summary>
    public const decimal WalkingMinutes = 1;

    /// <summary>A map of a model of which nothing is known yet.</summary>
    /// <param name="id">Its id.</param>
    /// <param name="title">What people call it.</param>
    /// <param name="family">The family.</param>
    /// <param name="model">The model.</param>
    /// <param name="version">The version of it, or null for any.</param>
    /// <param name="labourRatePerHour">In the shop's currency.</param>
    public static AccessMap New(string id, string title, string family, string model, string? version, decimal labourRatePerHour) => new()
    {
        Id = id, Title = title, Family = family, AppliesTo = [new Applicability(model, null, version, "done")], StartPosition = "floor", Positions = AnyPlaces.All, Moves = [], DefaultMoveMinutes = WalkingMinutes,
        ToolChangeMinutes = 0.25m, LabourRatePerHour = labourRatePerHour, Operations = [], Targets = [], Learned = LearnedFrom.Nothing,
    };

    /// <summary>The map with a job in it; in the place of what the same job told before.</summary>
    /// <param name="map">The map; one that somebody drew stands as its author said, and what jobs find comes on top.</param>
    /// <param name="job">The job, its things under ids of its own or of this map.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    /// <param name="states">For a caution, the states it requires.</param>
    public static AccessMap With(AccessMap map, WorkedJob job, WorkFrame frame, Func<string, IReadOnlyList<string>> states)
    {
        var so = map.Learned ?? new LearnedFrom(map.Operations, map.RefitSteps, [], []);
        var (placed, places) = Placed(job, map.Positions);
        var at = so.Jobs.ToList().FindIndex(j => j.Job == job.Job);
        List<WorkedJob> jobs = [.. so.Jobs];
        if (at >= 0)
        {
            jobs[at] = placed;
        }
        else
        {
            jobs.Add(placed);
        }

        var grown = places.Count == map.Positions.Count ? map : MapChanges.Placed(map, map.Operations, map.RefitSteps, places, map.PrintedRoute);
        return Learner.Learn(MapChanges.Learned(grown, so with { Jobs = jobs }), frame, states);
    }

    /// <summary>The map without a job, as if it had never been in it; a map that was there before is itself again when no job is left.</summary>
    public static AccessMap Without(AccessMap map, Guid job, WorkFrame frame, Func<string, IReadOnlyList<string>> states)
    {
        if (map.Learned?.Without(job) is not { } left || left.Jobs.Count == map.Learned.Jobs.Count)
        {
            return map;
        }

        var without = Learner.Learn(MapChanges.Learned(map, left), frame, states);
        return left is { Jobs.Count: 0, Said.Count: 0, Operations: not null } ? MapChanges.Learned(without, null) : without;
    }

    /// <summary>
    /// Ids in the map for the things of a job: what was told to be the same has the map's; what the job has from this very map, and what is of the family's frame,
    /// keeps its id; everything else gets a new one made of its words.
    /// </summary>
    /// <param name="map">The map.</param>
    /// <param name="job">The job under its own ids.</param>
    /// <param name="follows">Whether the job followed this map or expected what it says.</param>
    /// <param name="same">Which of its things are which of the map's.</param>
    /// <param name="frame">What holds of every vehicle of the family.</param>
    public static IReadOnlyDictionary<string, string> Names(AccessMap map, WorkedJob job, bool follows, IReadOnlyDictionary<string, string> same, WorkFrame frame)
    {
        var taken = map.Operations.Select(o => o.Id).Concat(map.RefitSteps.Select(s => s.Id)).ToHashSet(StringComparer.Ordinal);
        var names = new Dictionary<string, string>(StringComparer.Ordinal);
        var told = map.Learned?.Jobs.FirstOrDefault(j => j.Job == job.Job)?.Names ?? new Dictionary<string, string>();
        foreach (var (id, title) in job.Opened.Select(o => (o.Id, o.Title)).Concat(job.Steps.Select(s => (s.Id, s.Title))))
        {
            var known = follows && taken.Contains(id) || IsFrame(frame, id);
            var name = same.TryGetValue(id, out var other) ? other : known ? id : told.TryGetValue(id, out var earlier) && !Elsewhere(earlier) ? earlier : Slug(title, taken);
            taken.Add(name);
            if (name != id)
            {
                names[id] = name;
            }
        }

        return names;

        // It is parted again: a name that others have too is not its own.
        bool Elsewhere(string name) => map.Learned!.Jobs.Any(j => j.Job != job.Job && j.Opened.Any(o => j.NameOf(o.Id) == name));
    }

    /// <summary>
    /// Things of a job that may be what the map knows already: the same thing by the words of the trade, at the same kind of place, come off or done in the same way; and what is called
    /// the same.
    /// </summary>
    public static IReadOnlyList<LikelyName> LikelyNames(AccessMap map, WorkedJob job, bool follows, PartWords words, WorkFrame frame)
    {
        var own = job.Opened.Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        var free = map.Operations.Where(o => !IsFrame(frame, o.Id) && !(follows && own.Contains(o.Id))).ToList();
        var likely = new List<LikelyName>();
        var things = job.Opened.Where(o => !IsFrame(frame, o.Id) && !(follows && map.Operation(o.Id) is not null)).ToList();
        var about = map.Operations.Concat(things).Select(o => o.Title).Distinct().ToDictionary(t => t, t => words.About(t, map.Family)?.Id, StringComparer.Ordinal);
        // What has the very name goes first, so that nothing else is taken for it.
        foreach (var fits in new Func<Operation, Operation, bool>[]
        {
            (o, thing) => string.Equals(o.Title, thing.Title, StringComparison.OrdinalIgnoreCase),
            (o, thing) => about[thing.Title] is { } word && about[o.Title] == word && o.Kind == thing.Kind && Kind(map, o.Position) == Kind(map, thing.Position) && o.Off.Select(p => p.Kind).SequenceEqual(thing.Off.Select(p => p.Kind)),
        })
        {
            foreach (var thing in things.Where(t => likely.All(l => l.Thing != t.Id)))
            {
                if (free.FirstOrDefault(o => fits(o, thing)) is { } match && free.Remove(match))
                {
                    likely.Add(new LikelyName(thing.Id, thing.Title, match.Id, match.Title));
                }
            }
        }

        var steps = map.RefitSteps.Where(s => !IsFrame(frame, s.Id) && !(follows && job.Steps.Any(x => x.Id == s.Id))).ToList();
        foreach (var step in job.Steps.Where(s => !IsFrame(frame, s.Id) && !(follows && map.Step(s.Id) is not null)))
        {
            if (steps.FirstOrDefault(s => string.Equals(s.Title, step.Title, StringComparison.OrdinalIgnoreCase)) is { } match && steps.Remove(match))
            {
                likely.Add(new LikelyName(step.Id, step.Title, match.Id, match.Title));
            }
        }

        return likely;
    }

    /// <summary>An id made of words: letters and digits, hyphens between; with a number where it is taken.</summary>
    public static string Slug(string words, IReadOnlySet<string> taken)
    {
        var plain = new string([.. words.ToLowerInvariant().Normalize(System.Text.NormalizationForm.FormD).Where(c => CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark).Select(c => char.IsAsciiLetterOrDigit(c) ? c : '-')]);
        var parts = plain.Split('-', StringSplitOptions.RemoveEmptyEntries).Take(6);
        var slug = string.Join('-', parts) is { Length: > 0 } joined ? joined : "step";
        return !taken.Contains(slug) ? slug : Enumerable.Range(2, 10_000).Select(n => $"{slug}-{n}").First(s => !taken.Contains(s));
    }

    private static bool IsFrame(WorkFrame frame, string id) => frame.Find(id) is not null || frame.Steps.Any(s => s.Step.Id == id) || id == frame.PowerOn?.Id || id == frame.PowerOff?.Id;

    private static string Kind(AccessMap map, string position) => map.Positions.FirstOrDefault(p => p.Id == position)?.Kind ?? position;

    // A map has its own names for its places; a place it does not have is added.
    private static (WorkedJob Job, IReadOnlyList<Position> Places) Placed(WorkedJob job, IReadOnlyList<Position> positions)
    {
        List<Position> places = [.. positions];
        string At(string id)
        {
            if (places.FirstOrDefault(p => p.Id == id) is null && places.FirstOrDefault(p => p.Kind == id) is { } known)
            {
                return known.Id;
            }

            if (places.All(p => p.Id != id))
            {
                places.Add(AnyPlaces.All.FirstOrDefault(p => p.Id == id) ?? new Position(id, id, []));
            }

            return id;
        }

        return (job with { Opened = [.. job.Opened.Select(o => o with { Position = At(o.Position) })], Steps = [.. job.Steps.Select(s => s with { Position = At(s.Position) })] }, places);
    }
}
