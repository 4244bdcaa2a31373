namespace Screeline.Web.Tests;

/// <summary>The path walked badly: back, twice, in two tabs, reloaded, with long names, without a map, turned round.</summary>
public sealed class RoughTests(Site site)
{
    [Fact]
    public async Task Back_shows_what_is_kept_and_keeps_nothing_twice()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/find");
        b.Open($"/jobs/{job}/take-apart");
        b.Press("[data-main]");
        var act = b.One("h1.act").Text;
        b.Press(".stages a[href$='/complaint']");
        b.Back();
        b.Until(() => b.Path.EndsWith("/take-apart", StringComparison.Ordinal) && b.One("h1.act").Text == act, "back shows an old step");
        b.Press("[data-main]");
        Assert.NotEqual(act, b.One("h1.act").Text);
        Assert.Equal(0L, await site.ScalarAsync<long>($"select sum(s.disputes) from job_summaries s join jobs j on j.id = s.job_id where j.number = {job}"));
    }

    private static int Ticked(Browser b) => b.All(".all-steps .mark-done").Count;

    [Fact]
    public async Task Pressed_twice_in_a_row_one_step_is_ticked()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site, 390, 844);
        b.Open($"/jobs/{job}/take-apart");
        var (act, count) = (b.One("h1.act").Text, Ticked(b));
        b.PressTwice("[data-main]");
        b.Until(() => b.One("h1.act").Text != act, "nothing was ticked");
        b.RunAsync("const done = arguments[arguments.length - 1]; const rest = () => document.querySelector('.htmx-request') ? setTimeout(rest, 20) : done(); rest();");
        b.Reload();
        Assert.Equal(count + 1, Ticked(b));
    }

    [Fact]
    public async Task Of_two_tabs_the_older_is_told_and_loses_nothing()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart");
        var first = b.OtherTab();
        b.Open($"/jobs/{job}/take-apart");
        b.Press("[data-main]");
        var now = b.One("h1.act").Text;
        b.GoToTab(first);
        // What was done in the other one comes by itself; the hand is not asked to press what is done.
        b.Until(() => b.One("h1.act").Text == now, "the older tab still shows what is done");
        Assert.Empty(b.All("#refusal"));
    }

    [Theory]
    [InlineData("/jobs/8/complaint", "#when", "Worse after rain")]
    [InlineData("/jobs/12/find?test=ground-drop", "#value", "0.31 V")]
    [InlineData("/jobs/new", "#words", "Grinds, then nothing")]
    public void What_is_typed_outlives_a_reload(string view, string field, string words)
    {
        using var b = new Browser(site);
        b.Open(view);
        b.Type(field, words);
        b.Reload();
        b.Until(() => b.One(field).GetDomProperty("value") == words, $"{field} is {b.One(field).GetDomProperty("value")}");
        b.Open("/");
        b.Open(view);
        b.Until(() => b.One(field).GetDomProperty("value") == words, "gone after a look elsewhere");
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task A_draft_belongs_to_its_step_and_ends_when_it_is_sent()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart");
        b.Script<object?>("document.querySelector('#keeps').open = true; return null");
        b.Type("#keeps [name=text]", "Clip broken before");
        b.Press("[data-main]");
        Assert.Equal("", b.One("#keeps [name=text]").GetDomProperty("value"));
        b.Press(".step-back");
        b.Until(() => b.One("#keeps [name=text]").GetDomProperty("value") == "Clip broken before", "the draft is gone");
        b.Script<object?>("document.querySelector('#keeps').open = true; return null");
        b.Press("#keeps form[action*=Note] button");
        b.Until(() => b.One("#keeps > summary").Text == "Pictures and notes: 1", "the note is not kept");
        b.Reload();
        Assert.Equal("", b.Script<string>("return document.querySelector('#keeps [name=text]').value"));
    }

    [Fact]
    public async Task Names_of_two_hundred_characters_break_nothing()
    {
        var name = string.Concat(Enumerable.Repeat("Overlong Haulage Wagon ", 9))[..200].Trim().PadRight(200, 'x');
        using (var plain = new PlainBrowser(site))
        {
            await plain.OpenAsync("/vehicles/new");
            await plain.SubmitAsync("#vehicle", ("name", name), ("model", new string('M', 200)), ("version", new string('V', 200)), ("year", "2031"), ("volts", "12"));
        }

        using var b = new Browser(site, 390, 844);
        b.Open("/jobs/new");
        b.Script<object?>("const s = document.querySelector('#vehicle'); s.value = [...s.options].find(o => o.text.includes('Overlong')).value; return null");
        b.Press("input[name=family][value=starting]");
        b.Type("#words", new string('W', 400));
        b.Press("[data-main], .actions .btn-main");
        var job = b.Path.Split('/')[2];
        foreach (var (width, height) in new[] { (390, 844), (1280, 800) })
        {
            b.Turn(width, height);
            foreach (var view in new[] { "/?q=Overlong", $"/jobs/{job}/complaint", $"/jobs/{job}/find", $"/jobs/{job}/way-in", $"/jobs/{job}/sheet", $"/jobs/{job}/history", "/library", "/jobs/new" })
            {
                b.Open(view);
                Assert.True(b.Script<long>("return document.documentElement.scrollWidth") <= width, $"{view} is wider than {width}: {b.Script<string>("return [...document.querySelectorAll('#frame *')].filter(e => e.getBoundingClientRect().right > screen.width + 1).map(e => e.className || e.tagName).slice(0, 9).join(', ')")}");
                Assert.True(b.Number("const m = document.querySelector('.actions .btn-main'); return m ? m.getBoundingClientRect().bottom : 0") <= height + 0.5, view);
            }
        }
    }

    [Fact]
    public void A_job_without_a_map_says_at_each_place_what_can_be_done()
    {
        using var b = new Browser(site, 390, 844);
        foreach (var stage in new[] { "complaint", "find", "way-in", "take-apart", "refit", "prove", "hand-back", "prepare", "old-and-new", "labels", "waits", "history", "sheet" })
        {
            b.Open($"/jobs/14/{stage}");
            Assert.True(b.All("main#work").Count == 1, stage);
            Assert.True(b.Script<string>("return document.querySelector('main').innerText.trim()").Length > 20, $"{stage} says nothing");
        }

        b.Open("/jobs/14/way-in");
        Assert.Contains("map", b.One("main").Text, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public void A_phone_turned_round_keeps_the_main_action_and_half_of_the_height()
    {
        using var b = new Browser(site, 390, 844);
        b.Open("/jobs/12/find?test=ground-drop");
        b.Type("#value", "0.2");
        b.Turn(844, 390);
        Assert.Equal("0.2", b.One("#value").GetDomProperty("value"));
        foreach (var view in new[] { "/", "/jobs/8/complaint", "/jobs/12/find?test=ground-drop", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/9/refit", "/jobs/6/prove" })
        {
            b.Open(view);
            Assert.True(b.Script<long>("return document.documentElement.scrollWidth") <= 844, $"{view} is wider than the phone: {b.Script<string>("return [...document.querySelectorAll('#frame *')].filter(e => e.getBoundingClientRect().right > screen.width + 1).map(e => e.className || e.tagName).slice(0, 9).join(', ')")}");
            var (top, bottom) = (b.Number("return document.querySelector('.actions').getBoundingClientRect().top"), b.Number("return document.querySelector('.actions .btn-main').getBoundingClientRect().bottom"));
            Assert.True(bottom <= 390.5, $"{view}: the main action ends at {bottom}");
            Assert.True(top - b.Number("return document.querySelector('.band').getBoundingClientRect().height") >= 195, $"{view}: {top} less the band is left for the work");
        }
    }
}
