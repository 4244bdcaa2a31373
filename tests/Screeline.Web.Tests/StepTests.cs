using System.Net;
using OpenQA.Selenium;

namespace Screeline.Web.Tests;

/// <summary>What is said at a step besides its tick, in a real browser and through plain forms.</summary>
public sealed class StepTests(Site site)
{
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
        var job = await site.JobAtAsync("upper-bolt");
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
        var job = await site.JobAtAsync("upper-bolt");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart?step=upper-bolt");
        b.Press("a[href='#exceptions']", () => b.Script<bool>("return document.getElementById('not-as-planned').open"));
        b.Press("button[name=pick][value=hex-16]");
        Assert.Contains("Socket 16, not Socket 15 on a long extension", b.One(".tools").Text, StringComparison.Ordinal);

        b.Press("a[href='#exceptions']", () => b.Script<bool>("return document.getElementById('not-as-planned').open"));
        b.Press("#not-as-planned button[value=Seized]");
        b.Press(".seized button");
        b.Until(() => b.Text.Contains("Soaking: starter, upper", StringComparison.Ordinal), () => b.Text);
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
        // It changes the map, and so has a shop of its own.
        await using var own = new Site();
        await own.InitializeAsync();
        var job = await own.JobAtAsync("engine-cover");
        using var b = new PlainBrowser(own);
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
        var job = await site.JobAtAsync("engine-cover");
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

        Assert.Equal(3, b.All(".outline .d-stripe").Count);
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
        var job = await site.JobAtAsync("engine-cover");
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
        var job = await site.JobAtAsync("intake-duct");
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
        var job = await site.JobAtAsync("intake-duct");
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
    public async Task A_torque_in_the_wrong_unit_is_asked_about_before_it_is_kept()
    {
        var job = await site.JobAtAsync(null);
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
        // The codes are read by another program (zbar, Debian) off what the browser shows.
        using (var screen = new Browser(site))
        {
            screen.Open("/jobs/5/labels");
            var file = Path.Combine(Path.GetTempPath(), $"screeline-{Guid.NewGuid():N}.png");
            screen.Save("main", file);
            using var reader = System.Diagnostics.Process.Start(new System.Diagnostics.ProcessStartInfo("zbarimg", ["-q", "--raw", file]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
            var read = await reader.StandardOutput.ReadToEndAsync();
            File.Delete(file);
            Assert.Contains($"{site.Address}jobs/5/at/undertray", read, StringComparison.Ordinal);
            Assert.Equal(9, read.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
        }

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

    // An address as it goes over the wire, with Brotli where the server packs it.
    private async Task<byte[]> WireAsync(string path, bool exchanged = false)
    {
        using var http = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = site.Address };
        using var request = new HttpRequestMessage(HttpMethod.Get, path);
        request.Headers.Add("Accept-Encoding", "br");
        request.Headers.Add("Cookie", $"{SignIn.SignInSetup.Cookie}={site.CookieOf(Site.Ansa)}");
        if (exchanged)
        {
            request.Headers.Add("HX-Request", "true");
        }

        return await (await http.SendAsync(request)).EnsureSuccessStatusCode().Content.ReadAsByteArrayAsync();
    }

    /// <summary>What scripts ask for goes into a document that is there: the frame travels and nothing beside it. Without them the same address is a whole document.</summary>
    [Theory]
    [InlineData("/", 10_000)]
    [InlineData("/jobs/12/find", 10_000)]
    [InlineData("/jobs/7/find", 11_200)]
    [InlineData("/jobs/5/take-apart", 10_000)]
    [InlineData("/jobs/6/prove", 10_000)]
    [InlineData("/bench/wiper?park0=22&park1=19", 17_000)]
    public async Task What_is_exchanged_is_the_frame_alone(string path, int most)
    {
        var (whole, frame) = (await WireAsync(path), await WireAsync(path, exchanged: true));
        Assert.True(frame.Length < whole.Length && frame.Length <= most, $"{path}: {frame.Length} bytes of {whole.Length}");
        var (document, travelled) = (await ParsedAsync(whole), await ParsedAsync(frame));
        Assert.NotEmpty(document.QuerySelectorAll("head > script"));
        Assert.Empty(travelled.QuerySelectorAll("script[src], link, meta, symbol"));
        Assert.NotNull(travelled.QuerySelector("#frame #work"));
        Assert.Equal(document.Title, travelled.Title);

        static async Task<AngleSharp.Html.Dom.IHtmlDocument> ParsedAsync(byte[] packed)
        {
            await using var unpacked = new System.IO.Compression.BrotliStream(new MemoryStream(packed), System.IO.Compression.CompressionMode.Decompress);
            return await new AngleSharp.Html.Parser.HtmlParser().ParseDocumentAsync(unpacked, TestContext.Current.CancellationToken);
        }
    }

    /// <summary>The first view of a step and each further one, as they go over the wire with Brotli.</summary>
    [Fact]
    public async Task A_step_is_light()
    {
        foreach (var step in new[] { "/jobs/5/take-apart", "/jobs/5/take-apart?step=undertray", "/jobs/9/refit?step=undertray", "/jobs/9/refit" })
        {
            var page = (await WireAsync(step)).Length;
            using var b = new PlainBrowser(site);
            await b.OpenAsync(step);
            var files = b.Page.QuerySelectorAll("link[rel=stylesheet], script[src], link[rel=icon], link[rel=preload]").Select(e => e.GetAttribute("href") ?? e.GetAttribute("src")!)
                .Append("/lib/fonts/atkinson-hyperlegible-next-latin-700-normal.woff2").Append("/lib/fonts/atkinson-hyperlegible-mono-latin-700-normal.woff2").Distinct().ToList();
            long all = page;
            foreach (var file in files)
            {
                all += (await WireAsync(file)).Length;
            }

            Assert.True(page <= 15_000, $"{step}: {page} bytes");
            Assert.True(all <= 150_000, $"{step}: {all} bytes at first");
        }
    }

    /// <summary>
    /// The place under the thumb stays where it is from step to step, and nothing moves after a step has come. Shifts right after a press count as
    /// well: leaving them out, as the browser's own score does, would leave out every tick.
    /// </summary>
    [Theory]
    [InlineData(1280, 800)]
    [InlineData(390, 844)]
    public async Task Nothing_shifts_when_a_step_is_ticked(int width, int height)
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site, width, height);
        b.Open($"/jobs/{job}/take-apart");
        b.Script<object?>("""
            window.shifted = 0;
            new PerformanceObserver((list) => { for (const e of list.getEntries()) { window.shifted += e.value; } }).observe({ type: "layout-shift" });
            return null;
            """);
        (double Right, double Middle) Place() => (
            b.Number("return document.querySelector('[data-main]').getBoundingClientRect().right")!.Value,
            b.Number("const r = document.querySelector('[data-main]').getBoundingClientRect(); return (r.top + r.bottom) / 2")!.Value);
        var before = Place();
        for (var i = 0; i < 3; i++)
        {
            b.Press("[data-main]");
            var after = Place();
            Assert.Equal(before.Right, after.Right, 1);
            Assert.True(Math.Abs(before.Middle - after.Middle) < 24, $"the main action went from {before.Middle} to {after.Middle}: {b.One("[data-main]").Text}");
        }

        // Two frames later everything that comes late has come.
        b.RunAsync("const done = arguments[arguments.length - 1]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 0)));");
        Assert.True(b.Number("return window.shifted") < 0.01, $"{b.Number("return window.shifted")}");
    }
}
