using Screeline.Core.Access;
using Screeline.Core.Diagnosis;
using Screeline.Core.Formats;
using Screeline.Core.Quantities;

namespace Screeline.Core.Jobs;

/// <summary>What may follow what in a job, and what an entry may say at all.</summary>
public static class JobRules
{
    /// <summary>
    /// Why a payload does not fit the job as it stands; null when it does. Being out of order never makes an observation
    /// untrue: it is kept and shown as disputed.
    /// </summary>
    /// <param name="job">The job as it stands.</param>
    /// <param name="payload">What is said.</param>
    /// <param name="at">When it happened; a wait that runs then is not over.</param>
    public static string? OutOfOrder(Job job, Payload payload, DateTimeOffset at) => payload switch
    {
        JobOpened => job.Head > 1 ? "The job is open already." : null,
        _ when job.HandedBack is not null => "The job was handed back.",
        DecisionMade d => job.Complaint is null ? "No behaviour is noted yet."
            : job.Removed.Count > 0 && job.Route is not null ? "The vehicle is apart already: withdraw the steps first."
            : d.Act == DecisionAct.Elsewhere && job.OpenOperations > 0 ? "The vehicle is apart: choose a repair that has a way, and take the way back."
            : d.Act == DecisionAct.Proven && !ProofStands(job, d) ? "The four-way proof is not complete: this would be a guess, and is called one."
            : null,
        SentBack s => job.Decision is null ? "Nothing is decided yet that could be sent back."
            : s.Step is null ? (job.Differences.Where(x => x.Refitted && !job.IsSigned(x)).ToList() is [var difference, ..] ? $"Settle the count first: {difference.Words}" : null)
            : job.AgainFrom(s.Step).Count == 0 ? $"“{s.Step}” is not closed."
            : null,
        PartCancelled => job.PartTaken is null ? "No part is on order." : null,
        RouteTaken r => job.Decision is null ? "It is not decided yet what is repaired."
            : job.Decision.Payload.Act == DecisionAct.Elsewhere ? "The fault lies elsewhere: nothing comes apart."
            : job.Refitted.Count > 0 ? "The way back has begun: withdraw its steps first."
            : job.Removed.Keys.FirstOrDefault(id => !r.Removal.Contains(id)) is { } off ? $"“{off}” is off already and must stay part of the way."
            : null,
        StepDone step => StepOutOfOrder(job, step, at),
        TimerEnded t => job.Timers.FirstOrDefault(x => x.Entry.Id == t.Timer) is not { } timer ? "That wait never began."
            : timer.Payload.Kind == TimerKind.Restraint ? "That wait is the maker's: nobody shortens it." : null,
        TorqueSet t => job.Removed.ContainsKey(t.Step) ? null : $"“{t.Step}” was not opened.",
        // Judged by what was asked for then.
        HandedBack h => job.IsDone(Stage.Refit) && job.Missing(AskedThen(job, h)) is { Count: 0 } ? null : $"Not proved yet. {string.Join(". ", job.Missing(AskedThen(job, h)).Take(3))}",
        _ => null,
    };

    // Who names no repair that the family knows means the motor.
    private static bool ProofStands(Job job, DecisionMade d) =>
        (d.RepairId is { } id ? job.System.Repair(id) : null) is { } repair ? job.Finding.Proves(repair) : job.Finding.Verdict == FindVerdict.MotorProven;

    private static IEnumerable<ProofCheck> AskedThen(Job job, HandedBack h) =>
        (h.Checks ?? [.. job.Checks.Where(c => c.Moment == ProofMoment.End && job.Proofs.ContainsKey(c.Id)).Select(c => c.Id)]).Select(job.Check).OfType<ProofCheck>();

    private static string? StepOutOfOrder(Job job, StepDone step, DateTimeOffset at)
    {
        if (job.Map is not null && job.Waits(step.Step, at) is { } wait)
        {
            return $"Its wait runs until {wait.EndsAt:HH:mm}.";
        }

        if (job.Map is not { } map || job.Route is null)
        {
            return "No way in is chosen yet.";
        }

        if (step.Phase == WorkPhase.Apart)
        {
            return map.Operation(step.Step) is not { } operation || !job.Set.Contains(step.Step) ? $"“{step.Step}” does not belong to the way in."
                : operation is { WaitMinutes: > 0 } && operation.Cautions.Contains("restraint") && !job.Timers.Any(t => t.Payload.Step == step.Step && t.Payload.Kind == TimerKind.Restraint && !t.Runs(at)) ? "The maker's waiting time was not taken: start it."
                : job.Removed.TryGetValue(step.Step, out var before) ? $"Ticked already at {before.Entry.Draft.OccurredAt:HH:mm}."
                : Underneath(map, operation) && job.SecondsMissing.FirstOrDefault(x => x.Tick.Payload is StepDone done && SecondPerson.IsSupport(job, done.Step)) is { } unseen ? $"Nobody goes under it before a second person has looked. {unseen.Why}."
                : WalkRules.MayRemove(operation, job.Removed.Keys.ToHashSet(StringComparer.Ordinal)) ? null
                : $"Before “{operation.Title}”: {Missing(map, operation, job)}.";
        }

        if (job.Refitted.TryGetValue(step.Step, out var earlier))
        {
            return $"Ticked already at {earlier.Entry.Draft.OccurredAt:HH:mm}.";
        }

        if (!job.IsDone(Stage.TakeApart))
        {
            return "Not everything on the way in is ticked yet.";
        }

        var progress = job.RefitProgress;
        if (!WalkRules.RefitActions(map, progress.Set).Contains(step.Step))
        {
            return $"“{step.Step}” does not belong to the way back.";
        }

        if (!WalkRules.MayRefit(map, step.Step, progress))
        {
            return $"“{Refit.Title(map, step.Step)}” is not possible yet: something it needs open is closed, or a step comes before it.";
        }

        if (Refit.GateBefore(job, step.Step) is { } gate)
        {
            return job.SecondMissingAt(gate) is { } unsigned ? $"The gate holds until a second person has signed. {unsigned.Why}." : $"Gate first: {Refit.Title(map, gate)}.";
        }

        if (WalkRules.IsGate(map, step.Step) && job.SecondsMissing.FirstOrDefault(x => x.Tick.Payload is TorqueSet) is { } loose)
        {
            return $"The gate holds until a second person has signed. {loose.Why}.";
        }

        var open = (map.Step(step.Step)?.Checks ?? []).Select(job.Check).OfType<ProofCheck>().Where(c => job.Held(c) != true).ToList();
        return open.Count > 0 ? $"The gate holds: {string.Join("; ", open.Select(c => c.Title))}."
            : map.Step(step.Step)?.Setting is { } setting && job.SettingAt(step.Step, setting) is var made && made?.Payload.Holds != true
                ? made is null ? "The gate holds: the setting is not kept yet." : $"The gate holds: {made.Payload.Words}."
            : null;
    }

    private static bool Underneath(AccessMap map, Operation operation) => map.Positions.FirstOrDefault(p => p.Id == operation.Position)?.Requires.Contains(AccessMapChecks.Supported) == true;

    private static string Missing(AccessMap map, Operation operation, Job job) =>
        string.Join(", ", operation.Needs.Names.Where(id => job.Set.Contains(id) && !job.Removed.ContainsKey(id)).Select(id => map[id].Title).DefaultIfEmpty("what it needs"));

    /// <summary>
    /// What is wrong with a payload whatever stands before it: names that do not exist, figures that cannot be. Each fault with
    /// its path inside the payload. Such an entry is refused.
    /// </summary>
    public static IReadOnlyList<FormatFault> Malformed(Job job, Payload payload)
    {
        var faults = new List<FormatFault>();
        void Fault(string path, string message) => faults.Add(new FormatFault("$.payload." + path, message));
        void Text(string path, string? text, int longest = 2000)
        {
            if (text is { } t && t.Length > longest)
            {
                Fault(path, $"longer than {longest} characters");
            }
        }

        void Answer(Question? question, string key, string id, Figure? value, string? choice)
        {
            if (question is null)
            {
                Fault(key, $"“{id}” is not known in {job.System.Title}");
            }
            else if (question.Unit is null && (choice is null || value is not null || question.Choices.All(c => c.Id != choice)))
            {
                Fault("choice", $"one of: {string.Join(", ", question.Choices.Select(c => c.Id))}");
            }
            else if (question.Unit is not null && (value is null || choice is not null))
            {
                Fault("value", $"{QuantityParser.Word(question.Unit.Kind)} is wanted here");
            }
            else if (value is { } figure && question.Doubt(figure, job.Opened.Payload.NominalVolts) is { } doubt)
            {
                Fault("value", doubt);
            }
        }

        switch (payload)
        {
            case ComplaintNoted p:
                Text("words", p.Words);
                Text("when", p.When);
                Text("lately", p.Lately);
                if (p.Behaviours.Count == 0)
                {
                    Fault("behaviours", "at least one observed behaviour");
                }

                foreach (var (id, i) in p.Behaviours.Select((id, i) => (id, i)).Where(x => job.System.Behaviours.All(b => b.Id != x.id)))
                {
                    Fault($"behaviours[{i}]", $"“{id}” is not known in {job.System.Title}");
                }

                if (p.Tried is < 0 or > 1000 || p.Failed < 0 || p.Failed > p.Tried)
                {
                    Fault("failed", $"failed {p.Failed} of {p.Tried} tries cannot be");
                }

                break;
            case ReadingTaken p: Answer(job.System.Test(p.Test), "test", p.Test, p.Value, p.Choice); break;
            case ProofTaken p: Answer(job.Check(p.Check), "check", p.Check, p.Value, p.Choice); break;
            case DecisionMade p:
                Text("why", p.Why);
                Text("repair", p.Repair, 200);
                if (p.RepairId is { } repair && job.System.Repair(repair) is null)
                {
                    Fault("repair_id", $"“{repair}” is not known in {job.System.Title}");
                }

                break;
            case RouteTaken p: CheckRoute(job, p, Fault); break;
            case StepDone p: CheckStep(job, p, Fault); break;
            case FastenerFound p: CheckFound(job, p, Fault); break;
            case TorqueSet p:
                if (job.FastenersOf(p.Step).All(f => f.Id != p.Fastener))
                {
                    Fault("fastener", $"“{p.Fastener}” is not in step “{p.Step}”");
                }

                if (p.Value.Kind != QuantityKind.Torque || p.Value.Number <= 0)
                {
                    Fault("value", "a torque above nothing is wanted here");
                }

                break;
            case ExtraFound or StepException or TemporaryConnection or FastenersCounted or TimerStarted or NoteAdded or PictureTaken or PinsSet or PartCompared or PartChosen
                or PartCarried or SettingKept or ToolLeft or LeftOverFound or LeftOverSettled or DifferenceSigned: WorkRules.Check(job, payload, Fault); break;
            case ToolBack p when job.ToolsLeft.All(t => t.Tool != p.Tool): Fault("tool", $"“{p.Tool}” was not left in the vehicle"); break;
            case WaitingSet p: Text("for", p.For, 200); break;
            case HandedBack p:
                Text("found", p.Found);
                Text("left", p.Left);
                Text("watch", p.Watch);
                CheckClosing(job, p, Fault);
                break;
            case SentBack p:
                Text("why", p.Why);
                if (string.IsNullOrWhiteSpace(p.Why))
                {
                    Fault("why", "why, in a few words");
                }

                if (p.Check is { } failed && job.Check(failed) is null)
                {
                    Fault("check", $"“{failed}” is not known in {job.System.Title}");
                }

                if (p.Step is { } again && job.Map?.Operation(again) is null && job.Map?.Step(again) is null)
                {
                    Fault("step", $"no step “{again}”");
                }

                break;
            case PartCancelled p: Text("why", p.Why); break;
            case SecondWanted p: Text("why", p.Why); break;
            case EntryWithdrawn p when job.History.Any(h => h.Entry.Id == p.Entry && h.Entry.Payload is SecondWanted): Fault("entry", "a second person's look is not taken back"); break;
            case EntryWithdrawn p when p.Entry == job.Opened.Entry.Id: Fault("entry", "the opening of a job cannot be withdrawn"); break;
            case EntryCorrected p: CheckCorrection(job, p, Fault); break;
        }

        return faults;
    }

    // Whoever closes a job says what killed the part, and which checks hold.
    private static void CheckClosing(Job job, HandedBack p, Action<string, string> fault)
    {
        var asked = job.Checks.Where(c => c.Moment == ProofMoment.End).Select(c => c.Id).ToList();
        if (p.Checks is null || asked.Any(id => !p.Checks.Contains(id)))
        {
            fault("checks", $"every check that is asked for: {string.Join(", ", asked)}");
        }

        if (job.Decision?.Payload.RepairId is { } repair && job.System.Repair(repair) is { Nothing: true })
        {
            return;
        }

        if (p.Cause is null)
        {
            fault("cause", "what killed it; not known is an answer too, with a word why");
        }
        else if (p.Cause.Cause != CauseSaid.Unknown && job.System.RootCauses.All(c => c.Id != p.Cause.Cause))
        {
            fault("cause.cause", $"one of: {string.Join(", ", job.System.RootCauses.Select(c => c.Id).Append(CauseSaid.Unknown))}");
        }
        else if (p.Cause.Done.Trim().Length < 3)
        {
            fault("cause.done", p.Cause.Cause == CauseSaid.Unknown ? "why it is not known" : "what was done about it");
        }
        else if (p.Cause.Done.Length > 2000)
        {
            fault("cause.done", "longer than 2000 characters");
        }
    }

    private static void CheckRoute(Job job, RouteTaken p, Action<string, string> fault)
    {
        if (job.KnownMap(p.Map) is not { } map)
        {
            fault("map", "no map with this SHA-256 is kept here");
            return;
        }

        if (map.Targets.FirstOrDefault(t => t.Id == p.Target) is not { } target)
        {
            fault("target", $"no target “{p.Target}”");
        }
        else if (p.Removal.Count == 0 || (p.Removal[^1] != target.Operation && !job.Removed.ContainsKey(target.Operation)))
        {
            fault("removal", $"a way in ends with “{target.Operation}”");
        }

        // What is off already is off, however it came to be.
        var done = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (id, i) in p.Removal.Select((id, i) => (id, i)))
        {
            if (map.Operation(id) is not { } operation || done.Contains(id) || (!job.Removed.ContainsKey(id) && !WalkRules.MayRemove(operation, done)))
            {
                fault($"removal[{i}]", map.Operation(id) is null ? $"no operation “{id}”" : $"“{id}” is not possible there");
            }

            done.Add(id);
        }

        if (!Refit.Holds(map, p.Refit, new RefitProgress(done, new HashSet<string>(), new HashSet<string>())))
        {
            fault("refit", "this is no valid way back from there");
        }
    }

    private static void CheckStep(Job job, StepDone p, Action<string, string> fault)
    {
        var operation = job.Map?.Operation(p.Step);
        if (operation is null && (p.Phase == WorkPhase.Apart || job.Map?.Step(p.Step) is null))
        {
            fault("step", $"no step “{p.Step}”");
            return;
        }

        if (p.Cell is < 1 or > 999)
        {
            fault("cell", "a cell from 1 to 999");
        }

        foreach (var (o, i) in p.Fasteners.Select((o, i) => (o, i)))
        {
            var count = job.FastenersOf(p.Step).FirstOrDefault(f => f.Id == o.Fastener)?.Count;
            if (count is null || p.Phase == WorkPhase.Apart || p.Fasteners.Count(x => x.Fastener == o.Fastener) > 1)
            {
                fault($"fasteners[{i}].fastener", $"“{o.Fastener}” has no place here");
            }
            else if (o.Back < 0 || o.Renewed < 0 || o.Missing < 0 || o.Back + o.Renewed + o.Missing > count)
            {
                fault($"fasteners[{i}]", $"{o.Back} back, {o.Renewed} renewed, {o.Missing} missing: there are {count}");
            }
        }
    }

    private static void CheckFound(Job job, FastenerFound p, Action<string, string> fault)
    {
        var fastener = job.FastenersOf(p.Step).FirstOrDefault(f => f.Id == p.Fastener);
        if (fastener is null)
        {
            fault("fastener", $"“{p.Fastener}” is not in step “{p.Step}”");
        }
        else if (p.Count < 1 || p.Count > fastener.Count)
        {
            fault("count", $"1 to {fastener.Count}");
        }

        if (p.Size?.Length > 40)
        {
            fault("size", "longer than 40 characters");
        }

        if (p.Note?.Length > 2000)
        {
            fault("note", "longer than 2000 characters");
        }
    }

    private static void CheckCorrection(Job job, EntryCorrected p, Action<string, string> fault)
    {
        // An entry not yet sent cannot be looked at; the fold reads the correction when it arrives.
        if (job.History.FirstOrDefault(h => h.Entry.Id == p.Entry)?.Entry is not { } entry)
        {
            return;
        }

        if (entry.Payload is JobOpened or EntryWithdrawn or EntryCorrected or SecondWanted or SecondSigned)
        {
            fault("entry", $"{EntryKinds.Of(entry.Payload).Name} is withdrawn, not corrected");
            return;
        }

        try
        {
            var corrected = EntryKinds.Read(EntryKinds.Of(entry.Payload).Tag, p.Payload);
            foreach (var inner in Malformed(job, corrected))
            {
                fault("payload" + inner.Path["$.payload".Length..], inner.Message);
            }
        }
        catch (RefusedFileException e)
        {
            e.Faults.ToList().ForEach(f => fault("payload" + f.Path["$.payload".Length..], f.Message));
        }
    }
}
