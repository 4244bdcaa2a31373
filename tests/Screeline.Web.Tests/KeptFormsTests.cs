using Screeline.Core.Access;
using System.Reflection;
using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;
using Screeline.Core.Proof;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;
using Screeline.Web.Pages.Jobs;

namespace Screeline.Web.Tests;

/// <summary>
/// Every form of Take apart, Refit and Prove and of the pages beside their steps, whatever it says, is kept while the network is away and
/// there afterwards.
/// </summary>
public sealed class KeptFormsTests
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly Guid Ansa = new(Site.Ansa);

    // The handlers' forms are looked for on three jobs that are in all the states they belong to.
    private static readonly string[] Elsewhere =
    [
        // Sealed with a PIN that only the server knows.
        "Second",
        // Reads a file into the fields and keeps nothing.
        "Import",
        // Several steps at once: what each asks for first only the server can look at.
        "ToHere",
        // Takes back a picture that may itself still wait here.
        "NotThis",
    ];

    [Fact]
    public async Task Every_form_is_kept_here_and_sent_when_the_network_is_back()
    {
        // A site of its own: what is found here changes the shop's map.
        await using var site = new Site();
        await site.InitializeAsync();
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var pressed = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (page, tell) in new (string, Func<DemoTelling>)[]
        {
            ("take-apart", Apart), ("take-apart", Recorded), ("take-apart?step=RECORDED", Recorded), ("refit", RecordedBack), ("refit", AtAGate), ("prove", Prove), ("set/belt?rpm=2000&drive=150&driven=50", Beside), ("old-and-new", Beside), ("pictures/PICTURE", Beside),
        })
        {
            var t = tell();
            var number = await StoreAsync(jobs, t);
            var before = t.Done().Entries.Count;
            using var cable = new Cable(site.Address.Port);
            using var b = new Browser(site, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
            b.Open($"/jobs/{number}/{page.Replace("RECORDED", t.Job.Things.LastOrDefault(x => x.Press is not null)?.Id, StringComparison.Ordinal).Replace("PICTURE", t.Job.Pictures.LastOrDefault()?.Entry.Id.ToString(), StringComparison.Ordinal)}");
            b.Until(() => b.Script<bool>("return document.getElementById('frame').dataset.withoutNetwork !== 'steps' || !!document.documentElement.dataset.prefetch"), "the pages ahead are not on this device");
            cable.Cut();
            var waiting = 0;
            // What leads away from here comes last, and a difference is signed for before it is gone: the server takes them in this order.
            foreach (var handler in b.Script<IReadOnlyCollection<object>>(Handlers).Cast<string>().Distinct().Except(Elsewhere).OrderBy(h => h switch { "Account" or "Undo" or "Back" or "Withdraw" => 1, "Lead" or "Otherwise" or "TakeLast" => 2, "Done" => 3, "Strike" => 4, "TakeBack" => 5, _ => 0 }))
            {
                waiting++;
                Assert.Equal("ok", b.RunAsync(Submit, handler));
                b.Until(() => b.Script<string>("return document.querySelector('#kept:not([hidden]) .kept-count')?.textContent ?? ''") == $"{waiting} kept here, not yet sent", $"{handler} is not kept: {b.Script<string>("return ['kept', 'notice'].map(id => document.getElementById(id)?.innerText).join(' ')")}");
                pressed.Add(handler);
            }

            Assert.Equal(before, (await jobs.FindAsync(number))!.Job.Head);
            cable.Mend();
            b.Until(() => b.Script<bool>("return document.getElementById('kept').hidden || !!document.querySelector('.kept-choice')"), $"not sent: {b.Script<string>("return document.getElementById('kept')?.innerText ?? ''")}");
            Assert.Equal("", b.Script<string>("return document.querySelector('.kept-choice')?.innerText ?? ''"));
            Assert.InRange((await jobs.FindAsync(number))!.Job.Head, before + waiting, before + 3 * waiting);
            if (page == "take-apart" && !t.Job.IsRecorded)
            {
                // What was found hidden is in the map's next version too.
                Assert.True(await site.ScalarAsync<bool>("select position(convert_to('as it was seen', 'UTF8') in d.content) > 0 from map_versions v join documents d on d.sha256 = v.sha256 where map_id = 'tideway-starter' order by version desc limit 1"));
            }
        }

        var handlers = new[] { typeof(TakeApartModel), typeof(RefitModel), typeof(ProveModel), typeof(SetModel), typeof(OldAndNewModel), typeof(PicturesModel) }.SelectMany(m => m.GetMethods(BindingFlags.Public | BindingFlags.Instance))
            .Select(m => m.Name).Where(n => n.StartsWith("OnPost", StringComparison.Ordinal)).Select(n => n["OnPost".Length..].Replace("Async", "", StringComparison.Ordinal)).Distinct();
        Assert.Equal(string.Join(' ', handlers.Except(Elsewhere).Order(StringComparer.Ordinal)), string.Join(' ', pressed.Order(StringComparer.Ordinal)));
    }

    private const string Named = "const named = (f, b) => new URLSearchParams(new URL(b.getAttribute('formaction') || f.getAttribute('action'), location.href).search).get('handler');";

    // Every form of the page that keeps something, by what it is called.
    private const string Handlers = Named + "return [...document.querySelectorAll('#frame form')].filter(f => f.method === 'post' && f.querySelector('input[name=entry]')).flatMap(f => [...f.querySelectorAll('button:not([type=button]):not(:disabled), input[type=image]')].map(b => named(f, b)))";

    // Fills what is empty with something that can be so, and presses.
    private const string Submit = Named + """
        const [handler, done] = arguments;
        const form = [...document.querySelectorAll('#frame form')].find(f => f.method === 'post' && f.querySelector('input[name=entry]') && [...f.querySelectorAll('button, input[type=image]')].some(b => named(f, b) === handler));
        if (!form) { done(`no form ${handler}`); return; }
        const said = { value: '0.1', count: '1', many: '2', minutes: '5', length: '12', thread: 'M8', size: 'hex-15', drive: 'hex-10', found: 'OtherSize' };
        form.querySelectorAll('input:not([type=hidden], [type=radio], [type=checkbox], [type=file]), textarea').forEach(f => { f.value ||= said[f.name] ?? 'as it was seen'; });
        // A tap.
        form.querySelectorAll('[name=x], [name=y]').forEach(f => { f.value = '40'; });
        form.querySelectorAll('select:not([name=before])').forEach(s => { s.value = said[s.name] ?? [...s.options].at(-1).value; });
        new Map([...form.querySelectorAll('input[type=radio]')].map(r => [r.name, r])).forEach(r => { r.checked = true; });
        const press = () => { form.requestSubmit([...form.querySelectorAll('button, input[type=image]')].find(b => named(form, b) === handler)); done('ok'); };
        const file = form.querySelector('input[type=file]');
        if (!file) { press(); return; }
        const canvas = Object.assign(document.createElement('canvas'), { width: 64, height: 48 });
        canvas.getContext('2d').fillRect(8, 8, 20, 20);
        canvas.toBlob(blob => {
          const taken = new DataTransfer();
          taken.items.add(new File([blob], 'taken.jpg', { type: 'image/jpeg' }));
          file.files = taken.files;
          press();
        }, 'image/jpeg');
        """;

    private static DemoTelling Told()
    {
        var shipped = Library.Map("tideway-starter");
        var vehicle = DemoFleet.Load().Vehicles.First(v => v.Model == shipped.Map.AppliesTo[0].Model);
        var t = new DemoTelling(Library, Guid.NewGuid(), Ansa, TimeSpan.FromHours(6), shipped);
        t.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.NominalVolts, "starting", "For every form", null));
        t.Say(1, new ComplaintNoted("It only clicks", ["one-clunk"], "Always", 5, 5, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "starter replaced", "For the test.", "starter"));
        return t;
    }

    // Half way in: a bolt has seized, oil works on it, a group is being counted.
    private static DemoTelling Apart()
    {
        var t = Told();
        var way = t.Take("starter").Removal;
        var at = way.Select((a, i) => (a.Id, i)).First(x => x.i > 2 && t.Map[x.Id].Fasteners.Any(f => f.Count >= 4)).i;
        way.Take(at).ToList().ForEach(t.Apart);
        var step = way[at].Id;
        var group = t.Map[step].Fasteners.First(f => f.Count >= 4);
        t.Say(1, new FastenerFound(step, group.Id, FastenerState.Seized, 1, null, null));
        t.Say(1, new TimerStarted(step, TimerKind.Soak, 600, "Soaking"));
        return t;
    }

    // No map: a cover is off, a word was not known, screws are out, a line is expected.
    private static DemoTelling Recorded()
    {
        var t = Told();
        t.Say(1, new RecordingBegun(null, false, ["Remove the bracket"]));
        t.Say(1, new TakenOff(TakenAct.Part, "Engine cover", "bay"));
        t.Say(1, new GroupOut("bolt", "hex-13", 2, 1), Guid.NewGuid());
        t.Say(1, new TakenOff(TakenAct.Part, "Knorz", "bay"));
        t.Say(1, new GroupOut("screw", "T20", 2, 2));
        return t;
    }

    private static DemoTelling RecordedBack()
    {
        var t = Recorded();
        t.Say(1, new TakenOff(TakenAct.Part, "Starter", "bay", true));
        foreach (var step in new[] { "faces-cleaned" })
        {
            t.Say(1, new StepDone(WorkPhase.Refit, step, null, []));
        }

        return t;
    }

    private static DemoTelling AtAGate()
    {
        var t = Told();
        var plan = t.Take("starter");
        plan.Removal.ToList().ForEach(t.Apart);
        t.Back(plan, plan.Refit.TakeWhile(a => t.Map.Step(a.Id)?.Checks.Count is null or 0).Count());
        return t;
    }

    // All together again: a check failed, a screw is missing and another left over, a tool is not back, a piece not carried over.
    private static DemoTelling Prove()
    {
        var t = Told();
        var plan = t.Take("starter");
        plan.Removal.SkipLast(1).ToList().ForEach(t.Apart);
        t.Say(5, new StepDone(WorkPhase.Apart, plan.Removal[^1].Id, 1, []));
        var loose = plan.Refit.First(a => t.Map.Step(a.Id) is null && t.Map[a.Id].Fasteners.Any(f => f.Count >= 2)).Id;
        foreach (var action in plan.Refit)
        {
            if (action.Id == loose)
            {
                // Closed without a word of its screws.
                t.Say(1, new StepDone(WorkPhase.Refit, loose, null, []));
            }
            else
            {
                t.Back(action);
            }
        }

        t.Say(1, new ToolLeft("locking-pin", "Under the bonnet", plan.Refit[^1].Id));
        t.Say(1, new LeftOverFound("M6 screw", 1));
        var failed = t.Job.Checks.First(c => c.Moment == ProofMoment.End && c.Unit is not null && t.Job.Held(c) is null);
        t.Say(1, new ProofTaken(failed.Id, new Figure(0.01m, failed.Unit!), null));
        Assert.NotEmpty(ProofLead.FromCheck(t.Job, failed));
        return t;
    }

    // A picture with a pin, a belt that was measured, a part with a deposit.
    private static DemoTelling Beside()
    {
        var picture = Guid.NewGuid();
        var t = AtAGate();
        var offer = t.Job.Part!.Offers.First(o => o.Deposit > 0);
        t.Say(1, new PartChosen(offer.Id, offer.Title, offer.Price, offer.Deposit));
        t.Say(1, new SettingKept(null, "belt", "Tension 300 N", true, new Dictionary<string, string> { ["span"] = "300" }));
        t.Say(1, new PictureTaken(null, new string('a', 64), 960, 720, null, null), picture);
        t.Say(1, new PinsSet(picture, [new Pin(PinKind.Screw, [new PinPoint(10, 10)], null)]));
        return t;
    }

    private static async Task<long> StoreAsync(JobStore jobs, DemoTelling t)
    {
        var job = t.Done();
        var drafts = job.Entries.Select((e, i) => new EntryDraft(e.Id ?? Guid.NewGuid(), job.Id, i, e.Actor, DateTimeOffset.Now - e.Ago, e.Payload)).ToList();
        var number = await jobs.OpenAsync(drafts[0], Ansa);
        foreach (var draft in drafts.Skip(1))
        {
            var outcome = await jobs.AppendAsync(job.Id, [draft], Ansa, OutOfTurn.Refuse);
            Assert.True(outcome is AppendResult.Kept, $"{EntryKinds.ForPayload(draft.Payload).Tag}: {outcome} {(outcome as AppendResult.OutOfOrder)?.Reason} {string.Join("; ", (outcome as AppendResult.Malformed)?.Faults.Select(f => $"{f.Path} {f.Message}") ?? [])}");
        }

        return number;
    }
}
