using OpenQA.Selenium;
using Screeline.Core.Access;
using Screeline.Core.Access.Recording;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Web.Tests;

/// <summary>A map out of the work: kept at hand-back, planned the next time, asked about, changed by hand, taken back.</summary>
public sealed class LearnedPageTests
{
    private const string Fan = "fan-brannock-tideway";
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    private static async Task<AccessMap> MapAsync(Site site)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        return AccessMapReader.ReadKept((await new MapStore(database).LatestAsync()).First(m => m.MapId == Fan).Json)!;
    }

    private static async Task<Job> JobAsync(Site site, long number)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        return (await new JobStore(database, new Families(Library)).FindAsync(number))!.Job;
    }

    [Fact]
    public async Task The_second_job_on_a_recorded_model_opens_with_plan_tool_roll_sizes_torques_minutes_and_pictures()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        // A picture goes with its first step.
        await using (var database = new Database(site.Owner, "screeline_app"))
        {
            var (documents, map) = (new DocumentStore(database), await MapAsync(site));
            var picture = new StepPicture(await documents.KeepAsync(Screeline.Library.Demo.DemoStory.UndertrayPicture, "image/jpeg"), 960, 720, null, [new Pin(PinKind.Plug, [new PinPoint(40, 50)], null)]);
            var pictured = MapChanges.Placed(map, [.. map.Operations.Select(o => o.Id == "codes-saved" ? o with { Pictures = [picture] } : o)], map.RefitSteps, map.Positions);
            await new MapStore(database).KeepAsync(Fan, await documents.KeepAsync(AccessMapWriter.Write(pictured), "application/json"), new Guid(Site.Ansa), 1);
        }

        using var plain = new PlainBrowser(site);
        await plain.OpenAsync($"/jobs/46/keep");
        Assert.Contains("Kept in “Radiator fan, Brannock Tideway”, version 2", plain.Text, StringComparison.Ordinal);
        using var b = new Browser(site, 390, 844);
        b.Open("/jobs/47/way-in");
        Assert.Contains("Learned from one job: all of it was seen once", b.Text, StringComparison.Ordinal);
        Assert.Contains("Done on this model here: Brannock Tideway", b.Text, StringComparison.Ordinal);
        b.Press("[data-main]");
        Assert.Contains("From an earlier job on this model", b.One("#keeps").Text, StringComparison.Ordinal);
        Assert.Single(b.All("#keeps .pin"));
        await plain.OpenAsync("/jobs/47/prepare");
        Assert.Contains("T25", plain.Text, StringComparison.Ordinal);
        var job = await JobAsync(site, 47);
        Assert.Null(job.Map!.Learned);
        var frame = job.Map.Operations.First(o => o.Title == "Fan with its frame off");
        Assert.Equal(("hex-10", 4, 9m), (frame.Fasteners[0].Drive, frame.Fasteners[0].Count, frame.Fasteners[0].Torque!.Value.Number));
        Assert.True(frame.Minutes.Likely > 0);
        Assert.Equal(job.Route!.Payload.Removal[^1], frame.Id);
        while (b.One("h1.act").Text != "Upper grille cover off")
        {
            b.Press("[data-main]");
        }

        Assert.Contains("8 push pins", b.Text, StringComparison.Ordinal);
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task Three_questions_are_answered_by_thumb_the_next_plan_is_shorter_and_it_is_taken_back()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        var before = AccessMapWriter.Write(await MapAsync(site));
        var minutes = Core.Access.Planning.RoutePlanner.Best(await MapAsync(site)).ExpectedMinutes;
        using var b = new Browser(site, 390, 844);
        b.Open("/jobs/46/keep");
        var answered = 0;
        bool Asked() => b.Until(() => b.All("#questions .note a[href$='/keep']").Count == 0, "the questions do not come") && b.All(".question").Count > 0;
        while (answered < 3 && Asked())
        {
            // Nothing: nothing marked, one press.
            b.Press(".question button.btn");
            answered++;
        }

        Assert.True(answered >= 2, $"{answered} questions");
        var job = await JobAsync(site, 46);
        Assert.Equal(answered, job.WordsKept.Count(e => e.Payload is NeededFor));
        var after = await MapAsync(site);
        Assert.True(Core.Access.Planning.RoutePlanner.Best(after).ExpectedMinutes < minutes);
        Assert.Equal(answered + 1L, await site.ScalarAsync<long>($"select max(version)::bigint from map_versions where map_id = '{Fan}'"));
        // What was said is taken back, one by one, and leaves no trace.
        while (b.All("form[action*='Unsay'] button").Count > 1)
        {
            b.Press("li:last-child form[action*='Unsay'] button");
        }

        Assert.Equal(before, AccessMapWriter.Write(await MapAsync(site)));
        Assert.Empty(b.Complaints);
        // Taken out of the map, the vehicle has none any more; put in again, it has.
        b.Press("form[action*='TakeOut'] button");
        using var plain = new PlainBrowser(site);
        await plain.OpenAsync("/jobs/47/way-in");
        Assert.Contains("No map for the Brannock Tideway yet", plain.Text, StringComparison.Ordinal);
        await plain.OpenAsync("/jobs/46/keep");
        await plain.SubmitAsync("#keep");
        Assert.Contains("Kept in", plain.Text, StringComparison.Ordinal);
        await plain.OpenAsync("/jobs/47/way-in");
        Assert.Contains("Learned from one job", plain.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_job_left_out_of_what_the_shop_knows_is_left_out_of_its_maps()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        await using var database = new Database(site.Owner, "screeline_app");
        var experience = new ExperienceStore(database);
        var job = (await JobAsync(site, 46)).Id;
        using var plain = new PlainBrowser(site);
        await experience.LeaveOutAsync(job, new Guid(Site.Ansa), "done with a helper");
        await plain.OpenAsync("/jobs/47/way-in");
        Assert.Contains("No map for the Brannock Tideway yet", plain.Text, StringComparison.Ordinal);
        await experience.CountAgainAsync(job, new Guid(Site.Ansa));
        await plain.OpenAsync("/jobs/47/way-in");
        Assert.Contains("Learned from one job", plain.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_need_is_changed_in_the_editor_by_keyboard_and_what_changed_is_told()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new Browser(site, keyboardOnly: true);
        b.Open($"/library/maps/{Fan}?step=intake-snorkel-off");
        Assert.Contains("Came after upper grille cover off, once", b.Text, StringComparison.Ordinal);
        // Through the drawing with the arrow keys: what a part leans on is told as one comes by.
        b.Script<object?>("document.querySelector('[data-part][tabindex=\"0\"]').focus(); return null");
        b.Key(Keys.ArrowUp);
        Assert.Equal("negative-off", b.Script<string>("return document.activeElement.dataset.part"));
        Assert.Contains("Needs codes saved", b.One(".map-leans").Text, StringComparison.Ordinal);
        b.Key(Keys.ArrowDown);
        b.Key(Keys.ArrowDown);
        Assert.Equal("fan-plug-off", b.Script<string>("return document.activeElement.dataset.part"));
        // The cover is not needed: its tick goes.
        b.Press("input[name='n-0'][value='upper-grille-cover-off']");
        b.Press("[data-main]", () => b.Text.Contains("Keep as version 3", StringComparison.Ordinal));
        Assert.Contains("Needs nothing", b.One("#n-ways").Text, StringComparison.Ordinal);
        var map = await MapAsync(site);
        Assert.Empty(map["intake-snorkel-off"].Needs.Names);
        Assert.Equal("Ansa Tollard", map.Learned!.Said.Single().By);
        // Now after the battery, chosen from the list.
        b.Script<object?>("document.querySelector('select[name=\"n-0\"]').focus(); return null");
        b.Focused.SendKeys("Neg");
        b.Until(() => b.Script<bool>("return !!document.querySelector('input[name=\"n-0\"][value=\"negative-off\"]:checked')"), "what is chosen is not ticked");
        // A job took it off with more than that: that is no contradiction; but it cannot wait for what came off after it.
        b.Script<object?>("document.querySelector('select[name=\"n-0\"]').focus(); return null");
        b.Focused.SendKeys("Fan pl");
        b.Until(() => b.Script<bool>("return !!document.querySelector('input[name=\"n-0\"][value=\"fan-plug-off\"]:checked')"), "what is chosen is not ticked");
        b.Press("[data-main]", () => b.Text.Contains("Nothing is kept", StringComparison.Ordinal));
        Assert.True(b.All("input[name='n-0'][value='fan-plug-off']").Count == 1);
        b.Open($"/library/maps/{Fan}?changes=2");
        Assert.Contains("Intake snorkel off, comes off after: Upper grille cover off, now nothing", b.Text, StringComparison.Ordinal);
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task A_sister_is_looked_at_first_and_how_sure_it_is_falls_and_rises()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new PlainBrowser(site);
        // A vehicle that looks the same, and what to look at.
        await b.OpenAsync($"/library/maps/{Fan}");
        await b.PostAsync($"/library/maps/{Fan}?handler=Keep", PlainBrowser.Fields(b.Form("#map-form"), ("v-1-model", "Sable Wherry"), ("v-1-certainty", "looks-same"), ("v-1-look", "Two bolts each side")));
        Assert.Equal("looks-same", (await MapAsync(site)).AppliesTo.First(a => a.Model == "Sable Wherry").Certainty);
        await b.OpenAsync("/jobs/45/keep");
        Assert.Contains("did not come off", b.Text, StringComparison.Ordinal);
        await using var database = new Database(site.Owner, "screeline_app");
        var (jobs, id, system) = (new JobStore(database, new Families(Library)), Guid.NewGuid(), Library.System("fan")!);
        var vehicle = Screeline.Library.Demo.DemoFleet.Load().Vehicles.First(v => v.Model == "Sable Wherry");
        var number = await jobs.OpenAsync(new EntryDraft(Guid.NewGuid(), id, 0, new Guid(Site.Ansa), DateTimeOffset.Now, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, 12, "fan", "It stands", null)), new Guid(Site.Ansa));
        foreach (var (payload, i) in new Payload[] { new ComplaintNoted("It stands", [system.Behaviours[0].Id], "always", 5, 5, null), new DecisionMade(DecisionAct.Guess, "motor", "for the test", system.Repairs.First(r => r.IsMotor).Id) }.Select((p, i) => (p, i)))
        {
            await jobs.AppendAsync(id, [new EntryDraft(Guid.NewGuid(), id, i + 1, new Guid(Site.Ansa), DateTimeOffset.Now, payload)], new Guid(Site.Ansa), OutOfTurn.Refuse);
        }

        await b.OpenAsync($"/jobs/{number}/way-in");
        Assert.Contains("Two bolts each side", b.Text, StringComparison.Ordinal);
        var looked = b.Page.QuerySelectorAll("form").OfType<AngleSharp.Html.Dom.IHtmlFormElement>().First(f => f.Action.Contains("handler=Looked", StringComparison.Ordinal));
        await b.SubmitAsync(looked, ("same", "false"));
        Assert.Contains("it is not so", b.Text, StringComparison.Ordinal);
        Assert.Equal("guessed", (await MapAsync(site)).AppliesTo.First(a => a.Model == "Sable Wherry").Certainty);
        looked = b.Page.QuerySelectorAll("form").OfType<AngleSharp.Html.Dom.IHtmlFormElement>().First(f => f.Action.Contains("handler=Looked", StringComparison.Ordinal));
        await b.SubmitAsync(looked, ("same", "true"));
        Assert.Equal("looks-same", (await MapAsync(site)).AppliesTo.First(a => a.Model == "Sable Wherry").Certainty);
    }

    // A fan without a map, from complaint to hand back.
    private static async Task<long> FanAsync(Site site, string vehicle, string plug)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var (jobs, id, v) = (new JobStore(database, new Families(Library)), Guid.NewGuid(), (await new VehicleStore(database).AllAsync()).First(x => x.Name == vehicle));
        var t = new DemoTelling(Library, id, new Guid(Site.Ansa), TimeSpan.FromHours(3), null);
        t.Say(0, new JobOpened(v.Id, v.Name, v.Model, v.NominalVolts, "fan", "It stands", null));
        t.Say(1, new ComplaintNoted("It stands", ["this-dead"], "always", 5, 5, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "motor", "for the test", "motor"));
        t.Say(1, new RecordingBegun(null, false, []));
        t.Say(1, new StepDone(WorkPhase.Apart, "codes-saved", null, []));
        t.Say(1, new StepDone(WorkPhase.Apart, "negative-off", null, []));
        t.Say(1, new TakenOff(TakenAct.Plug, plug, "bay"));
        t.Say(1, new TakenOff(TakenAct.Part, "Fan with its frame", "bay", IsTarget: true));
        t.Job.NotCarried.ToList().ForEach(p => t.Say(1, new PartCarried(p.Id)));
        t.Say(1, new StepBesides("Frame studs greased", "bay"));
        t.BackAsRecorded();
        t.Prove();
        t.Close("Renewed.", null, null, "age");
        var entries = t.Done().Entries;
        var drafts = entries.Select((e, i) => new EntryDraft(e.Id ?? Guid.NewGuid(), id, i, e.Actor, DateTimeOffset.Now - e.Ago, e.Payload)).ToList();
        var number = await jobs.OpenAsync(drafts[0], drafts[0].Actor);
        foreach (var draft in drafts.Skip(1))
        {
            var kept = await jobs.AppendAsync(id, [draft], draft.Actor, OutOfTurn.Refuse);
            Assert.True(kept is AppendResult.Kept, $"{draft.Payload}: {kept}");
        }

        return number;
    }

    [Fact]
    public async Task The_same_thing_is_asked_about_and_one_version_never_teaches_another_unasked()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        var number = await FanAsync(site, "Tideway 5", "Fan connector");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/keep");
        Assert.Contains("It goes into “Radiator fan, Brannock Tideway”, version 1", b.Text, StringComparison.Ordinal);
        Assert.Contains("“Fan with its frame off” here, “Fan with its frame off” on the map", b.Text, StringComparison.Ordinal);
        // Not told, nothing is kept.
        await b.SubmitAsync("#keep");
        Assert.Contains("The same, or another one?", b.Text, StringComparison.Ordinal);
        Assert.Equal(1L, await site.ScalarAsync<long>($"select count(*) from map_versions where map_id = '{Fan}'"));
        await b.SubmitAsync("#keep", [.. b.Page.QuerySelectorAll(".same-line").Select(l => (l.QuerySelector("input")!.GetAttribute("name")!, l.QuerySelector("input")!.GetAttribute("value")!))]);
        Assert.Contains("version 2", b.Text, StringComparison.Ordinal);
        var map = await MapAsync(site);
        Assert.Equal((2, 2), map.Learned!.Certainty("fan-with-its-frame-off"));
        // With less off: the shorter way is the plan, and still nobody's word was needed.
        Assert.DoesNotContain("intake-snorkel-off", Core.Access.Planning.RoutePlanner.Best(map).Set);
        // A step that only this job had is told to be because of something.
        Assert.Null(map.RefitSteps.First(s => s.Title == "Frame studs greased").AppliesIf);
        await b.SubmitAsync("form[action*='handler=Because']", ("operation", (await JobAsync(site, number)).Things[^1].Id));
        Assert.Equal("fan-with-its-frame-off", (await MapAsync(site)).RefitSteps.First(s => s.Title == "Frame studs greased").AppliesIf);
        // Told wrongly: parted, and one again.
        var part = b.Page.QuerySelectorAll("form[action*='handler=Name']").OfType<AngleSharp.Html.Dom.IHtmlFormElement>().First(f => f.ParentElement!.TextContent.Contains("“Fan with its frame off” here", StringComparison.Ordinal));
        var thing = part.QuerySelector("button")!.GetAttribute("name")!;
        await b.SubmitAsync(part, (thing, "other"));
        Assert.Equal((1, 1), (await MapAsync(site)).Learned!.Certainty("fan-with-its-frame-off"));
        Assert.NotNull((await MapAsync(site)).Operation("fan-with-its-frame-off-2"));
        await b.SubmitAsync("form[action*='handler=Name']:has(button[value='fan-with-its-frame-off'])", (thing, "fan-with-its-frame-off"));
        Assert.Equal((2, 2), (await MapAsync(site)).Learned!.Certainty("fan-with-its-frame-off"));
        Assert.Null((await MapAsync(site)).Operation("fan-with-its-frame-off-2"));
        // A job that is left out stays in the map for when it counts again, whatever is kept meanwhile.
        await using var database = new Database(site.Owner, "screeline_app");
        await new ExperienceStore(database).LeaveOutAsync((await JobAsync(site, 46)).Id, new Guid(Site.Ansa), "odd one");
        await b.OpenAsync($"/jobs/{number}/keep");
        await b.SubmitAsync("form[action*='handler=TakeOut']");
        Assert.Equal((await JobAsync(site, 46)).Id, (await MapAsync(site)).Learned!.Jobs.Single().Job);

        // Another engine: a map of its own.
        await new VehicleStore(database).AddAsync(new Vehicle(Guid.NewGuid(), "Tideway 9", "Brannock Tideway", "1.4 petrol", 2035, 12));
        var petrol = await FanAsync(site, "Tideway 9", "Fan plug");
        await b.OpenAsync($"/jobs/{petrol}/keep");
        Assert.DoesNotContain("It goes into", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#keep");
        Assert.Contains("Brannock Tideway, 1.4 petrol”, version 1", b.Text, StringComparison.Ordinal);
        Assert.Equal(1L, await site.ScalarAsync<long>("select count(*) from map_versions where map_id = 'fan-brannock-tideway-1-4-petrol'"));
        // Taken elsewhere and back: a file that says otherwise than its jobs is refused with the place.
        var file = await b.Client.GetStringAsync("/library/maps/fan-brannock-tideway-1-4-petrol?handler=File");
        Assert.Contains("\"learned\"", file, StringComparison.Ordinal);
        await b.OpenAsync("/library/maps/new");
        await b.PostAsync("/library/maps/new?handler=Keep", PlainBrowser.Fields(b.Form("#map-form"), ("draft", file.Replace("\"id\": \"fan-brannock-tideway-1-4-petrol\"", "\"id\": \"from-elsewhere\"", StringComparison.Ordinal).Replace("\"low\":0.2", "\"low\":0.1", StringComparison.Ordinal)), ("draft-as", "text")));
        Assert.Contains("says otherwise than the jobs", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/library/maps/new");
        await b.PostAsync("/library/maps/new?handler=Keep", PlainBrowser.Fields(b.Form("#map-form"), ("draft", file.Replace("\"id\": \"fan-brannock-tideway-1-4-petrol\"", "\"id\": \"from-elsewhere\"", StringComparison.Ordinal)), ("draft-as", "text")));
        Assert.EndsWith("/library/maps/from-elsewhere", b.At.AbsolutePath, StringComparison.Ordinal);
    }
}
