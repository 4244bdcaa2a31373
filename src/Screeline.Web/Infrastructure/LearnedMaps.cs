using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Screeline.Core.Access;
using Screeline.Core.Access.Learning;
using Screeline.Core.Access.Recording;
using Screeline.Core.Formats;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;

namespace Screeline.Web.Infrastructure;

/// <summary>What a job would make of a map.</summary>
/// <param name="Before">The map it would go into, as it is now; null when it would be a new one.</param>
/// <param name="Version">Its version; 0 for a shipped or a new one.</param>
/// <param name="Job">The job as it was worked, under the names of its own.</param>
/// <param name="After">The map with it.</param>
/// <param name="IsIn">Whether it is in it already.</param>
/// <param name="Names">Things that may be what the map knows already, and are not told apart or together yet.</param>
/// <param name="Faults">What stands against keeping it, in words.</param>
/// <param name="Merged">Things that were told to be what other jobs had too; each can be parted again.</param>
public sealed record LearnOffer(AccessMap? Before, int Version, WorkedJob Job, AccessMap After, bool IsIn, IReadOnlyList<LikelyName> Names, IReadOnlyList<FormatFault> Faults, IReadOnlyList<LikelyName> Merged)
{
    /// <summary>What the map was learned from, with this job.</summary>
    public LearnedFrom From => After.Learned!;
}

/// <summary>Maps that grow out of the work: what a job would add, keeping it, and what is worth asking about it.</summary>
public sealed class LearnedMaps(MapShelf shelf, MapStore maps, DocumentStore documents, ShippedLibrary library)
{
    /// <summary>Why a job makes no map.</summary>
    public const string NotReached = "What this job is about did not come off: there is no way to it yet.";

    private static readonly TimeSpan ForOnePlan = TimeSpan.FromSeconds(1), ForAll = TimeSpan.FromSeconds(15);

    // The latest questions only; what is gone is planned again when somebody asks.
    private const int MostQuestions = 32;

    private readonly ConcurrentDictionary<string, Task<IReadOnlyList<Question>>> _questions = new(StringComparer.Ordinal);

    /// <summary>Whether a job makes its map surer, though it found nothing new: the map learns from jobs, or was not done on this model yet.</summary>
    public async Task<bool> MakesSurerAsync(Job job, CancellationToken cancel) =>
        job.Map is { } map && job.Route is not null && (await shelf.FindAsync(map.Id, cancel))?.Plain is { } kept && (kept.Learned is not null || !kept.AppliesTo.Any(a => a.Model == job.Opened.Payload.Model && a.Certainty == "done"));

    /// <summary>Whether a job can teach a map something new: it was recorded, found something besides its map, or something was said in it.</summary>
    public static bool Teaches(Job job) => job.Map is not null && job.Removed.Values.Any(r => r.Entry.Payload is not ArrivalNoted) && job.Route is not null && (job.IsRecorded || job.Things.Count > 0 || job.Struck.Count > 0 || job.WordsTold);

    /// <summary>What a job would make of a map; null when nothing came off in it, or its map is gone.</summary>
    /// <param name="job">The job.</param>
    /// <param name="nameOf">The name of a person.</param>
    /// <param name="version">The version of the vehicle, or null.</param>
    /// <param name="same">Which of its things were told to be which of the map's; null for one that was told to be another.</param>
    /// <param name="own">Whether this version of the vehicle gets a map of its own.</param>
    /// <param name="cancel">Stops looking.</param>
    public async Task<LearnOffer?> OfferAsync(Job job, Func<Guid, string> nameOf, string? version, IReadOnlyDictionary<string, string?> same, bool own, CancellationToken cancel)
    {
        if (job.Map is not { } map || !job.Removed.Values.Any(r => r.Entry.Payload is not ArrivalNoted))
        {
            return null;
        }

        var (frame, all) = (job.System.Frame, await shelf.AllAsync(cancel));
        var found = all.FirstOrDefault(m => m.Map.Learned?.Jobs.Any(j => j.Job == job.Id) == true);
        if (found.Map is null && !job.IsRecorded)
        {
            found = all.FirstOrDefault(m => m.Map.Id == map.Id);
        }
        else if (found.Map is null && !own)
        {
            // One version of a vehicle never teaches another unasked.
            found = all.FirstOrDefault(m => m.Map.Family == job.System.Id && m.Map.AppliesTo.Any(a => a.Model == job.Opened.Payload.Model && a.Certainty == "done" && Same(a.Version, version)));
        }

        var worked = WorkedWay.Of(job, nameOf, version);
        var before = found.Map ?? New(job, version, all);
        var follows = !job.IsRecorded || (job.Recording?.Payload.Map is { } expected && job.KnownMap(expected)?.Id == before.Id);
        var others = LearnedMap.Without(before, job.Id, frame, Cautions);
        var likely = found.Map is null ? [] : LearnedMap.LikelyNames(others, worked, follows, library.PartWords, frame).ToList();
        var told = same.Where(s => s.Value is { } known && before.Operation(known) is not null).ToDictionary(s => s.Key, s => s.Value!, StringComparer.Ordinal);
        var isIn = before.Learned?.Jobs.FirstOrDefault(j => j.Job == job.Id);
        foreach (var (thing, name) in isIn?.Names ?? new Dictionary<string, string>())
        {
            // As it was told when it was kept, unless it is told otherwise now.
            if (!same.ContainsKey(thing) && before.Operation(name) is not null && before.Learned!.Jobs.Any(j => j.Job != job.Id && j.Opened.Any(o => j.NameOf(o.Id) == name)))
            {
                told[thing] = name;
            }
        }

        var named = worked with { Names = LearnedMap.Names(before, worked, follows, told, frame) };
        var after = LearnedMap.With(before, named, frame, Cautions);
        var reading = AccessMapReader.Read(AccessMapWriter.Write(after), library.Cautions);
        // A way that led nowhere teaches what a map knows already, and makes none of its own.
        List<FormatFault> faults = [.. found.Map is null && job.IsRecorded && job.Reached is null ? [new FormatFault("$.targets", NotReached)] : Array.Empty<FormatFault>(), .. reading.Faults];
        return new LearnOffer(found.Map, found.Version, named, after, isIn is not null, [.. likely.Where(l => !same.ContainsKey(l.Thing) && !told.ContainsKey(l.Thing))], faults,
            isIn is null ? [] : [.. told.Where(t => t.Key != t.Value).Select(t => new LikelyName(t.Key, worked.Opened.FirstOrDefault(o => o.Id == t.Key)?.Title ?? worked.Steps.FirstOrDefault(s => s.Id == t.Key)?.Title ?? t.Key, t.Value, before.Operation(t.Value)!.Title))]);
    }

    /// <summary>Keeps a map as its next version. Jobs that are left out of what the shop knows stay in it, for when they count again.</summary>
    /// <returns>False when somebody kept another one meanwhile.</returns>
    public async Task<bool> KeepAsync(AccessMap map, int basedOn, Guid person, CancellationToken cancel)
    {
        if (map.Learned is { } so && (await maps.LatestAsync(cancel)).FirstOrDefault(v => v.MapId == map.Id) is { } latest)
        {
            var left = await maps.JobsLeftOutAsync(cancel);
            var away = (AccessMapReader.ReadKept(latest.Json)?.Learned?.Jobs ?? []).Where(j => left.Contains(j.Job) && so.Jobs.All(x => x.Job != j.Job)).ToList();
            map = away.Count == 0 ? map : Again(MapChanges.Learned(map, so with { Jobs = [.. so.Jobs.Concat(away).OrderBy(j => j.On)] }));
        }

        return await maps.KeepAsync(map.Id, await documents.KeepAsync(AccessMapWriter.Write(map), "application/json", cancel), person, basedOn, cancel);
    }

    /// <summary>What a map says otherwise than the jobs it was learned from; empty when the two agree.</summary>
    public IReadOnlyList<FormatFault> Disagrees(AccessMap map)
    {
        var again = Again(map);
        return
        [
            .. map.Operations.Select((o, i) => (o, i)).Where(x => again.Operation(x.o.Id) is not { } derived || !JsonNode.DeepEquals(AccessMapWriter.Write(derived), AccessMapWriter.Write(x.o)))
                .Select(x => new FormatFault($"$.operations[{x.i}]", $"“{x.o.Title}” says otherwise than the jobs the map was learned from")),
            .. again.Operations.Where(o => map.Operation(o.Id) is null).Select(o => new FormatFault("$.operations", $"“{o.Title}” came off in a job and is not there")),
        ];
    }

    /// <summary>Questions about a job that are worth asking; null while they are planned, which the first who asks begins. Nobody waits for it.</summary>
    public IReadOnlyList<Question>? QuestionsFor(LearnOffer offer, WorkFrame frame)
    {
        var key = $"{offer.Job.Job} {offer.Version} {string.Join(' ', offer.Job.Words.Select(w => w.Entry).Distinct())} {string.Join(' ', offer.Job.Names.Values)}";
        if (_questions.Count > MostQuestions && !_questions.ContainsKey(key))
        {
            _questions.Clear();
        }

        var planned = _questions.GetOrAdd(key, _ => Task.Run(() =>
        {
            using var stop = new CancellationTokenSource(ForAll);
            return Questions.Worth(offer.After, offer.Job, frame, Cautions, ForOnePlan, stop.Token);
        }));
        return planned.IsCompleted ? planned.GetAwaiter().GetResult() : null;
    }

    /// <summary>The map with all its jobs learned again, for whoever changed what it is learned from.</summary>
    public AccessMap Again(AccessMap map) => Learner.Learn(map, library.System(map.Family)?.Frame ?? WorkFrame.Empty, Cautions);

    /// <summary>The map without a job.</summary>
    public AccessMap Without(AccessMap map, Guid job) => LearnedMap.Without(map, job, library.System(map.Family)?.Frame ?? WorkFrame.Empty, Cautions);

    private IReadOnlyList<string> Cautions(string caution) => library.Cautions.GetValueOrDefault(caution) ?? [];

    private static bool Same(string? a, string? b) => string.Equals(a ?? "", b ?? "", StringComparison.OrdinalIgnoreCase);

    private static AccessMap New(Job job, string? version, IReadOnlyList<(AccessMap Map, string Json, int Version)> all)
    {
        var model = job.Opened.Payload.Model;
        var title = $"{job.System.Motor}, {model}{(version is null ? "" : $", {version}")}";
        title = char.ToUpperInvariant(title[0]) + title[1..];
        var id = LearnedMap.Slug($"{job.System.Id} {model} {version}", all.Select(m => m.Map.Id).ToHashSet(StringComparer.Ordinal));
        return LearnedMap.New(id, title, job.System.Id, model, version, all.Where(m => m.Map.LabourRatePerHour > 0).Select(m => m.Map.LabourRatePerHour).DefaultIfEmpty(0).First());
    }
}
