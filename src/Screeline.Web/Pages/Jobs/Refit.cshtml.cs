using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;
using Screeline.Core.Proof;
using Screeline.Core.Quantities;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages.Jobs;

/// <summary>The way back, step by step, with torques and gates.</summary>
public sealed class RefitModel(JobStore jobs, PeopleStore people, Desk desk, ShippedLibrary library, ToolStore tools) : StepPage(jobs, people, desk, library)
{
    private IReadOnlyList<string>? _order;
    private int _orderAt = -1;
    private IReadOnlySet<string> _owned = new HashSet<string>();

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

    public override string? Due => Order.FirstOrDefault(id => !Job.Refitted.ContainsKey(id));

    /// <summary>The checks a gate waits for.</summary>
    public IReadOnlyList<ProofRow> Checks => [.. (RefitStep?.Checks ?? []).Select(id => Job.System.Check(id)).OfType<Core.Diagnosis.ProofCheck>().Select(c => ProofSheet.Row(Job, c))];

    /// <summary>Checks that are still open or failed.</summary>
    public int OpenChecks => Checks.Count(c => c.Held != true);

    protected override async Task PrepareAsync() => _owned = await tools.OwnedAsync(HttpContext.RequestAborted);

    public void OnGet()
    {
    }

    /// <summary>What would go back if nothing happened.</summary>
    public FastenerOutcome Expected(Fastener fastener) => FastenerCount.Expected(Job, Shown!, fastener);

    /// <summary>The specified torque told in this device's unit; the field holds it until another value is typed.</summary>
    public string SetValue(Fastener fastener) =>
        fastener.Torque!.Value.Unit == Desk.TorqueUnit ? fastener.Torque.Value.ToString() : fastener.Torque.Value.Told(Desk.TorqueUnit);

    /// <summary>The torque wrench that is owned and reaches a value; null when there is none.</summary>
    public string? Wrench(Figure torque) => torque.Base switch
    {
        >= 20 when _owned.Contains("torque-wrench-20-120") && torque.Base <= 120 => "torque-wrench-20-120",
        >= 5 and <= 25 when _owned.Contains("torque-wrench-5-25") => "torque-wrench-5-25",
        _ => null,
    };

    public async Task<IActionResult> OnPostDoneAsync()
    {
        var step = Request.Form["step"].ToString();
        Asked = step;
        if (Job.Map is null)
        {
            return Refuse("No way in is chosen yet.", StatusCodes.Status409Conflict);
        }

        var payloads = new List<Payload>();
        var outcomes = new List<FastenerOutcome>();
        foreach (var fastener in Job.Map.Operation(step)?.Fasteners ?? [])
        {
            var expected = FastenerCount.Expected(Job, step, fastener);
            outcomes.Add(new FastenerOutcome(fastener.Id, Count($"back-{fastener.Id}", expected.Back), Count($"renewed-{fastener.Id}", expected.Renewed), Count($"missing-{fastener.Id}", expected.Missing)));
            if (fastener.Torque is null)
            {
                continue;
            }

            var parsed = QuantityParser.Read(QuantityKind.Torque, Request.Form[$"torque-{fastener.Id}"], Desk.TorqueUnit);
            if (parsed.Figure is { } set)
            {
                payloads.Add(new TorqueSet(step, fastener.Id, set, Wrench(set)));
            }
            else
            {
                FieldFaults[$"torque-{fastener.Id}"] = parsed.Reason!;
            }
        }

        return FieldFaults.Count > 0
            ? Refuse(null, StatusCodes.Status422UnprocessableEntity)
            : await KeepAsync([new StepDone(WorkPhase.Refit, step, null, outcomes), .. payloads]);
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
