using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Formats;
using Screeline.Core.Proof;

namespace Screeline.Core.Jobs;

/// <summary>A payload that stands, with the entry it came from.</summary>
/// <typeparam name="T">The payload's type.</typeparam>
public sealed record Recorded<T>(Entry Entry, T Payload) where T : Payload;

/// <summary>An entry that does not fit what stood before it.</summary>
/// <param name="Entry">The entry.</param>
/// <param name="Reason">Why, in words.</param>
public sealed record Dispute(Entry Entry, string Reason);

/// <summary>One line of the job's history.</summary>
/// <param name="Entry">The entry as it was made.</param>
/// <param name="WithdrawnBy">The entry that withdrew it, or null.</param>
/// <param name="CorrectedBy">The entry that corrected it, or null.</param>
public sealed record HistoryLine(Entry Entry, Entry? WithdrawnBy, Entry? CorrectedBy);

/// <summary>What is known of the families, whatever the job.</summary>
public interface IFamilies
{
    /// <summary>The knowledge of a family, or null.</summary>
    FaultSystem? System(string family);

    /// <summary>What people call a tool; its id when it is not known.</summary>
    string ToolTitle(string tool);

    /// <summary>What is known of the part a family exchanges on a model, or null.</summary>
    PartKnowledge? Part(string family, string model);

    /// <summary>The words for things on vehicles.</summary>
    PartWords Words { get; }

    /// <summary>States that a caution requires before anybody does what it warns of; empty for none.</summary>
    IReadOnlyList<string> RequiredBy(string caution);
}

/// <summary>What the fold needs to know beside the entries.</summary>
/// <param name="Families">The families.</param>
/// <param name="Maps">The access maps that the entries name, by SHA-256.</param>
public sealed record JobKnowledge(IFamilies Families, IReadOnlyDictionary<string, AccessMap> Maps);

/// <summary>
/// The state of a job: a pure fold over its entries. The same entries and knowledge always give the same state; nothing else
/// is stored that could disagree with them.
/// </summary>
public sealed partial class Job
{
    private readonly List<Dispute> _disputes = [];
    private readonly List<HistoryLine> _history = [];
    private readonly JobKnowledge _knowledge;

    private Job(JobKnowledge knowledge, Recorded<JobOpened> opened, FaultSystem system)
    {
        _knowledge = knowledge;
        Opened = opened;
        System = system;
    }

    /// <summary>How it began.</summary>
    public Recorded<JobOpened> Opened { get; }
    /// <summary>The knowledge of its family.</summary>
    public FaultSystem System { get; }
    /// <summary>Identifier.</summary>
    public Guid Id => Opened.Entry.Draft.Job;
    /// <summary>The position of the last entry.</summary>
    public int Head { get; private set; }
    /// <summary>Entries that do not fit what stood before them.</summary>
    public IReadOnlyList<Dispute> Disputes => _disputes;
    /// <summary>Every entry ever made, oldest first.</summary>
    public IReadOnlyList<HistoryLine> History => _history;

    /// <summary>The same as they were made.</summary>
    public IEnumerable<Entry> Entries => _history.Select(h => h.Entry);

    /// <summary>The set of operations on the way in (S in docs/formats.md).</summary>
    public IReadOnlySet<string> Set => Route is null ? new HashSet<string>() : Route.Payload.Removal.ToHashSet(StringComparer.Ordinal);

    /// <summary>How far the way back has come.</summary>
    public RefitProgress RefitProgress => new(
        Set,
        _refitted.Keys.Where(id => Map?.Step(id) is null).ToHashSet(StringComparer.Ordinal),
        _refitted.Keys.Where(id => Map?.Step(id) is not null).ToHashSet(StringComparer.Ordinal));

    /// <summary>The case as Find sees it.</summary>
    public FindCase Case => new(System, Opened.Payload.NominalVolts, Complaint?.Payload.Behaviours ?? [], [.. _readings.Select(r => new Evidence(r.Payload.Test, r.Payload.Value, r.Payload.Choice, r.Payload.Celsius))]) { Tried = Complaint?.Payload.Tried ?? 0, Failed = Complaint?.Payload.Failed ?? 0 };

    /// <summary>The four-way proof of the readings.</summary>
    public Finding Finding => FourWayProof.Assess(Case);

    /// <summary>How many operations are open now.</summary>
    public int OpenOperations => Map is null ? 0 : _removed.Keys.Count(id => Map[id].Kind == OperationKind.Open && !_refitted.ContainsKey(id));

    /// <summary>The fasteners' account.</summary>
    public FastenerCount Count => FastenerCount.ForJob(this);

    /// <summary>Every check of the proof: the family's, and those that follow from this job.</summary>
    public IReadOnlyList<ProofCheck> Checks => [.. System.Checks, .. JobChecks.ForJob(this)];

    /// <summary>The check with this id, or null.</summary>
    public ProofCheck? Check(string id) => System.Check(id) ?? JobChecks.ForJob(this).FirstOrDefault(c => c.Id == id);

    /// <summary>The comeback's first job, or null.</summary>
    public Guid? ComebackOf => Opened.Payload.ComebackOf;

    /// <summary>Whether a check of the proof is held: true, false, or null while it was not taken or cannot be told.</summary>
    public bool? Held(ProofCheck check) =>
        _proofs.TryGetValue(check.Id, out var taken)
            ? check.IsGood(taken.Payload.Value, taken.Payload.Choice, Opened.Payload.NominalVolts, other => _proofs.GetValueOrDefault(other)?.Payload.Value, taken.Payload.Celsius)
            : null;

    /// <summary>What still stands between this job and handing back, in words; empty when nothing does.</summary>
    public IReadOnlyList<string> MissingFromProof => Missing(Checks.Where(c => c.Moment == ProofMoment.End));

    /// <summary>The same for given checks.</summary>
    internal IReadOnlyList<string> Missing(IEnumerable<ProofCheck> checks) =>
    [
        .. checks.Where(c => Held(c) != true).Select(c => _proofs.ContainsKey(c.Id) ? $"Failed: {c.Title}" : c.Title),
        .. SecondsMissing.Select(s => $"Waits for a second person: {s.Why}"),
        .. Differences.Where(d => !IsSigned(d)).Select(d => d.Words.TrimEnd('.')),
        .. Connections.Where(c => c.Payload.On).Select(c => $"Still plugged in for a moment: {c.Payload.What}"),
        .. LeftOvers.Where(l => l.Settled is null).Select(l => $"Left over: {l.Found.Payload.Count} {l.Found.Payload.What}"),
        .. _settings.GroupBy(s => s.Payload.Setting).Select(g => g.Last().Payload).Where(s => !s.Holds).Select(s => $"Not right yet: {s.Words}"),
        .. NotCarried.Select(p => $"Not carried over: {p.Title}"),
        .. ToolsLeft.Where(t => !_toolsBack.ContainsKey(t.Tool)).Select(t => $"Not back: {ToolTitle(t.Tool)}").Distinct(),
    ];

    /// <summary>Folds a job's entries, oldest first, into its state.</summary>
    /// <exception cref="ArgumentException">The first entry does not open a job, or its family is unknown.</exception>
    public static Job Fold(IReadOnlyList<Entry> entries, JobKnowledge knowledge)
    {
        if (entries.Count == 0 || entries[0].Payload is not JobOpened opened)
        {
            throw new ArgumentException("The first entry of a job opens it.", nameof(entries));
        }

        var system = knowledge.Families.System(opened.Family) ?? throw new ArgumentException($"No family “{opened.Family}”.", nameof(entries));
        var (withdrawn, corrected) = Amendments(entries);
        var job = new Job(knowledge, new Recorded<JobOpened>(entries[0], opened), system);
        foreach (var entry in entries)
        {
            var by = withdrawn.GetValueOrDefault(entry.Id);
            var correction = corrected.GetValueOrDefault(entry.Id);
            job._history.Add(new HistoryLine(entry, by, correction));
            job.Head = entry.Position;
            if (by is null)
            {
                job.Apply(entry, correction is null ? entry.Payload : job.Corrected(entry, correction));
            }
            else
            {
                job.Began(entry);
            }
        }

        return job;
    }

    /// <summary>
    /// Goes through a job's entries as they came, and looks at each with the job as it stood before it. Takes time in proportion to the
    /// entries, but for withdrawals and corrections, which change what was before.
    /// </summary>
    /// <param name="entries">Oldest first; the first opens the job.</param>
    /// <param name="knowledge">What the fold needs to know.</param>
    /// <param name="look">Is shown each entry but the first with the job before it, which it must not keep.</param>
    /// <returns>The job after all of them.</returns>
    public static Job Walk(IReadOnlyList<Entry> entries, JobKnowledge knowledge, Action<Job, Entry> look)
    {
        var job = Fold([.. entries.Take(1)], knowledge);
        var named = new HashSet<Guid>();
        for (var i = 1; i < entries.Count; i++)
        {
            var entry = entries[i];
            look(job, entry);
            if (entry.Payload is EntryWithdrawn or EntryCorrected || named.Contains(entry.Id))
            {
                named.Add(entry.Payload switch { EntryWithdrawn w => w.Entry, EntryCorrected c => c.Entry, _ => entry.Id });
                job = Fold([.. entries.Take(i + 1)], knowledge);
            }
            else
            {
                job._history.Add(new HistoryLine(entry, null, null));
                job.Head = entry.Position;
                job.Apply(entry, entry.Payload);
            }
        }

        return job;
    }

    /// <summary>The job as it would stand if these entries came too; nothing is kept.</summary>
    /// <param name="more">In order; their positions do not matter.</param>
    public Job With(IEnumerable<EntryDraft> more)
    {
        List<Entry> entries = [.. Entries];
        foreach (var draft in more)
        {
            entries.Add(new Entry(draft, entries.Count + 1, draft.Actor, draft.OccurredAt));
        }

        return Fold(entries, _knowledge);
    }

    /// <summary>The map with this SHA-256, or null when it is not known.</summary>
    public AccessMap? KnownMap(string hash) => _knowledge.Maps.GetValueOrDefault(hash);

    // Later amendments are looked at first, so that withdrawing a withdrawal brings the first entry back. They name ids, not
    // places, and so hold also for an entry that arrives after them.
    private static (Dictionary<Guid, Entry> Withdrawn, Dictionary<Guid, Entry> Corrected) Amendments(IReadOnlyList<Entry> entries)
    {
        var withdrawn = new Dictionary<Guid, Entry>();
        var corrected = new Dictionary<Guid, Entry>();
        // What asks for a second person is not the author's to take back.
        var asked = entries.Where(e => e.Payload is SecondWanted).Select(e => e.Id).ToHashSet();
        for (var i = entries.Count - 1; i >= 0; i--)
        {
            if (withdrawn.ContainsKey(entries[i].Id))
            {
                continue;
            }

            if (entries[i].Payload is EntryWithdrawn w && !asked.Contains(w.Entry))
            {
                withdrawn.TryAdd(w.Entry, entries[i]);
            }
            else if (entries[i].Payload is EntryCorrected c && !asked.Contains(c.Entry))
            {
                corrected.TryAdd(c.Entry, entries[i]);
            }
        }

        return (withdrawn, corrected);
    }

    // A correction can arrive before what it corrects, and is then not checked against it: one that does not fit is shown.
    private Payload Corrected(Entry entry, Entry correction)
    {
        try
        {
            return EntryKinds.ReadCorrection(EntryKinds.ForPayload(entry.Payload), ((EntryCorrected)correction.Payload).Payload);
        }
        catch (RefusedFileException e)
        {
            _disputes.Add(new Dispute(correction, e.Message));
            return entry.Payload;
        }
    }

    /// <summary>What is known of the part that is exchanged, or null.</summary>
    public PartKnowledge? Part => _knowledge.Families.Part(Opened.Payload.Family, Opened.Payload.Model);

    /// <summary>Pieces that should have gone over to the new part; asked only once the old one is out.</summary>
    public IReadOnlyList<CarriedPiece> NotCarried => Decision?.Payload.Act == DecisionAct.Elsewhere || Route is null || (Decision?.Payload.RepairId is { } repair && System.Repair(repair) is { IsMotor: false }) ? [] : [.. (Part?.Carried ?? []).Where(p => !_carried.ContainsKey(p.Id))];

    /// <summary>Differences between what came off and what is accounted for; what only lies in the tray still is none before the way back is done.</summary>
    public IReadOnlyList<FastenerAccount> Differences => Count.Unaccounted;

    /// <summary>The entry of this id, or null when it is not here.</summary>
    public Entry? Find(Guid id) => _history.FirstOrDefault(h => h.Entry.Id == id)?.Entry;

    /// <summary>An entry of this job in a few words, by its id.</summary>
    public string DescribeEntry(Guid id) => Find(id) is { } entry ? entry.Payload.Describe(this) : "an entry not yet here";

    private void Apply(Entry entry, Payload payload)
    {
        if (JobRules.OutOfOrder(this, payload, entry.TrustedAt) is { } reason)
        {
            _disputes.Add(new Dispute(entry, reason));
        }

        payload.Apply(this, entry);
    }
}
