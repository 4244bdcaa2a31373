using System.Net;

namespace Screeline.Web.Tests;

/// <summary>The application without scripts, badly filled forms, and two people at once.</summary>
public sealed class PlainTests(Site site)
{
    [Fact]
    public async Task A_whole_job_goes_through_plain_forms()
    {
        using var b = new PlainBrowser(site);
        await OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("behaviours", "one-clunk"), ("tried", "5"), ("failed", "5"), ("when", "always"));
        Assert.EndsWith("/find", b.At.AbsolutePath, StringComparison.Ordinal);
        for (var i = 0; b.Page.QuerySelector(".verdict") is null; i++)
        {
            Assert.True(i < 12, $"nothing is proven:\n{b.Text}");
            var (field, answer) = OpenStarter.Answer(b.Page.QuerySelector("#reading input[name=test]")!.GetAttribute("value")!);
            await b.SubmitAsync("#reading", (field, answer));
            Assert.Equal(HttpStatusCode.OK, b.Status);
        }

        Assert.Contains("Proven: starter", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm, ("act", "proven"));
        Assert.EndsWith("/way-in", b.At.AbsolutePath, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm);
        for (var i = 0; b.At.AbsolutePath.EndsWith("/take-apart", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 40, "the way in does not end");
            // What waits is passed over while anything else can be done; then somebody looks whether it is cool.
            await b.SubmitAsync(b.Page.QuerySelector("a.waits-main") is null ? b.MainForm : b.LookedForm!);
        }

        for (var i = 0; b.At.AbsolutePath.EndsWith("/refit", StringComparison.Ordinal); i++)
        {
            Assert.True(i < 60, "the way back does not end");
            while (b.Page.QuerySelector(".gate .mark-todo") is { } open)
            {
                var form = (AngleSharp.Html.Dom.IHtmlFormElement)open.ParentElement!.QuerySelector("form")!;
                var choice = form.QuerySelector("button[name=choice]")?.GetAttribute("value");
                await b.SubmitAsync(form, choice is null ? ("value", "0.1") : ("choice", choice));
            }

            await b.SubmitAsync(b.MainForm);
        }

        foreach (var (check, field, answer) in new[] { ("five-starts", "choice", "five"), ("cranking-volts", "value", "11.2"), ("charging-idle", "value", "14.1"), ("codes-clear", "choice", "none") })
        {
            await b.SubmitAsync($"#{check} form", (field, answer));
        }

        while (b.Page.QuerySelectorAll(".row-check").FirstOrDefault(r => r.QuerySelector(".mark-todo") is not null) is { } open)
        {
            await b.SubmitAsync((AngleSharp.Html.Dom.IHtmlFormElement)open.QuerySelector("form")!, ("choice", open.QuerySelector("button[name=choice]")!.GetAttribute("value")!));
        }

        while (b.Page.QuerySelector(".row-tool form") is not null)
        {
            await b.SubmitAsync(".row-tool form");
        }

        Assert.Contains("Out 25 = in 25 + renewed 0 + missing 0", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{b.Number}/hand-back");
        await b.SubmitAsync("#hand-back", ("found", "Open inside"), ("watch", "The battery"), ("cause", "age"));
        Assert.EndsWith("/sheet", b.At.AbsolutePath, StringComparison.Ordinal);
        foreach (var told in new[] { "It only clicks", "Starter replaced (proven)", "47 N·m", "27 lbf·in", "Open inside", "Record head" })
        {
            Assert.Contains(told, b.Text, StringComparison.Ordinal);
        }

        await b.OpenAsync("/?show=closed&q=It+only+clicks+plain");
        Assert.Contains($"Job {b.Page.QuerySelector(".row-number")!.TextContent[4..]}", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_typed_is_still_there_when_a_form_is_refused()
    {
        using var b = new PlainBrowser(site);
        await OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("tried", "many"), ("failed", "2"), ("when", "when it rains"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("“many” is not a number of times", b.Text, StringComparison.Ordinal);
        Assert.Contains("at least one", b.Text, StringComparison.Ordinal);
        Assert.Equal("many", b.Page.QuerySelector("#tried")!.GetAttribute("value"));
        Assert.Equal("when it rains", b.Page.QuerySelector("#when")!.GetAttribute("value"));

        await b.OpenAsync($"/jobs/{b.Number}/find?test=battery-rest");
        foreach (var (typed, reason) in new[] { ("125", "125 V on a 12 V system cannot be. Meant 12.5 V?"), ("12 A", "measures a current"), ("", "Nothing was typed"), ("<script>alert(1)</script>", "is not a figure") })
        {
            await b.SubmitAsync("#reading", ("value", typed));
            Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
            Assert.Contains(reason, b.Text, StringComparison.Ordinal);
            Assert.Equal(typed, b.Page.QuerySelector("#value")!.GetAttribute("value") ?? "");
        }

        await b.SubmitAsync("#reading", ("value", "12.5"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
    }

    [Fact]
    public async Task Pressing_twice_keeps_once()
    {
        using var b = new PlainBrowser(site);
        await OpenJobAsync(b);
        await NoteAsync(b);
        await b.OpenAsync($"/jobs/{b.Number}/find?test=battery-rest");
        var form = b.Form("#reading");
        var fields = PlainBrowser.Fields(form, ("value", "12.6"));
        var action = form.Action;
        for (var i = 0; i < 3; i++)
        {
            await b.PostAsync(action, fields);
            Assert.Equal(HttpStatusCode.OK, b.Status);
        }

        Assert.Single(b.Page.QuerySelectorAll(".row-reading"));
        // The same form with something else in it is not the same entry.
        await b.PostAsync(action, fields.Select(f => f.Key == "value" ? new KeyValuePair<string, string>("value", "12.1") : f));
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Equal(1L, await site.ScalarAsync<long>($"select count(*) from entry_collisions c join jobs j on j.id = c.job_id where j.number = {b.Number}"));
    }

    [Fact]
    public async Task Of_two_people_the_second_is_shown_what_the_first_did_and_keeps_what_was_typed()
    {
        using var ansa = new PlainBrowser(site);
        using var bram = new PlainBrowser(site, Site.Bram);
        await OpenJobAsync(ansa);
        await NoteAsync(ansa);
        await ansa.OpenAsync($"/jobs/{ansa.Number}/find?test=battery-rest");
        await bram.OpenAsync(ansa.At.PathAndQuery);
        await ansa.SubmitAsync("#reading", ("value", "12.6"));
        await bram.SubmitAsync("#reading", ("value", "12.1"));
        Assert.Equal(HttpStatusCode.Conflict, bram.Status);
        Assert.Contains("Ansa Tollard: Battery at rest, isolated: 12.6 V", bram.Text, StringComparison.Ordinal);
        // Now the next test is another, but the form still stands for what was typed.
        Assert.Equal("12.1", bram.Page.QuerySelector("#value")!.GetAttribute("value"));
        Assert.Equal("battery-rest", bram.Page.QuerySelector("#reading input[name=test]")!.GetAttribute("value"));
        await bram.SubmitAsync("#reading");
        Assert.Equal(HttpStatusCode.OK, bram.Status);
        Assert.Equal(2, bram.Page.QuerySelectorAll(".row-reading").Length);
    }

    [Fact]
    public async Task A_step_that_is_ticked_elsewhere_is_not_ticked_twice()
    {
        using var ansa = new PlainBrowser(site);
        using var bram = new PlainBrowser(site, Site.Bram);
        await ansa.OpenAsync("/jobs/5/take-apart");
        await bram.OpenAsync("/jobs/5/take-apart");
        await ansa.SubmitAsync(ansa.MainForm);
        await bram.SubmitAsync(bram.MainForm);
        Assert.Equal(HttpStatusCode.Conflict, bram.Status);
        Assert.Contains("Ansa Tollard: Main cable off", bram.Text, StringComparison.Ordinal);
        await ansa.SubmitAsync("form[action*=Undo]");
        Assert.Contains("Main cable nut off the starter", ansa.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_exception_is_kept_with_its_step_and_changes_what_goes_back()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/5/take-apart?step=heat-shield");
        Assert.Contains("Broken: heat shield", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form.exceptions", ("found", "OtherSize"), ("size", ""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("Which size fits?", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form.exceptions", ("found", "OtherSize"), ("size", "hex-11"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
        await b.OpenAsync("/jobs/5/take-apart?step=heat-shield");
        Assert.Contains("hex 11", b.Text, StringComparison.Ordinal);

        // A slip of the finger is taken back where it stands.
        await b.SubmitAsync(b.Page.QuerySelectorAll("form.take-back").Cast<AngleSharp.Html.Dom.IHtmlFormElement>().Last());
        Assert.Equal("/jobs/5/take-apart?step=heat-shield", b.At.PathAndQuery);
        Assert.DoesNotContain("hex 11 fits", b.Text, StringComparison.Ordinal);
        Assert.Contains("hex 10", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_lost_screw_keeps_the_job_from_going_back_until_it_is_accounted_for()
    {
        // The count itself is tested in the core; here only that the page names what is missing.
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/6/hand-back");
        Assert.Contains("Closed until the proof is done", b.Text, StringComparison.Ordinal);
        Assert.Contains("Not back: Wheel chocks", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#hand-back", ("found", "too early"), ("cause", "age"));
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Contains("Not proved yet", b.Text, StringComparison.Ordinal);
        Assert.Equal("too early", b.Page.QuerySelector("#found")!.TextContent.Trim());
    }

    [Fact]
    public async Task A_vehicle_is_added_and_a_name_taken_once()
    {
        using var b = new PlainBrowser(site);
        var name = $"Skiff {Guid.NewGuid():N}";
        for (var i = 0; i < 2; i++)
        {
            await b.OpenAsync("/vehicles/new");
            await b.SubmitAsync("#vehicle", ("name", name), ("model", "Brannock Tideway"), ("volts", "24"), ("year", i == 0 ? "2034" : "soon"));
            Assert.Equal(i == 0 ? HttpStatusCode.OK : HttpStatusCode.UnprocessableEntity, b.Status);
        }

        Assert.Contains("“soon” is not a year", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#vehicle", ("year", ""), ("volts", "12"));
        Assert.Contains("already", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Torque_is_told_in_the_unit_of_the_device_beside_the_specified_one()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/more");
        await b.SubmitAsync("#more", ("torque", "lbf·ft"), ("look", "dark"));
        await b.OpenAsync("/jobs/6/refit?step=upper-bolt");
        Assert.Contains("47 N·m specified, 34.7 lbf·ft", b.Text, StringComparison.Ordinal);
        Assert.Equal("dark", b.Page.DocumentElement.GetAttribute("data-look"));
    }

    [Fact]
    public async Task A_job_waits_until_it_waits_no_longer()
    {
        using var b = new PlainBrowser(site);
        await OpenJobAsync(b);
        var number = b.Number;
        await b.OpenAsync($"/more?back=/jobs/{number}/complaint");
        Assert.NotNull(b.Page.QuerySelector($"a[href='/jobs/{number}/waits']"));
        await b.OpenAsync($"/jobs/{number}/waits");
        await b.SubmitAsync("#waits", ("for", "a starter"), ("until", "next week"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Equal("a starter", b.Page.QuerySelector("#for")!.GetAttribute("value"));
        await b.SubmitAsync("#waits", ("until", "2036-05-04T09:00"));
        await b.OpenAsync($"/?q=job+{number}");
        Assert.Contains("Waits for a starter", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{number}/waits");
        await b.SubmitAsync("form[action*=Clear]");
        await b.OpenAsync($"/?q=job+{number}");
        Assert.DoesNotContain("Waits for", b.Text, StringComparison.Ordinal);
    }

    internal static async Task OpenJobAsync(PlainBrowser b, string family = "starting")
    {
        await b.OpenAsync("/jobs/new");
        await b.SubmitAsync("#open-job", ("vehicle", "7e1c0000-0000-4000-8000-000000000001"), ("family", family), ("words", "It only clicks plain"));
        Assert.EndsWith("/complaint", b.At.AbsolutePath, StringComparison.Ordinal);
    }

    internal static async Task NoteAsync(PlainBrowser b)
    {
        await b.SubmitAsync("#complaint", ("behaviours", "one-clunk"), ("tried", "5"), ("failed", "5"));
        Assert.EndsWith("/find", b.At.AbsolutePath, StringComparison.Ordinal);
    }
}

/// <summary>A van whose starter is open inside: what each test of Find gives.</summary>
internal static class OpenStarter
{
    private static readonly Dictionary<string, string> Numbers = new()
    {
        ["battery-rest"] = "12,58", ["battery-cranking"] = "12.4 V", ["battery-load"] = "10.4", ["starter-volts-cranking"] = "12300 mV", ["switched-terminal-cranking"] = "12.1",
        ["ground-drop-cranking"] = "0.01", ["cable-drop-cranking"] = "0.03", ["clamp-drop-cranking"] = "0.01", ["contact-drop-cranking"] = "0.02", ["fuse-far-side"] = "12.55", ["fuse-near-side"] = "12.57",
        ["relay-coil-feed"] = "12.3", ["relay-output"] = "12.2", ["switch-output"] = "12.3", ["cranking-current"] = "12 A", ["main-terminal-key-off"] = "12.56",
    };

    /// <summary>The field of the form and what goes into it.</summary>
    public static (string Field, string Answer) Answer(string test) => Numbers.TryGetValue(test, out var number) ? ("value", number) : ("choice", test switch
    {
        "engine-turns" => "turns",
        "repeat-command" => "always",
        "start-heard" => "one-clunk",
        "dash-lamps" => "normal",
        "lamp-main-terminal" => "bright",
        "ring-gear-looked" => "sound",
        _ => "same",
    });
}
