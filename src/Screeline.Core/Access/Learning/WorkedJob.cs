using System.Text.Json.Nodes;

namespace Screeline.Core.Access.Learning;

/// <summary>What a word says.</summary>
public enum WordKind
{
    /// <summary>The step came off with these alone off; nothing else was in its way.</summary>
    Only,
    /// <summary>The step had to be off for each of these.</summary>
    Needed,
    /// <summary>The step went back with these alone still open.</summary>
    Back,
    /// <summary>The step of the way back is done because of this one operation.</summary>
    Because,
}

/// <summary>Something somebody said about what was in the way of what.</summary>
/// <param name="Entry">The entry that says it; what one entry says is taken back together.</param>
/// <param name="By">Who.</param>
/// <param name="At">When.</param>
/// <param name="Kind">What it says.</param>
/// <param name="Step">Of which step, by the job's own ids.</param>
/// <param name="Of">The steps named, by the job's own ids; of <see cref="WordKind.Only"/> and <see cref="WordKind.Back"/> the whole set that remains.</param>
public sealed record LearnedWord(Guid Entry, string By, DateTimeOffset At, WordKind Kind, string Step, IReadOnlyList<string> Of);

/// <summary>One job's way there and back as it was worked: what a map learns from. Part of <c>screeline/access-map@1</c> under <c>learned</c>.</summary>
public sealed record WorkedJob
{
    /// <summary>The job.</summary>
    public required Guid Job { get; init; }
    /// <summary>The day it was handed back or left.</summary>
    public required DateOnly On { get; init; }
    /// <summary>Who worked on it.</summary>
    public required IReadOnlyList<string> By { get; init; }
    /// <summary>The version of the vehicle, as its file tells it; null for none.</summary>
    public string? Version { get; init; }
    /// <summary>Whether it followed a map: what it took is then the shop's own times and not the map's estimate.</summary>
    public bool Mapped { get; init; }
    /// <summary>
    /// What came off or was done, in order, as it was found; the last one is what the way leads to. Needs are not part of it. Minutes are those of this job, nothing where
    /// they are not known.
    /// </summary>
    public required IReadOnlyList<Operation> Opened { get; init; }
    /// <summary>Pairs of <see cref="Opened"/> told by devices that had not seen each other: nobody knows which came first.</summary>
    public IReadOnlyList<(string, string)> Unordered { get; init; } = [];
    /// <summary>What was closed and which steps of the way back were done, in order.</summary>
    public required IReadOnlyList<string> Closed { get; init; }
    /// <summary>Pairs of <see cref="Closed"/> of which nobody knows which came first.</summary>
    public IReadOnlyList<(string, string)> UnorderedBack { get; init; } = [];
    /// <summary>The steps of the way back that it had, as they were done; what stands before and after them is not part of it.</summary>
    public IReadOnlyList<RefitStep> Steps { get; init; } = [];
    /// <summary>Which of its things are which of the map's: its own id to the map's. What is not named keeps its id.</summary>
    public IReadOnlyDictionary<string, string> Names { get; init; } = new Dictionary<string, string>();
    /// <summary>What was said, oldest first.</summary>
    public IReadOnlyList<LearnedWord> Words { get; init; } = [];

    /// <summary>The map's name of one of its things.</summary>
    public string NameOf(string id) => Names.GetValueOrDefault(id, id);

    /// <summary>The same job with every thing under the map's name: first opening and last closing count.</summary>
    public WorkedJob Named()
    {
        IReadOnlyList<(string, string)> Pairs(IReadOnlyList<(string, string)> pairs) => [.. pairs.Select(p => (NameOf(p.Item1), NameOf(p.Item2))).Where(p => p.Item1 != p.Item2)];
        return this with
        {
            Opened = [.. Opened.Select(o => o with { Id = NameOf(o.Id) }).DistinctBy(o => o.Id)],
            Closed = [.. Closed.Select(NameOf).Reverse().Distinct().Reverse()],
            Steps = [.. Steps.Select(s => s with { Id = NameOf(s.Id), AppliesIf = s.AppliesIf is { } with ? NameOf(with) : null }).DistinctBy(s => s.Id)],
            Unordered = Pairs(Unordered), UnorderedBack = Pairs(UnorderedBack), Names = new Dictionary<string, string>(),
            Words = [.. Words.Select(w => w with { Step = NameOf(w.Step), Of = [.. w.Of.Select(NameOf).Distinct()] })],
        };
    }
}

/// <summary>What somebody changed by hand on a learned map; it stands above what jobs say.</summary>
/// <param name="Step">The operation or step, by the map's id.</param>
/// <param name="By">Who.</param>
/// <param name="At">When.</param>
/// <param name="Changes">The properties as the format writes them, by key; null for one that is left out.</param>
public sealed record SaidStep(string Step, string By, DateTimeOffset At, JsonObject Changes);

/// <summary>What a map is learned from.</summary>
/// <param name="Operations">Operations of the map that was there before; they stand as its author said. Null when nothing was.</param>
/// <param name="Steps">Its steps of the way back; null when nothing was.</param>
/// <param name="Jobs">The jobs, oldest first.</param>
/// <param name="Said">What was changed by hand, oldest first.</param>
public sealed record LearnedFrom(IReadOnlyList<Operation>? Operations, IReadOnlyList<RefitStep>? Steps, IReadOnlyList<WorkedJob> Jobs, IReadOnlyList<SaidStep> Said)
{
    /// <summary>Nothing yet.</summary>
    public static LearnedFrom Nothing { get; } = new(null, null, [], []);

    /// <summary>In how many jobs a step was done, and by how many people.</summary>
    public (int Jobs, int People) Certainty(string step)
    {
        var with = Jobs.Where(j => j.Opened.Any(o => j.NameOf(o.Id) == step) || j.Closed.Any(id => j.NameOf(id) == step)).ToList();
        return (with.Count, with.SelectMany(j => j.By).Distinct(StringComparer.Ordinal).Count());
    }

    /// <summary>Without a job and all it said.</summary>
    public LearnedFrom Without(Guid job) => this with { Jobs = [.. Jobs.Where(j => j.Job != job)] };

    /// <summary>Without what one entry said.</summary>
    public LearnedFrom WithoutWord(Guid entry) => this with { Jobs = [.. Jobs.Select(j => j with { Words = [.. j.Words.Where(w => w.Entry != entry)] })] };
}
