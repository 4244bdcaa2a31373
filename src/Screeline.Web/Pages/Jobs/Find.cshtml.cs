using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Data;
using Screeline.Web.Drawing;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Jobs;

/// <summary>Readings, beliefs, the four-way proof, the next test, stop or go on, and the decision.</summary>
[Allow(Role.Viewer, Role.Apprentice)]
public sealed class FindModel(JobStore jobs, PeopleStore people, CurrentPerson current, DevicePreferences preferences, Diagnoser diagnoser, VehicleParameterStore parameters, ShopFigureStore figures) : JobPage(jobs, people, current)
{

    public override Stage Stage => Stage.Find;

    /// <summary>The test asked for by the person; null for the one that comes next.</summary>
    [BindProperty(SupportsGet = true, Name = "test")]
    public string? Asked { get; set; }

    /// <summary>The point of the drawing that was pressed, or null.</summary>
    [BindProperty(SupportsGet = true, Name = "at")]
    public string? At { get; set; }

    /// <summary>The job judged.</summary>
    public JudgedJob Judged { get; private set; } = null!;

    public Judgement Judgement => Judged.Judgement;

    public MoneyDecision Money => Judgement.Decision;

    /// <summary>Tests at the point that was pressed.</summary>
    public IReadOnlyList<FaultTest> Here => At is null ? [] : [.. Job.System.Tests.Where(t => t.Probes.Contains(At))];

    /// <summary>What is proposed next, or null when nothing would tell more.</summary>
    public NextTest? Next => Judgement.Next.FirstOrDefault();

    /// <summary>The test that the field stands for.</summary>
    public FaultTest Test => Job.System.Test(Asked ?? "")
        ?? Judgement.Next.Select(n => n.Test).FirstOrDefault(Here.Contains) ?? Here.FirstOrDefault()
        ?? Next?.Test ?? Job.System.Tests.First(t => !t.Complaint);

    /// <summary>Whether the test was asked for rather than proposed.</summary>
    public bool ByHand => Test != Next?.Test;

    public decimal Volts => Job.Opened.Payload.NominalVolts;

    public double Celsius => Judged.Setting.Celsius;

    public bool UsesHistory => preferences.UsesHistory;

    /// <summary>The circuit for the test at hand.</summary>
    public CircuitPicture Picture => new(Job.System, Test, SampledCircuit.UsualCurrents(Job.System, Judged.Setting, Test.State), Job.Case.Good, Job.Decision is null);

    public async Task OnGetAsync() => await JudgeAsync();

    protected override async Task PrepareAsync() => await JudgeAsync();

    /// <summary>The evidence line of a test's reading that counts, or null.</summary>
    public EvidenceLine? EvidenceOf(string test) => Judgement.Evidence.FirstOrDefault(e => e.Test?.Id == test);

    public async Task<IActionResult> OnPostReadAsync()
    {
        var id = Request.Form["test"].ToString();
        if (Job.System.Test(id) is not { } test)
        {
            return Refuse($"There is no test “{id}”.", StatusCodes.Status422UnprocessableEntity);
        }

        Asked = id;
        var (value, choice, reason) = test.ReadAnswer(Request.Form["value"], Request.Form["choice"], Volts);
        return reason is not null
            ? RefuseField("value", reason)
            : await KeepAsync([new ReadingTaken(id, value, choice, preferences.Celsius)], Stage.Find, _ => "value");
    }

    /// <summary>Whoever tests came out, or says whether there is anybody to help.</summary>
    public Task<IActionResult> OnPostPlaceAsync() => KeepAsync([new PlaceTold(Request.Form["out"] == "yes", Request.Form["alone"] == "yes")], Stage.Find);

    /// <summary>Puts another figure or answer in the place of a reading.</summary>
    public async Task<IActionResult> OnPostCorrectAsync(Guid target)
    {
        if (Job.Readings.FirstOrDefault(r => r.Entry.Id == target) is not { } kept || Job.System.Test(kept.Payload.Test) is not { } test)
        {
            return Refuse("This reading is not there any more.", StatusCodes.Status409Conflict);
        }

        var (value, choice, reason) = test.ReadAnswer(Request.Form["corrected"], Request.Form["corrected"], Volts);
        return reason is not null
            ? RefuseField($"correct-{target}", reason)
            : await KeepAsync([new EntryCorrected(target, EntryKinds.Write(new ReadingTaken(test.Id, value, choice, kept.Payload.Celsius)))], Stage.Find, _ => $"correct-{target}");
    }

    public async Task<IActionResult> OnPostDecideAsync()
    {
        var act = Request.Form["act"].ToString();
        var words = Request.Form["repair"].ToString().Trim();
        var why = Request.Form["why"].ToString().Trim();
        var repair = Job.System.Repair(Request.Form["repair-id"].ToString());
        if (act is "proven" or "way" && repair is not null)
        {
            return await KeepAsync([Decided(repair, DecisionAct.Proven, Money.Act == Act.Proven ? Money.Why : Job.Finding.Because, act == "way"), .. Dropped(repair)]);
        }

        if (why.Length == 0)
        {
            return RefuseField("why", "Say why in a few words: it stands on the sheet.");
        }

        if (repair is not null)
        {
            return await KeepAsync([Decided(repair, DecisionAct.Guess, why, way: true), .. Dropped(repair)], null, p => p.Split('.')[^1]);
        }

        return words.Length == 0
            ? RefuseField("repair", "What was put right?")
            : await KeepAsync([new DecisionMade(DecisionAct.Elsewhere, words, why)], null, p => p.Split('.')[^1]);
    }

    /// <summary>Keeps what the vehicle is said to have.</summary>
    public async Task<IActionResult> OnPostVehicleAsync()
    {
        var stated = new Dictionary<string, double>(StringComparer.Ordinal);
        foreach (var parameter in Job.System.VehicleParameters.Where(p => p.Id != VehicleSetting.Volts))
        {
            var text = Request.Form[$"p-{parameter.Id}"].ToString().Trim();
            if (text.Length == 0)
            {
                continue;
            }

            if (!TryNumber(text, out var value))
            {
                FieldFaults[$"p-{parameter.Id}"] = $"“{text}” is not a figure.";
                continue;
            }

            stated[parameter.Id] = value;
        }

        var celsius = Request.Form["celsius"].ToString().Trim();
        if (!TryNumber(celsius.Length == 0 ? "20" : celsius, out var degrees))
        {
            FieldFaults["celsius"] = $"“{celsius}” is not a temperature.";
        }

        foreach (var fault in new VehicleSetting(stated, degrees).Faults(Job.System))
        {
            var name = fault.Path.StartsWith("$.vehicle.", StringComparison.Ordinal) ? $"p-{fault.Path["$.vehicle.".Length..]}" : "celsius";
            FieldFaults.TryAdd(name, fault.Message + ".");
        }

        if (FieldFaults.Count > 0)
        {
            return Refuse(null, StatusCodes.Status422UnprocessableEntity);
        }

        await parameters.SetAsync(Job.Opened.Payload.Vehicle, Job.System.Id, stated, HttpContext.RequestAborted);
        preferences.SetCelsius(degrees);
        return ToStage(Stage.Find);
    }

    /// <summary>Keeps the shop's figures for money decisions.</summary>
    public async Task<IActionResult> OnPostMoneyAsync()
    {
        var own = new Dictionary<string, double>(StringComparer.Ordinal);
        var repair = Job.System.Repair(Request.Form["repair-id"].ToString());
        foreach (var (field, name) in new[] { ("labour", "labour_per_hour"), ("comeback", "comeback"), ("minutes", repair is null ? "" : Diagnoser.FigureName("minutes", Job.System, repair.Id)), ("price", repair is null ? "" : Diagnoser.FigureName("price", Job.System, repair.Id)) })
        {
            var text = Request.Form[field].ToString().Trim();
            if (name.Length == 0 || text.Length == 0)
            {
                continue;
            }

            if (!TryNumber(text, out var value) || value is < 0 or > 1_000_000)
            {
                FieldFaults[field] = $"“{text}” is not a figure from 0 to 1000000.";
                continue;
            }

            own[name] = value;
        }

        if (FieldFaults.Count > 0)
        {
            return Refuse(null, StatusCodes.Status422UnprocessableEntity);
        }

        await figures.SetAsync(own, HttpContext.RequestAborted);
        return ToStage(Stage.Find);
    }

    /// <summary>Lets the shop's closed jobs count, or leaves them out, on this device.</summary>
    public IActionResult OnPostHistory()
    {
        preferences.Set(DevicePreferences.HistoryCookie, UsesHistory ? "off" : "on");
        return ToStage(Stage.Find);
    }

    /// <summary>Words for a part of the proof.</summary>
    public static (string Name, string State, string Mark) Line(ProofLine line) =>
    (
        line.Part == ProofPart.Mechanical ? "Free" : line.Part.ToString(),
        line.State switch { ProofState.Shown => "shown", ProofState.Failed => "failed", _ => "not tested yet" },
        line.State switch { ProofState.Shown => "done", ProofState.Failed => "danger", _ => "todo" }
    );

    /// <summary>What the main action does when something is proven.</summary>
    public string ActWords(Repair repair) => repair.IsMotor ? $"Replace the {Job.System.Motor}" : repair.Nothing ? "Nothing to repair" : $"Put right: {repair.Name}";

    /// <summary>A share as the screens print it: never 0 or 100 while it is neither.</summary>
    public static string Percent(double share) => share switch
    {
        < 0.005 => "under 1 %",
        > 0.995 and < 1 => "over 99 %",
        _ => $"{Math.Round(100 * share).ToString(CultureInfo.InvariantCulture)} %",
    };

    /// <summary>A figure of a test in its unit.</summary>
    public static string Figure(FaultTest test, double value) => new Figure(decimal.Round((decimal)Math.Clamp(value, -1e9, 1e9), Math.Abs(value) >= 100 ? 0 : Math.Abs(value) >= 10 ? 1 : 2), test.Unit!).ToString();

    /// <summary>Whether another part than the motor has a way of its own on this vehicle's map.</summary>
    public bool HasAWay(Repair repair) => !repair.IsMotor && Judged.HaveAWay.Contains(repair.Id);

    // A motor that is on order and is not exchanged after all.
    private IEnumerable<Payload> Dropped(Repair repair) => repair.IsMotor ? [] : Cancelled($"It is not the {Job.System.Motor}: {repair.Name}.");

    // What was put right where it was found needs no way in; with a way, or with the vehicle apart, it is planned like the motor's.
    private DecisionMade Decided(Repair repair, DecisionAct act, string why, bool way) =>
        new(repair.IsMotor || (HasAWay(repair) && (way || Job.OpenOperations > 0)) ? act : DecisionAct.Elsewhere, repair.Title, act == DecisionAct.Guess && !repair.IsMotor ? $"A guess: {why}" : why, repair.Id);

    private static bool TryNumber(string text, out double value) => double.TryParse(text.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out value) && double.IsFinite(value);

    private async Task JudgeAsync() => Judged ??= await diagnoser.JudgeAsync(Job, HttpContext.RequestAborted);
}
