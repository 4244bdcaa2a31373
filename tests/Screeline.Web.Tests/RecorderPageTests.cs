using System.Net;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Web.Tests;

/// <summary>A vehicle without a map: begun, recorded, worked out, put together and handed back, in a real browser and without scripts.</summary>
public sealed class RecorderPageTests(Site site) : IClassFixture<Site>
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    private async Task<Job> JobAsync(long number)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        return (await new JobStore(database, new Families(Library)).FindAsync(number))!.Job;
    }

    // A decided job on a vehicle that no map of this family fits, with what else was said.
    private async Task<long> DecidedAsync(string family, params Payload[] more)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var (jobs, id, system) = (new JobStore(database, new Families(Library)), Guid.NewGuid(), Library.System(family)!);
        var vehicle = DemoFleet.Load().Vehicles.First(v => v.Model == "Pellow Fellgate");
        List<Payload> all =
        [
            new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.NominalVolts, family, "It does nothing", null),
            new ComplaintNoted("It does nothing", [system.Behaviours[0].Id], "always", 5, 5, null), new DecisionMade(DecisionAct.Guess, $"{system.Motor} replaced", "for the test", system.Repairs.First(r => r.IsMotor).Id), .. more,
        ];
        var number = 0L;
        foreach (var (payload, i) in all.Select((p, i) => (p, i)))
        {
            var draft = new EntryDraft(Guid.NewGuid(), id, i, new Guid(Site.Ansa), DateTimeOffset.Now, payload);
            if (i == 0)
            {
                number = await jobs.OpenAsync(draft, draft.Actor);
            }
            else
            {
                Assert.IsType<AppendResult.Kept>(await jobs.AppendAsync(id, [draft], draft.Actor, OutOfTurn.Refuse));
            }
        }

        return number;
    }

    [Theory]
    [InlineData(390, 844, false)]
    [InlineData(1280, 800, true)]
    public async Task A_job_without_a_map_from_way_in_to_sheet(int width, int height, bool keyboard)
    {
        var number = await DecidedAsync("blower");
        using var b = new Browser(site, width, height, keyboard);
        b.Open($"/jobs/{number}/way-in");
        Assert.Contains("No map for the Pellow Fellgate yet", b.Text, StringComparison.Ordinal);
        Assert.NotEmpty(b.All(".card-kind"));
        b.Press("[data-main]");
        Assert.Equal("Every speed tried, hand on the dash", b.One("h1.act").Text);
        b.Press("[data-main]");

        // A group of fasteners: kind and size, count, done.
        var before = b.Actions;
        b.Press("input[name=pick][value='screw|T20']");
        b.Press("input[name=count][value='4']");
        b.Press("#fasteners .btn-strong");
        Assert.Equal(3, b.Actions - before);
        Assert.Contains("4 T20 screws", b.Text, StringComparison.Ordinal);
        // A part that is offered: one press.
        before = b.Actions;
        b.Press("[data-main]");
        Assert.Equal(1, b.Actions - before);
        // One that is not: its key, the word, done.
        before = b.Actions;
        b.Press(".key:has(#what-part) > summary", () => b.One("#what-part").Displayed);
        b.Type("#what-part", "Knorz tray");
        b.Press(".key-form:has(#what-part) .btn-strong");
        Assert.Equal(3, b.Actions - before);
        // Its word is unknown, and asked about once.
        Assert.Contains("“Knorz tray” is not known here", b.Text, StringComparison.Ordinal);
        b.Press("button[name=danger][value=sprung]");
        Assert.DoesNotContain("is not known here", b.Text, StringComparison.Ordinal);
        // A slip of the finger is undone.
        b.Press(".key:has(#what-aside) > summary", () => b.One("#what-aside").Displayed);
        b.Type("#what-aside", "Carpet");
        b.Press(".key-form:has(#what-aside) .btn-strong");
        Assert.Contains("Carpet moved aside", b.Text, StringComparison.Ordinal);
        b.Press("form[action*='TakeLast'] button");
        Assert.DoesNotContain("Carpet moved aside", b.One(".col-steps").Text, StringComparison.Ordinal);
        b.Press(".key:has(#what-plug) > summary", () => b.One("#what-plug").Displayed);
        b.Type("#what-plug", "Blower plug");
        b.Press(".key-form:has(#what-plug) button[value=Plug]");
        b.Press("input[name=pick][value='screw|T20']");
        b.Press("input[name=count][value='3']");
        b.Press("#fasteners .btn-strong");
        b.Press(".target");
        // Counted in docs/walks.md: a slip and its undoing among them.
        Assert.Equal(21, b.Actions);
        var job = await JobAsync(number);
        Assert.Equal((7, 4), (job.Count.Out, job.OpenOperations));
        Assert.Equal(2, job.Count.InTray.Select(a => a.Cell).Distinct().Count());
        Assert.Contains("spring-load", job.Map![job.Things.First(t => t.Press?.Payload.What == "Knorz tray").Id].Cautions);

        // The way back, worked out: what fasteners are tightened to is asked once, the gate stands before the first cover.
        b.Press("[data-main]");
        Assert.EndsWith("/refit", b.Path, StringComparison.Ordinal);
        Assert.Equal("Blower motor in", b.One("h1.act").Text);
        b.Press(".figure button[value=Hand]");
        while (b.Path.EndsWith("/refit", StringComparison.Ordinal))
        {
            if (b.All(".figure[open] button[value=Hand]").Count > 0)
            {
                b.Press(".figure[open] button[value=Hand]");
                continue;
            }

            if (b.One("[data-main]").Text.StartsWith("Gate shut", StringComparison.Ordinal))
            {
                Assert.Equal("Every speed, covers still off", b.One("h1.act").Text);
                b.Type("#value-top-current-after", "14");
                b.Press("form:has(#value-top-current-after) button");
                b.Press(".row-check:has(.mark-todo) button[name=choice]:first-of-type");
            }

            b.Press("[data-main]");
        }

        Assert.EndsWith("/prove", b.Path, StringComparison.Ordinal);
        Assert.Equal(33, b.Actions);
        Assert.Contains("Out 7 = in 7 + renewed 0 + missing 0", b.Text, StringComparison.Ordinal);
        WalkTests.Taken(b);
        while (b.All(".row-tool form button, .row-piece form button").Count > 0)
        {
            b.Press(".row-tool form button, .row-piece form button");
        }

        foreach (var piece in (await JobAsync(number)).NotCarried)
        {
            b.Press($"form:has([value='{piece.Id}']) button, button[value='{piece.Id}']");
        }

        Assert.Equal("Hand back", b.One("[data-main]").Text);
        b.Press("[data-main]");
        b.Type("#found", "Brushes worn.");
        WalkTests.Cause(b, "age");
        b.Press("[data-main]");
        // The way in can be kept for the next one; the sheet is one press away.
        Assert.EndsWith("/keep", b.Path, StringComparison.Ordinal);
        Assert.Contains("Keep this as the way in for the Pellow Fellgate?", b.Text, StringComparison.Ordinal);
        b.Press("footer a.btn");
        Assert.EndsWith("/sheet", b.Path, StringComparison.Ordinal);
        Assert.Contains("Brushes worn.", b.Text, StringComparison.Ordinal);

        Assert.Empty((await JobAsync(number)).Disputes);
        Assert.True(b.Complaints.Count == 0, string.Join("\n", b.Complaints));
        // It counts where all count.
        b.Open($"/vehicles/{(await JobAsync(number)).Opened.Payload.Vehicle}");
        Assert.Contains($"Job {number}", b.Text, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public async Task Without_a_network_it_is_recorded_all_the_same()
    {
        var number = await DecidedAsync("blower", new RecordingBegun(null, false, []), new ExpectationStruck("felt", null));
        using var cable = new Cable(site.Address.Port);
        using var b = new Browser(site, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{number}/take-apart");
        b.Until(() => b.Script<bool>("return !!document.documentElement.dataset.prefetch || document.readyState === 'complete'"), "the page does not come");
        var head = (await JobAsync(number)).Head;
        cable.Cut();
        var kept = 0;
        void Keeps(string selector)
        {
            kept++;
            b.Press(selector, () => b.Script<string>("return document.querySelector('#kept:not([hidden]) .kept-count')?.textContent ?? ''") == $"{kept} kept here, not yet sent");
        }

        void Group(string pick, int count)
        {
            b.Press($"input[name=pick][value='{pick}']");
            b.Press($"input[name=count][value='{count}']");
            Keeps("#fasteners .btn-strong");
        }

        Group("screw|T20", 4);
        Group("push-pin|", 2);
        b.Press(".key:has(#what-part) > summary", () => b.One("#what-part").Displayed);
        b.Type("#what-part", "Lower cover");
        Keeps(".key-form:has(#what-part) .btn-strong");
        // The next cell is another one, although the page is as it was.
        Assert.Equal("2", b.One("[data-cell-words]").Text);
        Group("screw|T20", 3);
        Keeps(".target");
        Assert.Equal(head, (await JobAsync(number)).Head);
        cable.Mend();
        b.Until(() => b.Script<bool>("return document.getElementById('kept').hidden"), "not sent");
        var job = await JobAsync(number);
        Assert.Equal(head + 5, job.Head);
        Assert.Empty(job.Disputes);
        var off = job.Things.ToDictionary(t => t.Press!.Payload.What, t => (Count: job.FastenersOf(t.Id).Sum(f => f.Count), t.Cell));
        Assert.Equal((6, 1), (off["Lower cover"].Count, off["Lower cover"].Cell));
        Assert.Equal((3, 2), (off["Blower motor out"].Count, off["Blower motor out"].Cell));
        b.Until(() => b.Text.Contains("Go on: Set and refit", StringComparison.Ordinal), "the page does not tell what was sent");
        Assert.All(b.Complaints, c => Assert.True(c.Contains("net::ERR_", StringComparison.Ordinal) || c.Contains("Failed to fetch", StringComparison.Ordinal), c));
    }

    [Fact]
    public async Task A_card_a_printed_procedure_and_what_is_told_afterwards()
    {
        var number = await DecidedAsync("blower");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/way-in");
        await b.SubmitAsync("form:has(#lines)");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("Nothing was pasted", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form:has(#lines)", ("lines", "1. Remove the glovebox (6 screws).\n2) Disconnect the blower plug\n\n- Lower the blower"));
        Assert.EndsWith("/take-apart", b.At.AbsolutePath, StringComparison.Ordinal);
        Assert.Equal(["Remove the glovebox (6 screws).", "Disconnect the blower plug", "Lower the blower"], (await JobAsync(number)).Expected.Where(o => o.Id.StartsWith("line", StringComparison.Ordinal)).Select(o => o.Title));
        // Another beginning, as long as nothing is told.
        await b.OpenAsync($"/jobs/{number}/way-in");
        await b.SubmitAsync("footer form[action*=Withdraw]");
        await b.OpenAsync($"/jobs/{number}/way-in");
        await b.SubmitAsync($"form:has(input[name=card][value='tideway-blower'])");
        var job = await JobAsync(number);
        Assert.Equal("tideway-blower", Library.Maps.Single(m => m.Hash == job.Recording!.Payload.Map).Map.Id);
        Assert.All(job.Expected, o => Assert.Empty(o.Fasteners));
        Assert.Equal(0, job.OpenOperations);

        // Struck, told otherwise, told besides; nothing is there that nobody pressed.
        await b.OpenAsync($"/jobs/{number}/take-apart");
        await b.SubmitAsync("footer form[action*=Strike]");
        await b.OpenAsync($"/jobs/{number}/take-apart?instead=side-trim");
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", ""), ("act", "Part"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("Which one?", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{number}/take-apart?instead={(await JobAsync(number)).Expected[0].Id}");
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", "foot rest"), ("act", "Part"));
        job = await JobAsync(number);
        Assert.Equal("Foot rest off", job.TitleOf(Assert.Single(job.Things).Id));
        Assert.Equal(2, job.Struck.Count);
        await b.SubmitAsync("form[action*=Tried]", ("what", "from the glovebox"), ("minutes", "12"));
        Assert.Contains("tried, no way: from the glovebox, 12 min", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Tried]", ("what", "from above"), ("minutes", "long"));
        Assert.Contains("no number of minutes", b.Text, StringComparison.Ordinal);
        Assert.Equal("from above", ((AngleSharp.Html.Dom.IHtmlInputElement)b.Page.QuerySelector("form[action*=Tried] input[name=what]")!).Value);

        // Counts that cannot be are told at the field; what was typed stays.
        await b.OpenAsync($"/jobs/{number}/take-apart");
        await b.SubmitAsync("#fasteners", ("pick", "screw|T20"), ("many", "900"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("1 to 500", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#fasteners", ("kind", "bolt"), ("drive", "hex-"), ("size", "13"), ("many", "2"), ("thread", "M8"), ("length", "35"), ("hidden", "yes"));
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", "bracket"), ("act", "Part"), ("place", "footwell"));
        job = await JobAsync(number);
        var bracket = job.Things[^1];
        Assert.Equal(("hex-13", "M8", 35m, 2, "hidden"), (bracket.Groups[0].Payload.Drive, bracket.Groups[0].Payload.Thread, bracket.Groups[0].Payload.LengthMillimetres, job.FastenersOf(bracket.Id)[0].Count, job.FastenersOf(bracket.Id)[0].Place));

        // Told afterwards, put right, moved, and what alone was in the way.
        await b.OpenAsync($"/jobs/{number}/take-apart?before={bracket.Id}");
        await b.SubmitAsync(".key-form:has(#what-aside)", ("what", "loom"), ("act", "Aside"));
        job = await JobAsync(number);
        var loom = job.Things[^1].Id;
        Assert.Equal([loom, bracket.Id], job.Route!.Payload.Removal.SkipWhile(id => id != loom).Take(2));
        await b.OpenAsync($"/jobs/{number}/take-apart?step={bracket.Id}");
        await b.SubmitAsync("form[action*=Correct]", ("what", "Brace"));
        await b.OpenAsync($"/jobs/{number}/take-apart?step={bracket.Id}");
        await b.SubmitAsync("form[action*=Only]", ("kept", loom));
        await b.SubmitAsync("form[action*=Move]", ("before", loom));
        job = await JobAsync(number);
        Assert.Equal("Brace off", job.TitleOf(bracket.Id));
        Assert.Equal([loom], job.Only[bracket.Id].Payload.Kept);
        Assert.Equal([bracket.Id, loom], job.Route!.Payload.Removal.SkipWhile(id => id != bracket.Id).Take(2));
        Assert.Empty(job.Disputes);
    }

    [Fact]
    public async Task Nothing_is_told_done_under_the_vehicle_before_it_stands_safe_unless_it_was_so()
    {
        var number = await DecidedAsync("wiper", new RecordingBegun(null, false, []));
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/take-apart?place=under");
        Assert.Contains("Raise it: on stands", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", "undertray"), ("act", "Part"));
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Contains("First: Raise it", b.Text, StringComparison.Ordinal);
        Assert.Empty((await JobAsync(number)).Things);
        await b.SubmitAsync("form:has(button[name=anyway])", ("anyway", "yes"));
        var job = await JobAsync(number);
        Assert.Equal("Undertray off", job.TitleOf(Assert.Single(job.Things).Id));
        Assert.Single(job.Disputes);
        // Chocks, then stands; both are steps of the way back.
        await b.OpenAsync($"/jobs/{number}/take-apart?place=under&step=chocked");
        await b.SubmitAsync(b.MainForm);
        await b.OpenAsync($"/jobs/{number}/take-apart?step=raised");
        Assert.Contains("Stands on firm ground", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm);
        await b.OpenAsync($"/jobs/{number}/take-apart?place=under");
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", "exhaust bracket"), ("act", "Part"));
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Contains("cool", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_figure_is_asked_once_and_a_step_is_drawn_forward_within_what_is_safe()
    {
        var number = await DecidedAsync("blower", new RecordingBegun(null, false, []), new TakenOff(TakenAct.Part, "Glovebox", "footwell"), new TakenOff(TakenAct.Part, "Bracket", "footwell"), new GroupOut("bolt", "hex-17", 2, 1), new TakenOff(TakenAct.Part, "Blower", "footwell", true));
        var job = await JobAsync(number);
        var (glovebox, bracket, blower) = (job.Things[0].Id, job.Things[1].Id, job.Things[2].Id);
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/refit");
        Assert.Contains("Start all 2 by hand, then tighten.", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(".figure form", ("from", "Worked"), ("thread", "M10"));
        Assert.Contains("Does it hold the vehicle together", b.Text, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync(".figure form", ("from", "Worked"), ("thread", "M10"), ("structural", "no"));
        Assert.Contains("What is it screwed into?", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(".figure form", ("from", "Worked"), ("thread", "M10"), ("structural", "no"), ("joint", "light-alloy"), ("strength", "8.8"));
        Assert.Contains("Worked out, as told", b.Text, StringComparison.Ordinal);
        Assert.Contains("No torque is specified", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(".figure form", ("from", "Maker"), ("value", "banana"), ("source", "manual"), ("structural", "no"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync(".figure form", ("from", "Maker"), ("value", "38 N·m"), ("source", "maker's manual"), ("structural", "no"));
        Assert.Contains("38 N·m specified", b.Text, StringComparison.Ordinal);
        // Not past the gate; the bracket may go first.
        await b.OpenAsync($"/jobs/{number}/refit?step={glovebox}");
        await b.SubmitAsync("form[action*=Move]", ("before", blower));
        Assert.Contains("Nothing passes a gate", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{number}/refit?step={bracket}");
        await b.SubmitAsync("form[action*=Move]", ("before", blower));
        Assert.Equal([bracket, blower], Core.Jobs.Refit.Order(await JobAsync(number)).Take(2));
        Assert.Contains("Moved here", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_mapped_job_takes_in_what_its_map_did_not_know()
    {
        var number = await site.JobAtAsync("undertray");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/take-apart");
        var due = b.Page.QuerySelector("h1.act")!.TextContent;
        await b.OpenAsync(b.Page.QuerySelector("a[href*='/record']")!.GetAttribute("href")!);
        await b.SubmitAsync("#fasteners", ("pick", b.Page.QuerySelector("#fasteners input[name=pick]")!.GetAttribute("value")!), ("count", "2"));
        await b.OpenAsync($"/jobs/{number}/record");
        await b.SubmitAsync(".key-form:has(#what-part)", ("what", "Stone guard"), ("act", "Part"));
        Assert.EndsWith("/take-apart", b.At.AbsolutePath, StringComparison.Ordinal);
        Assert.Equal(due, b.Page.QuerySelector("h1.act")!.TextContent);
        var job = await JobAsync(number);
        Assert.Empty(job.Disputes);
        var guard = Assert.Single(job.Things).Id;
        Assert.Contains(guard, job.Route!.Payload.Removal);
        Assert.Contains(guard, Core.Jobs.Refit.Order(job));
        Assert.Equal(2, job.FastenersOf(guard).Sum(f => f.Count));
        await b.OpenAsync($"/jobs/{number}/record");
        Assert.Contains("Stone guard off", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=TakeLast]");
        Assert.Null(Assert.Single((await JobAsync(number)).Things).Press);
    }
}
