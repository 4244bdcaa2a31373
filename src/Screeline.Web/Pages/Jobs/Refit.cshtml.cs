using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Proof;
using Screeline.Core.Quantities;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The way back, step by step, with torques and gates.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class RefitModel(JobStore jobs, PeopleStore people, CurrentPerson current, DevicePreferences preferences, Workshop shop) : StepPage(jobs, people, current, shop)
{
    private IReadOnlyList<string>? _order;
    private int _orderAt = -1;

    public override Stage Stage => Stage.Refit;

    public override WorkPhase Phase => WorkPhase.Refit;

    public override IReadOnlyList<string> Order
    {
        get
        {
            if (_order is null || _orderAt != Job.Head)
            {
                (_order, _orderAt) = (Core.Jobs.Refit.Order(Job), Job.Head);
            }

            return _order;
        }
    }

    /// <summary>The checks a gate waits for.</summary>
    public IReadOnlyList<ProofRow> Checks => [.. (RefitStep?.Checks ?? []).Select(Job.Check).OfType<Core.Diagnosis.ProofCheck>().Select(c => ProofSheet.Row(Job, c))];

    /// <summary>The setting of the step shown that does not hold yet; null when none holds it up.</summary>
    public string? OpenSetting => RefitStep?.Setting is { } kind && Job.SettingAt(Shown, kind)?.Payload.Holds != true ? kind : null;

    /// <summary>The unit torques are told in beside the specified one.</summary>
    public Unit TorqueUnit => preferences.TorqueUnit;

    /// <inheritdoc/>
    protected override Unit Unit => TorqueUnit;

    /// <summary>Settings offered at the step shown: its own, or, when everything is closed, those of the family.</summary>
    public IReadOnlyList<string> SettingsHere => RefitStep?.Setting is { } kind ? [kind] : Due is null && !Map.RefitSteps.Any(s => s.Setting is not null) ? Job.System.Settings : [];

    /// <summary>Whether nobody knows what a group is tightened to, so that it is asked, once; or whether it was told here and can be told again.</summary>
    public bool AsksFigure(Fastener fastener) =>
        fastener.Kind is not ("clip" or "push-pin" or "pin") && (Job.FigureOf(Shown!, fastener.Id) is not null || (fastener.Torque is null && (Job.IsRecorded || Job.Things.Any(t => t.Id == Shown))));

    /// <summary>Whether a joint is asked about because it is large enough to hold a vehicle together: from M10 up; where the thread is not known, from the heads that such threads have.</summary>
    public static bool MayBeStructural(Fastener fastener) =>
        fastener.Metric is { } thread ? thread.Diameter >= 10 : Core.Fastening.Drive.Read(fastener.Drive).Drive is { } head && (head.Shape switch { DriveShape.Hex => head.Size >= 15, DriveShape.HexKey => head.Size >= 8, DriveShape.Lobe => head.Size >= 50, DriveShape.ExternalLobe => head.Size >= 14, _ => false });

    /// <summary>Whether it is asked here.</summary>
    public bool AsksStructural(Fastener fastener) => MayBeStructural(fastener) || Job.FigureOf(Shown!, fastener.Id)?.Payload.Structural is not null;

    /// <summary>Checks that are still open or failed.</summary>
    public int OpenChecks => Checks.Count(c => c.Held != true);

    public void OnGet()
    {
    }

    /// <summary>What would go back if nothing happened.</summary>
    public FastenerOutcome Expected(Fastener fastener) => FastenerCount.Expected(Job, Shown!, fastener);

    /// <summary>All there is to say about tightening a group, with the adaptor and drive of this job.</summary>
    public TorqueAdvice Advice(Fastener fastener) => TorqueAdvice.For(fastener, Tools.Wrenches, ToolCrib.Today);

    /// <summary>The torque that is used, told in this device's unit; the field holds it until another value is typed.</summary>
    public string SetValue(TorqueAdvice advice) => advice.Target is not { } target ? ""
        : target.Unit == TorqueUnit ? target.ToString() : target.Format(TorqueUnit);

    /// <summary>
    /// Groups of which one press can say that the wrench was set to what is specified, because the button names each: not more than can be read, and
    /// none whose figure is in doubt or that no wrench here reaches.
    /// </summary>
    public IReadOnlyList<TorqueAdvice> Named =>
        Fasteners.Select(Advice).Where(a => a.Target is not null && a.Settings.Count > 0 && a.Doubt is null).ToList() is { Count: <= MostNamed } few ? few : [];

    private const int MostNamed = 4;

    /// <summary>The wrench the form names, if it reaches the value; else the best.</summary>
    private WrenchSetting? Chosen(Figure set, Fastener fastener)
    {
        var settings = WrenchChoice.For(set, Tools.Wrenches, fastener.Adaptor, ToolCrib.Today);
        return settings.FirstOrDefault(w => w.Wrench.Id == Request.Form[$"wrench-{fastener.Id}"]) ?? settings.FirstOrDefault();
    }

    public async Task<IActionResult> OnPostDoneAsync()
    {
        var step = Request.Form["step"].ToString();
        Asked = step;
        if (Job.Map is null)
        {
            return Refuse("No way in is chosen yet.", StatusCodes.Status409Conflict);
        }

        if (Counting is { } counting)
        {
            return Refuse($"{counting.Fastener.Words(counting.Fastener.Count - counting.Count)} not counted yet: {counting.Fastener.Holds}.", StatusCodes.Status409Conflict);
        }

        var payloads = new List<Payload>();
        var outcomes = new List<FastenerOutcome>();
        foreach (var fastener in Job.FastenersOf(step))
        {
            var expected = FastenerCount.Expected(Job, step, fastener);
            outcomes.Add(new FastenerOutcome(fastener.Id, Count($"back-{fastener.Id}", expected.Back), Count($"renewed-{fastener.Id}", expected.Renewed), Count($"missing-{fastener.Id}", expected.Missing)));
            if (Torque(step, fastener) is { } set)
            {
                payloads.Add(set);
            }
        }

        if (FieldFaults.Count > 0)
        {
            return Refuse(null, StatusCodes.Status422UnprocessableEntity);
        }

        Payload[] early = Request.Form["early"] == "yes" && Job.Waits(step, Now) is { Payload.Kind: not TimerKind.Restraint } wait ? [new TimerEnded(wait.Entry.Id)] : [];
        return await KeepAsync([.. early, new StepDone(WorkPhase.Refit, step, null, outcomes), .. payloads]);
    }

    // What the form says of how a group was tightened; null where nobody said. What cannot be meant is asked about first.
    private TorqueSet? Torque(string step, Fastener fastener)
    {
        var (field, typed, why) = ($"torque-{fastener.Id}", Request.Form[$"torque-{fastener.Id}"].ToString().Trim(), Request.Form[$"why-{fastener.Id}"].ToString().Trim());
        // What was typed says by itself what it is about.
        var how = Request.Form[$"how-{fastener.Id}"].ToString() is { Length: > 0 } chosen ? chosen : typed.Length > 0 ? "other" : why.Length > 0 ? "not" : "";
        if (Request.Form["all"] == "wrench" && Named.Any(a => a.Fastener.Id == fastener.Id))
        {
            if (how is not ("" or "wrench"))
            {
                FieldFaults[field] = "Something else is chosen here than the button says. Press the other button, or choose the wrench here.";
                return null;
            }

            how = "wrench";
        }

        var advice = Advice(fastener);
        switch (how)
        {
            case "hand":
                return new TorqueSet(step, fastener.Id, TorqueHow.ByHand, null, null);
            case "not" when why.Length < 3:
                FieldFaults[field] = "Why not? A few words.";
                return null;
            case "not":
                return new TorqueSet(step, fastener.Id, TorqueHow.NotDone, null, null, Why: why);
            case "wrench" when advice.Target is null:
                FieldFaults[field] = "Nobody specifies a torque here: type what was set.";
                return null;
            case "wrench":
                return ByWrench(step, fastener, QuantityParser.Read(QuantityKind.Torque, SetValue(advice), TorqueUnit).Figure!.Value);
            case "other":
                break;
            default:
                return null;
        }

        var parsed = QuantityParser.Read(QuantityKind.Torque, typed, TorqueUnit);
        if (parsed.Figure is not { } set)
        {
            FieldFaults[field] = parsed.Reason!;
            return null;
        }

        // What a unit's rounding prints is not another value.
        if (advice.DoubtAbout(set) is { } doubt && Request.Form[$"sure-{fastener.Id}"] != "yes")
        {
            FieldFaults[field] = doubt;
            return null;
        }

        return ByWrench(step, fastener, set);
    }

    private TorqueSet ByWrench(string step, Fastener fastener, Figure set)
    {
        var wrench = Chosen(set, fastener);
        return new TorqueSet(step, fastener.Id, TorqueHow.Wrench, set, wrench?.Wrench.Id, wrench is null || wrench.Set == set ? null : wrench.Set, fastener.Torque?.AngleDegrees);
    }

    public Task<IActionResult> OnPostCheckAsync() => KeepCheckAsync();

    private int Count(string field, int otherwise)
    {
        var text = Request.Form[field].ToString().Trim();
        if (text.Length == 0)
        {
            return otherwise;
        }

        if (int.TryParse(text, out var number) && number is >= 0 and <= 500)
        {
            return number;
        }

        FieldFaults[field] = $"“{text}” is not a count.";
        return 0;
    }
}
