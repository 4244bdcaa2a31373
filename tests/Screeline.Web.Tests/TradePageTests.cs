using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Web.Tests;

/// <summary>One job of each family through the browser, and the pages of the shop's experience.</summary>
public sealed class TradePageTests(Site site)
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();
    private static readonly Guid Ansa = new(Site.Ansa);

    private static readonly (string Map, string Repair, int Width, int Height)[] OneOfAFamily =
    [
        ("carrier-starter", "starter", 1280, 800), ("tideway-alternator", "alternator", 1280, 800), ("ternwick-blower", "motor", 390, 844), ("wiper-ternwick-rear", "motor", 390, 844),
        ("tideway-window", "regulator", 1280, 800), ("petrel-fan", "motor", 390, 844), ("ternwick-valve", "actuator", 1280, 800),
    ];

    /// <summary>Two of them in the browser, all with ./test --all; the others are walked without scripts.</summary>
    public static TheoryData<string, string, int, int> InTheBrowser => [.. OneOfAFamily.Where(f => Site.Everything || f.Map is "wiper-ternwick-rear" or "ternwick-valve").Select(f => (f.Map, f.Repair, f.Width, f.Height))];

    public static TheoryData<string, string> WithoutScripts => [.. OneOfAFamily.Select(f => (f.Map, f.Repair))];

    /// <summary>The same walk as the next one, form by form as HTML sends them.</summary>
    [Theory]
    [MemberData(nameof(WithoutScripts))]
    public async Task A_job_of_each_family_is_done_without_scripts(string map, string repair)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var number = await DecidedAsync(jobs, map, repair);
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/way-in");
        if (b.Page.QuerySelector(".fitted a.row-button") is { } fitted)
        {
            await b.OpenAsync(fitted.GetAttribute("href")!);
        }

        Assert.Contains(Library.Map(map).Map.Lessons[0].Words, b.Page.QuerySelector(".lessons")!.TextContent, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm);
        await WaitedAsync(jobs, number);
        await b.OpenAsync($"/jobs/{number}/take-apart");
        for (var i = 0; b.At.AbsolutePath.EndsWith("/take-apart", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 60, b.Text);
            await b.SubmitAsync(b.Page.QuerySelector("a.waits-main") is null ? b.MainForm : b.LookedForm!);
        }

        for (var i = 0; b.At.AbsolutePath.EndsWith("/refit", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 60, b.Text);
            await AnsweredAsync(b, ".gate ", map);
            if (b.Page.QuerySelector("[data-main]")!.TextContent.TrimStart().StartsWith("Set it", StringComparison.Ordinal))
            {
                await SetAsync(jobs, number);
                await b.OpenAsync(b.At.PathAndQuery);
                continue;
            }

            await b.SubmitAsync(b.MainForm);
        }

        Assert.EndsWith("/prove", b.At.AbsolutePath, StringComparison.Ordinal);
        await AnsweredAsync(b, "", map);
        while (b.Page.QuerySelector(".row-tool form") is not null)
        {
            await b.SubmitAsync(".row-tool form");
        }

        await b.OpenAsync($"/jobs/{number}/hand-back");
        await b.SubmitAsync("#hand-back", ("found", "As decided."), ("cause", Library.System(Library.Map(map).Map.Family)!.RootCauses[0].Id));
        Assert.EndsWith("/sheet", b.At.AbsolutePath, StringComparison.Ordinal);
        var job = (await jobs.FindAsync(number))!.Job;
        Assert.Empty(job.Disputes);
        Assert.NotNull(job.HandedBack);
    }

    private static async Task AnsweredAsync(PlainBrowser b, string under, string map)
    {
        for (var i = 0; b.Page.QuerySelectorAll($"{under}.row-check").FirstOrDefault(r => r.QuerySelector(".mark-todo") is not null) is { } open; i++)
        {
            Assert.True(i < 30, b.Text);
            var form = (AngleSharp.Html.Dom.IHtmlFormElement)open.QuerySelector("form:has(> input[name=check])")!;
            var id = form.QuerySelector("input[name=check]")!.GetAttribute("value")!;
            await b.SubmitAsync(form, form.QuerySelector("input[name=value]") is null ? ("choice", form.QuerySelector("button[name=choice]")!.GetAttribute("value")!) : ("value", Good(map, id)));
        }
    }

    // A good figure for a check of the family.
    private static string Good(string map, string check) =>
        DemoTelling.Good(Library.System(Library.Map(map).Map.Family)!.Check(check)!, map.StartsWith("carrier", StringComparison.Ordinal) ? 24 : 12).Value!.Value.ToString();

    // The maker's wait cannot be shortened: here it began a quarter of an hour ago. Whether there is one.
    private static async Task<bool> WaitedAsync(JobStore jobs, long number)
    {
        var job = (await jobs.FindAsync(number))!.Job;
        if (job.Map!.Operation("restraint-waited") is null)
        {
            return false;
        }

        await jobs.AppendAsync(job.Id, [new EntryDraft(Guid.NewGuid(), job.Id, job.Head, Ansa, DateTimeOffset.Now.AddMinutes(-15), new TimerStarted("restraint-waited", TimerKind.Restraint, 10, "Restraint parts"))], Ansa, OutOfTurn.Refuse);
        return true;
    }

    // The setting screens have tests of their own.
    private static async Task SetAsync(JobStore jobs, long number)
    {
        var job = (await jobs.FindAsync(number))!.Job;
        var step = Refit.Order(job).First(id => !job.Refitted.ContainsKey(id));
        await jobs.AppendAsync(job.Id, [new EntryDraft(Guid.NewGuid(), job.Id, job.Head, Ansa, DateTimeOffset.Now, new SettingKept(step, job.Map!.Step(step)!.Setting!, "Measured, within its bands", true, new Dictionary<string, string>()))], Ansa, OutOfTurn.Refuse);
    }

    /// <summary>From the decision to the sheet: the way taken, every step ticked, every gate opened by what it asks for, every check taken, the cause said.</summary>
    [Theory]
    [MemberData(nameof(InTheBrowser))]
    public async Task A_job_of_each_family_is_done_in_the_browser(string map, string repair, int width, int height)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var number = await DecidedAsync(jobs, map, repair);
        using var b = new Browser(site, width, height);
        b.Open($"/jobs/{number}/way-in");
        if (Library.Map(map).Map.Fitted is not null)
        {
            Assert.Empty(b.All("[data-main]"));
            b.Press(".fitted .row-button");
        }

        Assert.Contains(Library.Map(map).Map.Lessons[0].Words, b.Script<string>("return document.querySelector('.lessons').textContent"), StringComparison.Ordinal);
        b.Press("[data-main]");
        if (await WaitedAsync(jobs, number))
        {
            b.Reload();
        }

        WalkTests.Apart(b);
        for (var i = 0; b.Path.EndsWith("/refit", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 60, b.Text);
            var main = b.One("[data-main]").Text;
            if (main.StartsWith("Gate shut", StringComparison.Ordinal))
            {
                Answer(b, ".gate ", map);
            }
            else if (main.StartsWith("Set it", StringComparison.Ordinal))
            {
                await SetAsync(jobs, number);
                b.Reload();
            }
            else
            {
                b.Press("[data-main]");
            }
        }

        Assert.EndsWith("/prove", b.Path, StringComparison.Ordinal);
        Answer(b, "", map);
        while (b.All(".row-tool form button").Count > 0)
        {
            b.Press(".row-tool form button");
        }

        Assert.Equal("Hand back", b.One("[data-main]").Text);
        b.Press("[data-main]");
        b.Type("#found", "As decided.");
        WalkTests.Cause(b, Library.System(Library.Map(map).Map.Family)!.RootCauses[0].Id);
        b.Press("[data-main]");
        Assert.EndsWith("/sheet", b.Path, StringComparison.Ordinal);
        Assert.Empty(b.Complaints);
        var job = (await jobs.FindAsync(number))!.Job;
        Assert.Empty(job.Disputes);
        Assert.NotNull(job.HandedBack);
    }

    // Whatever is open and can be answered: a good figure, or the good answer, which stands first.
    private static void Answer(Browser b, string under, string map)
    {
        for (var i = 0; b.All($"{under}.row-check:has(.mark-todo)").Count > 0; i++)
        {
            Assert.True(i < 30, b.Text);
            var row = $"{under}.row-check:has(.mark-todo)";
            var id = b.One($"{row} input[name=check]").GetDomAttribute("value")!;
            var form = $"{under}form:has(> input[name=check][value='{id}'])";
            if (b.All($"{form} input[name=value]").Count > 0)
            {
                b.Type($"#value-{id}", Good(map, id));
                b.Press($"{form} .check-enter button");
            }
            else
            {
                b.Press($"{form} .check-enter button[name=choice]:first-of-type");
            }
        }
    }

    private static async Task<long> DecidedAsync(JobStore jobs, string map, string repair)
    {
        var shipped = Library.Map(map);
        var system = Library.System(shipped.Map.Family)!;
        var vehicle = DemoFleet.Load().Vehicles.First(v => v.Model == shipped.Map.AppliesTo[0].Model);
        var t = new DemoTelling(Library, Guid.NewGuid(), Ansa, TimeSpan.FromHours(1), shipped);
        t.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.NominalVolts, system.Id, $"Walk of {map}", null));
        t.Say(1, new ComplaintNoted("It fails", [system.Behaviours.First(x => !x.Dead).Id], "Always", 3, 3, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, system.Repair(repair)!.Title, "For the walk.", repair));
        return await jobs.StoreAsync(t);
    }

    [Fact]
    public async Task A_failed_check_leads_back_from_the_page()
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var shipped = Library.Map("ternwick-blower");
        var t = new DemoTelling(Library, Guid.NewGuid(), Ansa, TimeSpan.FromHours(2), shipped);
        var vehicle = DemoFleet.Load().Vehicle("Pool estate");
        t.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, 12, "blower", "Led back", null));
        t.Say(1, new ComplaintNoted("Roars", ["roar"], "Always", 3, 3, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "blower motor replaced", "For the test.", "motor"));
        t.Say(1, new PartChosen("blower-new", "Blower motor, new", 168, 0));
        var plan = t.Take("motor");
        plan.Removal.ToList().ForEach(t.Apart);
        t.Back(plan, plan.Refit.Count);
        var number = await jobs.StoreAsync(t);

        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/prove");
        await b.SubmitAsync("#all-speeds form", ("choice", "missing"));
        Assert.Contains("Do again: Plug on", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#all-speeds form.leads-back");
        Assert.EndsWith("/refit", b.At.AbsolutePath, StringComparison.Ordinal);
        Assert.DoesNotContain("motor-plug", (await jobs.FindAsync(number))!.Job.Refitted.Keys);
        Assert.Contains("Sent back. Open again first", b.Page.QuerySelector(".caution")!.TextContent, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Something_else_is_seen_apart_and_the_order_is_cancelled()
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var shipped = Library.Map("petrel-blower");
        var t = new DemoTelling(Library, Guid.NewGuid(), Ansa, TimeSpan.FromHours(2), shipped);
        var vehicle = DemoFleet.Load().Vehicle("Harbour Petrel");
        t.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, 12, "blower", "Something else", null));
        t.Say(1, new ComplaintNoted("Shakes", ["vibration"], "Always", 3, 3, null));
        t.Say(1, new DecisionMade(DecisionAct.Guess, "blower motor replaced", "For the test.", "motor"));
        t.Say(1, new PartChosen("blower-new", "Blower motor, new", 168, 0));
        var plan = t.Take("motor");
        plan.Removal.SkipLast(1).ToList().ForEach(t.Apart);
        var number = await jobs.StoreAsync(t);

        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/take-apart");
        await b.SubmitAsync("form[action*=Otherwise]", ("why", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=Otherwise]", ("why", "a nest in the wheel"));
        Assert.EndsWith("/find", b.At.AbsolutePath, StringComparison.Ordinal);
        Assert.Contains("a nest in the wheel", b.Text, StringComparison.Ordinal);
        Assert.Contains("things are off", b.Text, StringComparison.Ordinal);
        Assert.Null((await jobs.FindAsync(number))!.Job.PartTaken);
        // From there the ways begin with what is off.
        await b.OpenAsync($"/jobs/{number}/way-in");
        Assert.Equal(HttpStatusCode.OK, b.Status);
        foreach (var page in new[] { "take-apart", "refit", "prove", "prepare", "history", "sheet", "hand-back" })
        {
            await b.OpenAsync($"/jobs/{number}/{page}");
            Assert.Equal(HttpStatusCode.OK, b.Status);
        }
    }

    public static TheoryData<string, string> Pages => new()
    {
        { "/insight?months=60", "Where the minutes went" },
        { "/insight?months=60&family=starting", "What killed them" },
        { "/insight?months=60&family=nonsense", "Where the minutes went" },
        { "/vehicles/7e1c0000-0000-4000-8000-000000000002", "Came back from job" },
        { "/vehicles/7e1c0000-0000-4000-8000-000000000001?next=starting", "Our " },
        { "/vehicles/7e1c0000-0000-4000-8000-000000000001?next=nonsense", "Its weak points" },
        { "/jobs/new?vehicle=7e1c0000-0000-4000-8000-000000000002", "Has it come back?" },
        { "/jobs/import", "Take a job in" },
        { "/jobs/1/sheet/customer", "Why it failed" },
        { "/jobs/7/sheet/customer", "Driving meanwhile" },
        { "/library/maps/fellgate-starter", "What our jobs found" },
    };

    [Theory]
    [MemberData(nameof(Pages))]
    public async Task The_pages_of_experience_say_what_they_know(string path, string told)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync(path);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.Contains(told, b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_comeback_starts_from_the_first_jobs_evidence()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/?q=same+click");
        var link = b.Page.QuerySelector("a.row-link")!.GetAttribute("href")!;
        await b.OpenAsync($"{link}/find");
        Assert.Contains("It came back.", b.Text, StringComparison.Ordinal);
        Assert.Contains("water or oil in the starter", b.Text, StringComparison.Ordinal);
        // Of another vehicle it cannot be one.
        await b.OpenAsync("/jobs/new?vehicle=7e1c0000-0000-4000-8000-000000000002");
        var of = b.Page.QuerySelectorAll("input[name=comeback]").Select(i => i.GetAttribute("value")).First(v => v is { Length: > 0 })!;
        await b.SubmitAsync("#open-job", ("vehicle", "7e1c0000-0000-4000-8000-000000000006"), ("family", "starting"), ("words", "again"), ("comeback", of));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("another vehicle", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_job_left_out_says_so_and_counts_again()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/20/history");
        await b.SubmitAsync("form[action*=LeaveOut]", ("why", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=LeaveOut]", ("why", "half of it by torch"));
        Assert.Contains("half of it by torch", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=CountAgain]");
        Assert.DoesNotContain("half of it by torch", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Lists_and_promised_times_go_out_as_files()
    {
        using var client = Client();
        foreach (var (path, header, type) in new[]
        {
            ("/jobs.csv", "job,vehicle,model,family,words,stage", "text/csv"), ("/jobs.csv?show=closed", "closed_at", "text/csv"), ("/vehicles.csv", "nominal_volts", "text/csv"),
            ("/insight?handler=Csv&picture=minutes&months=60", "planned_minutes", "text/csv"), ("/insight?handler=Csv&picture=comebacks&months=60", "motors_condemned", "text/csv"), ("/promised.ics", "BEGIN:VEVENT", "text/calendar"),
        })
        {
            var answer = await client.GetAsync(path);
            Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
            Assert.Equal(type, answer.Content.Headers.ContentType!.MediaType);
            var text = await answer.Content.ReadAsStringAsync();
            Assert.Contains(header, text, StringComparison.Ordinal);
            Assert.DoesNotContain("\n\n", text.Replace("\r", "", StringComparison.Ordinal), StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/insight?handler=Csv&picture=moon")).StatusCode);
    }

    [Fact]
    public async Task A_job_goes_out_and_comes_in_over_the_address_of_the_program()
    {
        using var client = Client();
        var text = await client.GetStringAsync("/jobs/3/file");
        Assert.Equal(text, await client.GetStringAsync($"/api/v1/jobs/{JsonDocument.Parse(text).RootElement.GetProperty("job").GetString()}"));
        var again = await client.PostAsync("/api/v1/jobs", new StringContent(text, Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.OK, again.StatusCode);
        Assert.False((await again.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("added").GetBoolean());
        foreach (var (bad, path) in new[] { (text.Replace("screeline/job@1", "screeline/job@7", StringComparison.Ordinal), "$.format"), ("{", "$"), (text.Replace("\"role\": \"technician\"", "\"role\": \"king\"", StringComparison.Ordinal), "$.people[0].role") })
        {
            var refused = await client.PostAsync("/api/v1/jobs", new StringContent(bad, Encoding.UTF8, "application/json"));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
            Assert.Equal(path, (await refused.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("faults")[0].GetProperty("path").GetString());
        }

        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await client.PostAsync("/api/v1/jobs", new StringContent(text))).StatusCode);
    }

    [Fact]
    public async Task A_workplace_a_dead_motor_and_a_version_change_the_way_that_is_shown()
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var number = await DecidedAsync(jobs, "wiper-carrier", "linkage");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{number}/way-in?motor=runs");
        Assert.Contains("Wipers run until the hidden nut shows", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{number}/way-in?motor=dead");
        Assert.Contains("turned through its linkage by hand", b.Text, StringComparison.Ordinal);
        Assert.Contains("Before the power goes", b.Text, StringComparison.Ordinal);
        Assert.Contains("Orange cables", b.Text, StringComparison.Ordinal);

        var starter = await DecidedAsync(jobs, "carrier-starter", "starter");
        await b.OpenAsync($"/jobs/{starter}/way-in?fitted=whole&place=ground&power=no");
        var ground = b.Page.QuerySelector(".way-minutes")!.TextContent;
        await b.OpenAsync($"/jobs/{starter}/way-in?fitted=whole&place=lift&power=yes");
        Assert.NotEqual(ground, b.Page.QuerySelector(".way-minutes")!.TextContent);
        await b.OpenAsync($"/jobs/{starter}/way-in?fitted=halves&place=ground&power=no");
        Assert.Contains("Front half of the undertray", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{starter}/way-in");
        Assert.Contains("Which undertray is fitted?", b.Text, StringComparison.Ordinal);
    }

    private HttpClient Client()
    {
        var client = new HttpClient { BaseAddress = site.Address };
        client.DefaultRequestHeaders.Add("Cookie", $"{SignIn.SignInSetup.Cookie}={site.CookieOf(Site.Ansa)}");
        return client;
    }
}
