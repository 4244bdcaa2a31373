using System.Net;
using Screeline.Core.Jobs;
using Screeline.Data;
using Screeline.Library;
using Screeline.Library.Demo;

namespace Screeline.Web.Tests;

/// <summary>Everyday situations have a form, and records say what was done: ways out, how a vehicle came, what is seen beside, quick jobs, torques.</summary>
public sealed class RecordPageTests(Site site) : IClassFixture<Site>
{
    private static readonly ShippedLibrary Library = ShippedLibrary.Load();

    private async Task<Job> JobAsync(long number)
    {
        await using var database = new Database(site.Owner, "screeline_app");
        return (await new JobStore(database, new Families(Library)).FindAsync(number))!.Job;
    }

    [Fact]
    public async Task A_job_declined_half_way_says_what_is_apart_and_is_taken_up_where_it_stood()
    {
        var number = await site.JobAtAsync("undertray");
        var before = await JobAsync(number);
        using var b = new Browser(site, 390, 844);
        b.Open($"/jobs/{number}/take-apart");
        var act = b.One("h1.act").Text;
        b.Press("a.more:not(.seen)");
        b.Press($"a[href='/jobs/{number}/out']");
        foreach (var id in before.Open)
        {
            Assert.Contains(before.Map![id].DoneWords, b.Text, StringComparison.Ordinal);
        }

        // A way has to be chosen; what was typed stays.
        b.Type("#why", "too dear");
        b.Press("[data-main]", () => b.All("#how-fault").Any(f => f.Text.Length > 0));
        Assert.Equal("too dear", b.One("#why").GetDomProperty("value"));
        b.Press("input[name=how][value=Declined]");
        b.Type("#told", "the owner, by telephone");
        b.Press("[data-main]", () => b.Text.Contains("Take it up again", StringComparison.Ordinal));
        b.Open("/");
        Assert.Empty(b.All($"a[href='/jobs/{number}']"));
        // The sheet says how it stands.
        b.Open($"/jobs/{number}/sheet");
        foreach (var words in before.Open.Select(id => before.Map![id].DoneWords).Concat(["Declined", "too dear", "the owner, by telephone", "not looked at"]))
        {
            Assert.Contains(words, b.Text, StringComparison.Ordinal);
        }

        // What was decided and not done is not told as done.
        Assert.Contains("Decided, not finished: Starter", b.Text, StringComparison.Ordinal);
        b.Open($"/jobs/{number}/sheet/customer");
        Assert.Contains("Decided, not finished", b.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("What was done", b.Text, StringComparison.Ordinal);

        // Nothing is done meanwhile, and a way out is not taken twice.
        using (var plain = new PlainBrowser(site))
        {
            await plain.OpenAsync($"/jobs/{number}/take-apart");
            await plain.SubmitAsync(plain.MainForm);
            Assert.Equal(HttpStatusCode.Conflict, plain.Status);
            Assert.Contains("take it up again first", plain.Text, StringComparison.OrdinalIgnoreCase);
        }

        b.Open($"/jobs/{number}/out");
        b.Press("[data-main]");
        Assert.EndsWith("/take-apart", b.Path, StringComparison.Ordinal);
        Assert.Equal(act, b.One("h1.act").Text);
        b.Open("/");
        Assert.NotEmpty(b.All($"a[href='/jobs/{number}']"));
        Assert.Empty((await JobAsync(number)).Disputes);
        Assert.True(b.Complaints.Count == 0, string.Join("\n", b.Complaints));
    }

    [Fact]
    public async Task What_is_seen_beside_stands_in_the_next_job_until_it_is_settled()
    {
        var number = await site.JobAtAsync("undertray");
        using var b = new Browser(site, 390, 844);
        b.Open($"/jobs/{number}/take-apart");
        var act = b.One("h1.act").Text;
        var leak = $"oil at the sump seam {number}";
        // One press from the step, and back at it.
        b.Press("a.seen");
        b.Type("#what", leak);
        b.Press("[data-main]", () => b.All("#urgency-fault").Any(f => f.Text.Length > 0));
        Assert.Equal(leak, b.One("#what").GetDomProperty("value"));
        b.Press("input[name=urgency][value=Soon]");
        b.Press("[data-main]");
        Assert.EndsWith("/take-apart", b.Path, StringComparison.Ordinal);
        Assert.Equal(act, b.One("h1.act").Text);
        foreach (var sheet in new[] { "sheet", "sheet/customer" })
        {
            b.Open($"/jobs/{number}/{sheet}");
            Assert.Contains($"{leak}, soon", b.Text, StringComparison.Ordinal);
        }

        // The next job on the vehicle asks about it, and so does the vehicle's page.
        var next = await site.JobAtAsync("undertray");
        b.Open($"/jobs/{next}/complaint");
        b.Press($"a[href='/jobs/{next}/seen']:not(.more)");
        Assert.Contains(leak, b.Text, StringComparison.Ordinal);
        var seen = (await JobAsync(number)).Seen.Single(s => s.Seen.Payload.What == leak).Seen.Entry.Id;
        b.Press($"form:has(input[name=seen][value='{seen}']) button[value=Done]", () => !b.Text.Contains(leak, StringComparison.Ordinal));
        b.Open($"/vehicles/{(await JobAsync(next)).Opened.Payload.Vehicle}");
        Assert.DoesNotContain(leak, b.Text, StringComparison.Ordinal);
        Assert.True(b.Complaints.Count == 0, string.Join("\n", b.Complaints));
    }

    [Fact]
    public async Task A_vehicle_that_comes_with_its_starter_on_the_bench()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/8/came");
        var map = Library.Map("tideway-starter").Map;
        var off = Core.Access.Planning.RoutePlanner.Best(map).Removal.Select(a => map[a.Id]).Where(o => o.Kind == Core.Access.OperationKind.Open).ToList();
        // Contradictions are asked about and nothing typed is lost.
        await b.SubmitAsync("#state", ("missing", "lower bolt"), ("altered", "lower bolt"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("which is it?", b.Text, StringComparison.Ordinal);
        Assert.Equal("lower bolt", b.Page.QuerySelector("#altered")!.TextContent);
        await b.SubmitAsync("#intake", ("plate", "SC 104"), ("meter", "160000"));
        await b.SubmitAsync("#state", [.. off.Select(o => ("off", o.Id)), ("missing", "one screw of the undertray"), ("altered", ""), ("loose", "")]);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        var job = await JobAsync(8);
        Assert.Equal(off.Select(o => o.Id).ToHashSet(), job.Open.ToHashSet());
        Assert.Equal((160000m, MeterUnit.Kilometres), (job.Intake!.Payload.Meter!.Number, job.Intake.Payload.Meter.Unit));
        Assert.True(job.Count.Out > 0);
        // Leaving it now says what is apart.
        await b.OpenAsync("/jobs/8/out");
        Assert.Contains(off[^1].DoneWords, b.Text, StringComparison.Ordinal);
        // On the way: what is off stays off, and is part of the way.
        await b.OpenAsync("/jobs/8/sheet");
        Assert.Contains("when it came", b.Text, StringComparison.Ordinal);
        Assert.Contains("missing: one screw of the undertray", b.Text, StringComparison.Ordinal);

        // Decided, the way is planned from there: it holds what is off, and the way in is done with what is left.
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        foreach (var payload in new Payload[] { new ComplaintNoted("It only clicks", ["one-clunk"], "", 0, 0, null), new DecisionMade(DecisionAct.Guess, "starter replaced", "it lies on the bench", "starter") })
        {
            Assert.IsType<AppendResult.Kept>(await jobs.AppendAsync(job.Id, [new EntryDraft(Guid.NewGuid(), job.Id, (await JobAsync(8)).Head, new Guid(Site.Ansa), DateTimeOffset.Now, payload)], new Guid(Site.Ansa), OutOfTurn.Refuse));
        }

        await b.OpenAsync("/jobs/8/way-in");
        await b.SubmitAsync(b.MainForm);
        job = await JobAsync(8);
        Assert.NotNull(job.Route);
        Assert.Subset(job.Route.Payload.Removal.ToHashSet(), off.Select(o => o.Id).ToHashSet());
        Assert.All(job.Route.Payload.Removal.Where(id => !job.Removed.ContainsKey(id)), id => Assert.NotEqual(Core.Access.OperationKind.Open, map[id].Kind));
        Assert.Empty(job.Disputes);

        // The next job on it: the meter fell.
        await b.OpenAsync($"/jobs/new?vehicle={job.Opened.Payload.Vehicle}&family=starting");
        await b.SubmitAsync("form[method=post]", ("vehicle", job.Opened.Payload.Vehicle.ToString()), ("family", "starting"), ("words", "Again"));
        var next = b.At.AbsolutePath.Split('/')[2];
        await b.OpenAsync($"/jobs/{next}/came");
        Assert.Equal("SC 104", b.Page.QuerySelector("#plate")!.GetAttribute("value"));
        await b.SubmitAsync("#intake", ("meter", "16000"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("It fell: 160000 km", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#intake", ("meter", "16000"), ("sure", "yes"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
    }

    /// <summary>Random jobs: their sheets say of every joint, the cause and the parts what an entry said, and that nobody said where nobody did.</summary>
    [Fact]
    public async Task A_sheet_says_nothing_that_no_entry_said()
    {
        await using var database = new Database(site.Owner, "screeline_app");
        var jobs = new JobStore(database, new Families(Library));
        var vehicle = DemoFleet.Load().Vehicles.First(v => v.Model == "Brannock Tideway");
        for (var seed = 0; seed < 6; seed++)
        {
            var random = new Random(seed);
            var said = new Dictionary<string, string>(StringComparer.Ordinal);
            var told = new DemoTelling(Library, Guid.NewGuid(), new Guid(Site.Ansa), TimeSpan.FromHours(3), Library.Map("tideway-starter"))
            {
                Pace = 0.1,
                Tightens = (step, f) =>
                {
                    var (set, words) = random.Next(4) switch
                    {
                        0 => (new TorqueSet(step, f.Id, TorqueHow.Wrench, f.Torque!.Value, null), f.Torque.Value.ToString()),
                        1 => (new TorqueSet(step, f.Id, TorqueHow.ByHand, null, null), "by hand"),
                        2 => (new TorqueSet(step, f.Id, TorqueHow.NotDone, null, null, Why: "no room for it"), "not tightened to its figure (no room for it)"),
                        _ => ((TorqueSet?)null, "not said"),
                    };
                    said[$"{f.Holds}, {f.Words(f.Count)}"] = words;
                    return set;
                },
            };
            told.Say(0, new JobOpened(vehicle.Id, vehicle.Name, vehicle.Model, vehicle.NominalVolts, "starting", $"It only clicks, sheet {seed}", null));
            told.Say(1, new ComplaintNoted("It only clicks", ["one-clunk"], "always", 5, 5, null));
            told.Say(1, new DecisionMade(DecisionAct.Guess, told.Job.System.Repair("starter")!.Title, "heard before", "starter"));
            var plan = told.Take("starter", random.Next(2) == 0 ? null : new HashSet<string> { "undertray" });
            foreach (var action in plan.Removal)
            {
                told.Apart(action);
            }

            told.Back(plan, plan.Refit.Count);
            told.Prove();
            var (cause, done) = random.Next(3) switch { 0 => ((string?)"age", (string?)"new brushes"), 1 => ("age", null), _ => (null, null) };
            told.Close("Open inside.", null, null, cause, done);
            var number = await jobs.StoreAsync(told);

            using var b = new PlainBrowser(site);
            await b.OpenAsync($"/jobs/{number}/sheet");
            var rows = b.Page.QuerySelectorAll("h2").First(h => h.TextContent == "Torques").ParentElement!.QuerySelectorAll("tbody tr").ToDictionary(r => r.Children[0].TextContent, r => r.Children[2].TextContent, StringComparer.Ordinal);
            Assert.Superset(said.Keys.ToHashSet(), rows.Keys.ToHashSet());
            Assert.All(rows, row => Assert.Equal(said.GetValueOrDefault(row.Key, "not said"), row.Value));
            var age = Library.System("starting")!.RootCauses.First(c => c.Id == "age");
            var causeTold = b.Page.QuerySelectorAll("dt").First(d => d.TextContent == "Cause").NextElementSibling!.TextContent;
            Assert.Equal(cause is null ? "not asked" : done is null ? age.Title : $"{age.Title}. {done}", causeTold);
            Assert.DoesNotContain(age.Remedy, b.Text, StringComparison.Ordinal);
            Assert.DoesNotContain("Meter", b.Text, StringComparison.Ordinal);

            // What holds a wheel on and has no figure is not driven, on both sheets.
            var open = (await JobAsync(number)).NotDrivenUntilChecked;
            Assert.Equal(open.Count > 0, b.Text.Contains("Not driven until checked", StringComparison.Ordinal));
            await b.OpenAsync($"/jobs/{number}/sheet/customer");
            Assert.Equal(open.Count > 0, b.Text.Contains("Not driven until checked", StringComparison.Ordinal));
            Assert.Equal(cause is not null, b.Text.Contains("Why it failed", StringComparison.Ordinal));
            await b.OpenAsync($"/vehicles/{vehicle.Id}");
            Assert.Equal(open.Count > 0, b.Page.QuerySelector($"a[href='/jobs/{number}/hand-back']") is not null);
            if (open.Count > 0)
            {
                await b.OpenAsync($"/jobs/{number}/hand-back");
                await b.SubmitAsync("form[action*=Checked]", ("how", "tightened again, 140 N·m"));
                Assert.Empty((await JobAsync(number)).NotDrivenUntilChecked);
            }
        }
    }

    /// <summary>Nothing found amiss: what was done in one go is ticked in one go.</summary>
    [Fact]
    public async Task A_blower_of_five_operations_takes_few_presses()
    {
        using var b = new Browser(site);
        b.Open("/jobs/new");
        b.Press("input[name=family][value=blower]");
        var vehicle = b.Script<string>("return [...document.querySelectorAll('#vehicle option')].find(o => o.textContent.includes('Dinghy')).value");
        b.Script<object?>("document.getElementById('vehicle').value = arguments[0]; return null", vehicle);
        b.Type("#words", "No air in the cab");
        b.Press(".btn-main");
        var (number, begin) = (long.Parse(b.Path.Split('/')[2], System.Globalization.CultureInfo.InvariantCulture), b.Actions);
        b.Press("input[value=dead]");
        b.Press("[data-main]");
        // What somebody who knows the job looks at first, where it is not what is proposed.
        foreach (var (test, answer) in new[] { ("plug-volts", "12.1"), ("wheel-looked", "clean"), ("wheel-spun", "smooth"), ("plug-volts", "12.1"), ("blower-speeds", "dead") })
        {
            if (b.One("#reading input[name=test]").GetDomAttribute("value") != test)
            {
                b.Press(".other-tests summary", () => b.All(".other-tests[open]").Count > 0);
                b.Script<object?>("document.getElementById('other').value = arguments[0]; return null", test);
                b.Press(".other-test button");
            }

            if (b.All("#value").Count > 0)
            {
                b.Type("#value", answer);
            }
            else
            {
                b.Press($"input[value={answer}]");
            }

            b.Press("[data-main]");
        }

        // All four ways are shown, and what decides was read twice.
        Assert.Equal(4, b.All(".proof-shown").Count);
        var stages = new List<string> { $"to the proof {b.Actions - begin}" };
        b.Press("[data-main]");
        b.Press("[data-main]");
        ToHere(b);
        Assert.True(b.Path.EndsWith("/refit", StringComparison.Ordinal), b.Text);
        stages.Add($"to the way back {b.Actions - begin}");
        while (b.Path.EndsWith("/refit", StringComparison.Ordinal))
        {
            Checks(b);
            if (b.All("button[name=to]").Count > 0 && !b.One("[data-main]").Text.StartsWith("Gate", StringComparison.Ordinal))
            {
                ToHere(b);
            }
            else
            {
                b.Press("[data-main]");
            }
        }

        stages.Add($"to the proof of the repair {b.Actions - begin}");
        Checks(b);
        while (b.All("form[action*=Carried] button").Count > 0)
        {
            b.Press("form[action*=Carried] button");
        }

        b.Press("[data-main]");
        b.Press("[data-main]");
        Assert.EndsWith("/sheet", b.Path, StringComparison.Ordinal);
        // 25 were wanted: readings that are not the ones proposed cost two presses each to come to, and what decides is read twice.
        Assert.True(b.Actions - begin <= 33, $"{b.Actions - begin} presses: {string.Join(", ", stages)}");
        var job = await JobAsync(number);
        Assert.Empty(job.Disputes);
        Assert.Contains(job.Removed.Values, t => t.Payload.Together);
        Assert.Contains("told together", b.Text, StringComparison.Ordinal);
    }

    // The last step to which one can come in one go.
    private static void ToHere(Browser b)
    {
        var last = b.All("button[name=to]").Last().GetDomAttribute("value");
        b.Press($"button[name=to][value='{last}']");
    }

    private static void Checks(Browser b)
    {
        while (b.All(".row-check:has(.mark-todo) .check-enter").FirstOrDefault() is { } open)
        {
            if (open.FindElements(OpenQA.Selenium.By.CssSelector("input[name=value]")) is [var field, ..])
            {
                var id = field.GetDomAttribute("id")!;
                b.Type($"#{id}", id.Contains("current", StringComparison.Ordinal) ? "9 A" : "12");
                b.Press($".check-enter:has(#{id}) button");
            }
            else
            {
                b.Press(".row-check:has(.mark-todo) .check-enter button[name=choice]:first-of-type");
            }
        }
    }
}
