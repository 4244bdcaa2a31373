using System.IO.Compression;
using System.Net;
using OpenQA.Selenium;

namespace Screeline.Web.Tests;

/// <summary>What is said at a step besides its tick, in a real browser and through plain forms.</summary>
public sealed class StepTests(Site site)
{
    private static readonly byte[] Picture = MakePicture();

    /// <summary>Every exception: two presses, and its consequence stands at the step.</summary>
    [Theory]
    [InlineData("Seized", "Seized: about", 1280, true)]
    [InlineData("Broken", "A new one goes in", 1280)]
    [InlineData("Missing", "Nothing goes into the tray for it", 390)]
    [InlineData("StudOut", "Keep stud and nut together", 1280)]
    [InlineData("WrongHole", "it goes elsewhere on the way back", 390)]
    [InlineData("StaysInHole", "in place, not in the tray", 1280)]
    [InlineData("OnStud", "It is counted as there", 1280)]
    [InlineData("OtherHand", "Left-hand thread: loosens with the clock", 1280)]
    public async Task An_exception_takes_two_presses(string state, string consequence, int width, bool keyboardOnly = false)
    {
        var job = await JobAtAsync("upper-bolt");
        using var b = new Browser(site, width, width == 390 ? 844 : 800, keyboardOnly);
        b.Open($"/jobs/{job}/take-apart?step=upper-bolt");
        b.Press("a[href='#exceptions']", () => b.Script<bool>("return document.getElementById('not-as-planned').open"));
        b.Press($"#not-as-planned button[value={state}]");
        b.Until(() => b.Text.Contains(consequence, StringComparison.Ordinal), $"“{consequence}” is not told:\n{b.Text}");
        Assert.Contains("step=upper-bolt", b.Script<string>("return location.search + (document.querySelector('h1').textContent.includes('Upper') ? 'step=upper-bolt' : '')"), StringComparison.Ordinal);
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task Another_size_changes_the_tool_at_once_and_a_seized_one_soaks()
    {
        var job = await JobAtAsync("upper-bolt");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart?step=upper-bolt");
        b.Press("a[href='#exceptions']", () => b.Script<bool>("return document.getElementById('not-as-planned').open"));
        b.Press("button[name=pick][value=hex-16]");
        Assert.Contains("Socket 16, not Socket 15 on a long extension", b.One(".tools").Text, StringComparison.Ordinal);

        b.Press("a[href='#exceptions']", () => b.Script<bool>("return document.getElementById('not-as-planned').open"));
        b.Press("#not-as-planned button[value=Seized]");
        b.Press(".seized button");
        b.Until(() => b.Text.Contains("Soaking: starter, upper", StringComparison.Ordinal), b.Text);
        Assert.Contains("min left", b.One(".timer-left").Text, StringComparison.Ordinal);
        // The hand goes on to what can be done meanwhile; the step itself cannot be ticked while it soaks, and whoever has looked may go on.
        Assert.DoesNotContain("Upper starter bolt", b.One("h1.act").Text, StringComparison.Ordinal);
        b.Open($"/jobs/{job}/take-apart?step=upper-bolt");
        Assert.StartsWith("Waits until", b.One("[data-main]").Text, StringComparison.Ordinal);
        Assert.NotEmpty(b.All($"a[href='/jobs/{job}/way-in?block=upper-bolt']"));
        b.Press("form:has(> input[name=early]) button");
        b.Until(() => b.All(".timer").Count == 0, $"the wait goes on: {string.Join(' ', b.All(".timer").Select(t => t.Text))}");
    }

    [Fact]
    public async Task A_hidden_fastener_is_counted_here_and_expected_by_the_next_job()
    {
        var job = await JobAtAsync("engine-cover");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart?step=engine-cover");
        await b.SubmitAsync("form[action*=Extra]", ("kind", "screw"), ("drive", "hex-99999"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("is not a drive", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Extra]", ("kind", "screw"), ("drive", "T20"), ("place", "under the badge"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.Contains("One more than the map knew: under the badge", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/library/maps/tideway-starter?step=engine-cover");
        Assert.Contains("under the badge", b.Page.DocumentElement.InnerHtml, StringComparison.Ordinal);
        // The job itself keeps the map it was planned on, and counts five places.
        await b.OpenAsync($"/jobs/{job}/take-apart?step=engine-cover");
        await b.SubmitAsync(b.MainForm);
        await b.OpenAsync($"/jobs/{job}/take-apart");
        Assert.Contains("5 in 1 cells", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Twenty_screws_are_counted_as_they_come()
    {
        var job = await JobAtAsync("engine-cover");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart?step=engine-cover");
        b.Press(".count-on button");
        Assert.StartsWith("0 of 4 out", b.One("[data-main]").Text, StringComparison.Ordinal);
        for (var i = 1; i < 4; i++)
        {
            b.Until(() => b.Focused.GetDomAttribute("data-main") is not null, "the focus is not on the main action");
            b.Key(i == 2 ? Keys.PageDown : Keys.Enter);
            var told = $"{i} of 4 out";
            b.Until(() => b.One("[data-main]").Text.StartsWith(told, StringComparison.Ordinal), $"not {told}");
        }

        Assert.Equal(3, b.All(".spot-done").Count);
        b.Press(".actions button[value=less]");
        Assert.StartsWith("2 of 4 out", b.One("[data-main]").Text, StringComparison.Ordinal);
        b.Press(".actions button[value=all]");
        Assert.StartsWith("Engine cover off, into cell", b.One("[data-main]").Text, StringComparison.Ordinal);
        b.Press("[data-main]");
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task A_half_counted_group_is_not_ticked()
    {
        var job = await JobAtAsync("engine-cover");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart?step=engine-cover");
        var done = PlainBrowser.Fields(b.MainForm);
        await b.SubmitAsync(".count-on", ("to", "start"));
        await b.SubmitAsync(b.MainForm, ("to", "more"));
        // A tablet that had the page open before the count began.
        await b.PostAsync($"/jobs/{job}/take-apart?handler=Done", done);
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Contains("3 push pins not counted yet", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_connection_for_a_moment_is_told_until_it_is_off_again()
    {
        var job = await JobAtAsync("intake-duct");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart?step=intake-duct");
        await b.SubmitAsync("form[action*=Plug]", ("what", " "));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=Plug]", ("what", "window switch"));
        await b.OpenAsync($"/jobs/{job}/prove");
        Assert.Contains("Plugged back for a moment: window switch", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form.plugged");
        await b.OpenAsync($"/jobs/{job}/take-apart");
        Assert.DoesNotContain("Plugged back for a moment: window switch", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_clinging_part_a_note_and_a_tool_that_stays_are_kept_with_the_step()
    {
        var job = await JobAtAsync("intake-duct");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart?step=intake-duct");
        await b.SubmitAsync("form[action*=Trouble]");
        Assert.Contains("Never lever", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Note]", ("text", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=Note]", ("text", "duct end is brittle"));
        Assert.Contains("duct end is brittle", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=ToolLeft]", ("tool", "locking pin"));
        await b.OpenAsync($"/jobs/{job}/prove");
        Assert.Contains("locking pin", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_picture_is_kept_pinned_by_taps_and_laid_over_a_fresh_one()
    {
        using var b = new Browser(site);
        var file = Path.Combine(Path.GetTempPath(), $"screeline-{Guid.NewGuid():N}.png");
        await File.WriteAllBytesAsync(file, Picture);
        try
        {
            b.Open("/jobs/9/refit?step=heat-shield");
            b.Press("#keeps > summary", () => b.Script<bool>("return document.getElementById('keeps').open"));
            b.One("#keeps input[type=file]").SendKeys(file);
            b.Press("#keeps form[enctype] button");
            b.Until(() => b.All(".shots a").Count == 1, b.Text);
            b.Press(".shots a");
            b.Until(() => b.Script<bool>("return document.querySelector('.pin-picture.fluid') !== null && document.querySelector('[data-pin]').offsetHeight > 100"), "the picture does not come");
            b.ClickAt("[data-pin]", 0.25, 0.5);
            b.Until(() => b.All(".pin").Count == 1, "no pin");
            var place = b.Script<string>("const p = document.querySelector('.pin-shape').getBBox(); const v = document.querySelector('.pinned svg').viewBox.baseVal; return Math.round(100 * (p.x + p.width / 2) / v.width) + ' ' + Math.round(100 * (p.y + p.height / 2) / v.height);");
            Assert.Equal("25 50", place);
            b.Press("a[href='?kind=Wire']");
            foreach (var (x, y, points) in new[] { (0.1, 0.1, 1), (0.5, 0.2, 2), (0.9, 0.1, 3) })
            {
                b.ClickAt("[data-pin]", x, y);
                b.Until(() => b.Text.Contains($"2 Wire route, {points} points", StringComparison.Ordinal), b.Text);
            }

            b.Press(".actions form button");
            b.Until(() => b.Text.Contains("2 Wire route, 2 points", StringComparison.Ordinal), b.Text);
            b.Press("[data-main]");

            // The same place again: the pins lie over the fresh picture.
            b.One("#keeps input[type=file]").SendKeys(file);
            b.Press("#keeps form[enctype] button");
            b.Until(() => b.All(".shots li").Count == 2, b.Text);
            Assert.Equal(4, b.All(".shots .pin").Count);
            Assert.Empty(b.Complaints);
        }
        finally
        {
            File.Delete(file);
        }
    }

    public static TheoryData<string, byte[], string> BadPictures => new()
    {
        { "text.jpg", "no picture at all"u8.ToArray(), "This is no picture that can be read" },
        { "cut.png", Picture[..(Picture.Length / 2)], "cut short" },
        { "empty.png", [], "No picture was chosen" },
        { "drawing.svg", "<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>"u8.ToArray(), "This is no picture that can be read" },
        { "large.jpg", new byte[12_300_000], "at most 12 are taken" },
    };

    [Theory]
    [MemberData(nameof(BadPictures))]
    public async Task A_bad_picture_is_refused_and_the_step_stays(string name, byte[] content, string words)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/5/take-apart?step=undertray");
        var before = await site.ScalarAsync<long>("select count(*) from documents where media_type like 'image/%'");
        await b.PostFileAsync("form[enctype]", "picture", name, content);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains(words, b.Text, StringComparison.Ordinal);
        Assert.Contains("Undertray off", b.Text, StringComparison.Ordinal);
        Assert.Equal(before, await site.ScalarAsync<long>("select count(*) from documents where media_type like 'image/%'"));
    }

    [Fact]
    public async Task Only_pictures_are_given_out_as_pictures()
    {
        using var b = new PlainBrowser(site);
        var map = await site.ScalarAsync<string>("select sha256 from documents where media_type = 'application/json' limit 1");
        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync($"/pictures/{map}.jpg")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync($"/pictures/{new string('0', 64)}.jpg")).StatusCode);
    }

    [Fact]
    public async Task A_torque_in_the_wrong_unit_is_asked_about_before_it_is_kept()
    {
        var job = await JobAtAsync(null);
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/refit");
        for (var i = 0; b.Page.QuerySelector("input[name=torque-stud-nut]") is null; i++)
        {
            Assert.True(i < 20, b.Text);
            await b.SubmitAsync(b.MainForm);
        }

        Assert.Contains("Leaflet with the rebuilt starter: 75 lbf·in", b.Text, StringComparison.Ordinal);
        Assert.Contains("Because the maker's figure comes before the part maker's figure", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm, ("torque-stud-nut", "8 lbf·ft"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("Specified is 8 N·m: that is 8 N·m", b.Text, StringComparison.Ordinal);
        Assert.Equal("8 lbf·ft", b.Page.QuerySelector("input[name=torque-stud-nut]")!.GetAttribute("value"));
        await b.SubmitAsync(b.MainForm, ("torque-stud-nut", "8 furlongs"));
        Assert.Contains("not a unit", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm, ("torque-stud-nut", "10 N·m"), ("sure-stud-nut", "yes"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.Equal("torque-wrench-5-25", await site.ScalarAsync<string>($"select payload->>'tool' from entries e join jobs j on j.id = e.job_id where j.number = {job} and kind = 'torque-set' order by position desc limit 1"));
    }

    [Fact]
    public async Task Old_and_new_are_compared_and_the_core_goes_back()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/6/old-and-new");
        await b.SubmitAsync("#teeth form", ("same", "no"), ("found", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("#terminals form", ("same", "no"), ("found", "points the other way"));
        Assert.Contains("Differs: points the other way", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#nut-size form", ("pick", "hex-14"));
        Assert.Contains("The step shows it now", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Core]");
        Assert.Contains("60 comes back", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/jobs/6/refit?step=main-nut");
        Assert.Contains("hex 14", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/jobs/4/prepare");
        await b.SubmitAsync("form:has(input[value=starter-new])");
        Assert.Contains("Starter, new, maker's, taken", b.Text, StringComparison.Ordinal);
        Assert.Contains("Intake duct off", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_left_over_holds_the_vehicle_and_a_difference_is_signed()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/6/prove");
        await b.SubmitAsync("form[action*=LeftOver]", ("what", "M6 screw, 16 mm"));
        Assert.Contains("1 M6 screw, 16 mm", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Settle]", ("how", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=Settle]", ("how", "from the last repair"));
        Assert.Contains("from the last repair", b.Text, StringComparison.Ordinal);

        // A count that does not balance.
        await b.OpenAsync("/jobs/6/refit");
        await b.SubmitAsync("form[action*=Undo]");
        for (var i = 0; b.Page.QuerySelector("input[name=back-clamp-nut]") is null; i++)
        {
            Assert.True(i < 20, b.Text);
            await b.SubmitAsync("form[action*=Undo]");
        }

        await b.SubmitAsync(b.MainForm, ("back-clamp-nut", "0"));
        while (b.At.AbsolutePath.EndsWith("/refit", StringComparison.Ordinal))
        {
            await b.SubmitAsync(b.MainForm);
        }

        Assert.Contains("1 M6 nut unaccounted for: negative clamp", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Sign]", ("reason", "x"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.SubmitAsync("form[action*=Sign]", ("reason", "terminal of another make, needs no nut"));
        Assert.Contains("Signed by Ansa Tollard", b.Text, StringComparison.Ordinal);
        Assert.Contains("Signed for", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_tray_is_laid_as_the_shop_chooses_and_its_labels_open_the_step()
    {
        using var b = new PlainBrowser(site);
        foreach (var layout in new[] { "strip", "bags", "grid" })
        {
            await b.OpenAsync("/library");
            await b.SubmitAsync("form[action*=Tray]", ("tray", layout));
            await b.OpenAsync("/jobs/5/take-apart");
            Assert.NotNull(b.Page.QuerySelector($".tray-{layout}"));
        }

        await b.OpenAsync("/jobs/5/labels");
        Assert.Equal(9, b.Page.QuerySelectorAll(".label").Length);
        await b.OpenAsync("/jobs/5/at/undertray");
        Assert.Equal("/jobs/5/take-apart?step=undertray", b.At.PathAndQuery);
        await b.OpenAsync("/jobs/9/at/undertray");
        Assert.Equal("/jobs/9/refit?step=undertray", b.At.PathAndQuery);
    }

    [Fact]
    public async Task A_calibration_that_ran_out_is_told()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/library");
        await b.SubmitAsync("form[action*=Calibrated]", ("on-torque-wrench-5-25", "2999-01-01"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        await b.OpenAsync("/library");
        var day = b.Page.QuerySelector("input[name=on-torque-wrench-1-6]")!.GetAttribute("value")!;
        await b.SubmitAsync("form[action*=Calibrated]", ("on-torque-wrench-1-6", "2020-01-01"));
        await b.OpenAsync("/bench/torque?value=4.5+N·m");
        Assert.Contains("calibration ran out on 1 Jan 2021", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/library");
        await b.SubmitAsync("form[action*=Calibrated]", ("on-torque-wrench-1-6", day));
    }

    [Theory]
    [InlineData("/bench/torque?value=47+N·m", "Set 47 N·m")]
    [InlineData("/bench/torque?value=24+N·m&thread=M5", "24 lbf·in is 2.71 N·m")]
    [InlineData("/bench/torque?value=47+V", "a torque is wanted")]
    [InlineData("/bench/torque?value=47&thread=M9", "not a size of ISO 261")]
    [InlineData("/bench/torque?value=20&offset=270&angle=180", "back to the grip")]
    [InlineData("/bench/thread?thread=M8", "24.6 N·m")]
    [InlineData("/bench/thread?thread=M8&joint=copper-stud", "Seat the nut")]
    [InlineData("/bench/thread?thread=M8&friction=9", "A number from 0.05 to 0.3")]
    [InlineData("/bench/socket?head=hex-13&tool=1/2", "Goes on a small head only")]
    [InlineData("/bench/socket?head=banana", "is not a drive")]
    [InlineData("/bench/wire?metres=1&section=35&amperes=200", "99 mV lost")]
    [InlineData("/bench/wire?metres=1&section=AWG+2&amperes=100", "51 mV lost")]
    [InlineData("/bench/wire?metres=-1&section=35", "A number from 0.01 to 200")]
    [InlineData("/bench/convert?figure=22+lb-ft", "29.8 N·m")]
    [InlineData("/bench/convert?figure=5+m", "5000 mm")]
    [InlineData("/bench/convert?figure=22", "Which unit?")]
    [InlineData("/bench/convert?figure=22+furlongs", "that unit is not known here")]
    public async Task The_bench_answers_without_a_job(string address, string words)
    {
        using var b = new PlainBrowser(site, person: null);
        await b.OpenAsync(address);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.Contains(words, b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public void The_bench_answers_while_one_types()
    {
        using var b = new Browser(site);
        b.Open("/bench/torque");
        b.Type("#value", "22 lb-ft");
        b.Until(() => b.Text.Contains("29.8 N·m", StringComparison.Ordinal), b.Text);
        Assert.Contains("value=22", b.Script<string>("return location.search"), StringComparison.Ordinal);
        b.Type("#thread", "M9");
        b.Until(() => b.One("#thread-fault").Text.Contains("ISO 261", StringComparison.Ordinal), b.Text);
        Assert.Empty(b.Complaints);
    }

    [Theory]
    [InlineData("""{"value": 90, "unit": "N·m", "adaptor": {"offset_mm": 45, "angle": 0}, "wrenches": [{"id": "w", "low": 20, "high": 120, "step": 1, "unit": "N·m", "length_mm": 450}]}""", "\"set\":82")]
    [InlineData("""{"thread": "M8"}""", "\"value_nm\":24.")]
    [InlineData("""{"value": 24, "unit": "N·m", "thread": "M5"}""", "24 lbf")]
    [InlineData("""{}""", "a thread to work one out for")]
    [InlineData("""{"value": 24, "unit": "stone"}""", "$.unit")]
    [InlineData("""{"value": 24, "unit": "N·m", "joint": "glass"}""", "$.joint")]
    [InlineData("""{"value": 24, "unit": "N·m", "colour": "red"}""", "$.colour")]
    [InlineData("""{"value": 24""", "$")]
    public async Task The_torque_calculator_over_JSON(string body, string words)
    {
        using var b = new PlainBrowser(site);
        var answer = await b.Client.PostAsync("/api/v1/torque", new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
        var text = System.Text.RegularExpressions.Regex.Unescape(await answer.Content.ReadAsStringAsync());
        Assert.Contains(words, text, StringComparison.Ordinal);
    }

    /// <summary>The first view of a step and each further one, as they go over the wire with Brotli.</summary>
    [Fact]
    public async Task A_step_is_light()
    {
        using var http = new HttpClient { BaseAddress = site.Address };
        async Task<long> WireAsync(string path)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, path);
            request.Headers.Add("Accept-Encoding", "br");
            request.Headers.Add("Cookie", $"screeline-person={Site.Ansa}");
            return (await (await http.SendAsync(request)).Content.ReadAsByteArrayAsync()).Length;
        }

        foreach (var step in new[] { "/jobs/5/take-apart", "/jobs/5/take-apart?step=undertray", "/jobs/9/refit?step=undertray", "/jobs/9/refit" })
        {
            var page = await WireAsync(step);
            using var b = new PlainBrowser(site);
            await b.OpenAsync(step);
            var files = b.Page.QuerySelectorAll("link[rel=stylesheet], script[src], link[rel=icon], link[rel=preload]").Select(e => e.GetAttribute("href") ?? e.GetAttribute("src")!).Distinct().ToList();
            long all = page + await WireAsync("/lib/fonts/atkinson-hyperlegible-next-latin-700-normal.woff2") + await WireAsync("/lib/fonts/atkinson-hyperlegible-mono-latin-700-normal.woff2");
            foreach (var file in files)
            {
                all += await WireAsync(file);
            }

            Assert.True(page <= 15_000, $"{step}: {page} bytes");
            Assert.True(all <= 150_000, $"{step}: {all} bytes at first");
        }
    }

    [Fact]
    public async Task Nothing_shifts_when_a_step_is_ticked()
    {
        var job = await JobAtAsync("intake-duct");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart");
        b.Script<object?>("""
            window.shifted = 0;
            new PerformanceObserver((list) => { for (const e of list.getEntries()) { if (!e.hadRecentInput) { window.shifted += e.value; } } }).observe({ type: "layout-shift", buffered: true });
            return null;
            """);
        b.Press("[data-main]");
        b.Press("[data-main]");
        Assert.True(b.Number("return window.shifted") < 0.01, $"{b.Number("return window.shifted")}");
    }

    // A job of its own, taken apart up to a step; null for all of it.
    private async Task<long> JobAtAsync(string? before)
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("behaviours", "one-clunk"), ("tried", "5"), ("failed", "5"), ("when", "always"));
        for (var i = 0; b.Page.QuerySelector(".verdict") is null; i++)
        {
            Assert.True(i < 12, b.Text);
            var (field, answer) = OpenStarter.Answer(b.Page.QuerySelector("#reading input[name=test]")!.GetAttribute("value")!);
            await b.SubmitAsync("#reading", (field, answer));
        }

        await b.SubmitAsync(b.MainForm, ("act", "proven"));
        await b.SubmitAsync(b.MainForm);
        for (var i = 0; b.At.AbsolutePath.EndsWith("/take-apart", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 40, b.Text);
            if (before is not null && b.Page.QuerySelector($".actions input[name=step][value='{before}']") is not null)
            {
                break;
            }

            await b.SubmitAsync(b.LookedForm ?? b.MainForm);
        }

        return b.Number;
    }

    // A made-up picture: 320 by 240 in four colours, written by hand so that the test needs no package for it.
    private static byte[] MakePicture()
    {
        const int width = 320, height = 240;
        using var raw = new MemoryStream();
        using (var zlib = new ZLibStream(raw, CompressionLevel.NoCompression, leaveOpen: true))
        {
            for (var y = 0; y < height; y++)
            {
                zlib.WriteByte(0);
                for (var x = 0; x < width; x++)
                {
                    zlib.Write([(byte)(x < 160 ? 60 : 200), (byte)(y < 120 ? 70 : 180), (byte)((x * y) & 255)]);
                }
            }
        }

        using var png = new MemoryStream();
        png.Write([137, 80, 78, 71, 13, 10, 26, 10]);
        void Chunk(string type, byte[] data)
        {
            byte[] body = [.. System.Text.Encoding.ASCII.GetBytes(type), .. data];
            png.Write([(byte)(data.Length >> 24), (byte)(data.Length >> 16), (byte)(data.Length >> 8), (byte)data.Length]);
            png.Write(body);
            var crc = Crc(body);
            png.Write([(byte)(crc >> 24), (byte)(crc >> 16), (byte)(crc >> 8), (byte)crc]);
        }

        Chunk("IHDR", [0, 0, width >> 8, width & 255, 0, 0, 0, height, 8, 2, 0, 0, 0]);
        Chunk("IDAT", raw.ToArray());
        Chunk("IEND", []);
        return png.ToArray();
    }

    // CRC-32 of the PNG specification, annex D.
    private static uint Crc(byte[] bytes)
    {
        var crc = 0xFFFFFFFFu;
        foreach (var b in bytes)
        {
            crc ^= b;
            for (var k = 0; k < 8; k++)
            {
                crc = (crc & 1) != 0 ? 0xEDB88320u ^ (crc >> 1) : crc >> 1;
            }
        }

        return ~crc;
    }
}
