namespace Screeline.Web.Tests;

/// <summary>How often a hand is needed (docs/walks.md): with a pointer on the tablet and the phone, and with the keyboard alone.</summary>
public sealed class ActionTests(Site site)
{
    public static TheoryData<int, int, bool> Hands { get; } = new() { { 1280, 800, false }, { 390, 844, false }, { 1280, 800, true } };

    [Theory]
    [MemberData(nameof(Hands))]
    public async Task One_press_from_the_yard_to_the_next_step_and_one_for_each_tick(int width, int height, bool keyboardOnly)
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site, width, height, keyboardOnly);
        b.Open($"/?q={job}");
        b.Press($"a[href='/jobs/{job}']");
        Assert.Equal(1, b.Actions);
        Assert.Equal($"/jobs/{job}/take-apart", b.Path);
        var act = b.One("h1.act").Text;
        b.Press("[data-main]");
        Assert.Equal(2, b.Actions);
        Assert.NotEqual(act, b.One("h1.act").Text);
    }

    [Theory]
    [MemberData(nameof(Hands))]
    public void A_reading_with_its_unit_takes_two(int width, int height, bool keyboardOnly)
    {
        using var b = new Browser(site, width, height, keyboardOnly);
        // Starting from the screen that asks for it: the figure typed with a unit of another size, and one press.
        b.Open("/jobs/12/find?test=ground-drop");
        var kept = b.All(".row-reading").Count;
        b.Type("#value", "180 mV");
        b.Press("[data-main]");
        Assert.Equal(2, b.Actions);
        Assert.Equal(kept + 1, b.All(".row-reading").Count);
        Assert.Contains("180 mV", b.One(".readings").Text, StringComparison.Ordinal);
        // Taken back, so that the next size finds the same job.
        b.Script<object?>("document.querySelectorAll('.reading-mend').forEach(d => { d.open = true; }); return null");
        b.Press(".reading-mend form[action*=Withdraw] button, .row-reading form[action*=Withdraw] button");
    }

    [Theory]
    [MemberData(nameof(Hands))]
    public async Task Every_other_stage_is_one_press_away(int width, int height, bool keyboardOnly)
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site, width, height, keyboardOnly);
        string[] stages = ["complaint", "find", "way-in", "take-apart", "refit", "prove", "hand-back"];
        foreach (var (from, to) in stages.Zip(stages.Skip(1).Append(stages[0])).Append((stages[3], stages[1])))
        {
            b.Open($"/jobs/{job}/{from}");
            var before = b.Actions;
            b.Press($".stages a[href='/jobs/{job}/{to}']");
            Assert.Equal(1, b.Actions - before);
            Assert.Equal($"/jobs/{job}/{to}", b.Path);
        }
    }

    [Theory]
    [MemberData(nameof(Hands))]
    public async Task A_word_is_explained_where_it_stands_by_one_press(int width, int height, bool keyboardOnly)
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site, width, height, keyboardOnly);
        foreach (var (view, word, told) in new[]
        {
            ("/jobs/12/find?test=ground-drop", "ground drop", "one lead on the motor's own metal"), ("/jobs/12/find?test=ground-drop", "back-probe", "Never through the insulation"),
            ($"/jobs/{job}/take-apart?step=main-nut", "stud", "Hold it still while the nut turns"), ($"/jobs/{job}/take-apart?step=main-nut", "flexible head", "keep the head flat"),
            ("/jobs/4/way-in", "negative lead first", "Key off"),
        })
        {
            b.Open(view);
            var summary = b.All(".word > summary").Single(s => s.Text == word);
            // What other tests keep on the same job does not come in meanwhile.
            b.Script<object?>("arguments[0].id = 'asked'; document.getElementById('frame').dataset.grows = ''; return null", summary);
            Assert.DoesNotContain(told, b.Text, StringComparison.Ordinal);
            var before = b.Actions;
            b.Press("#asked", () => b.Script<bool>("return document.getElementById('asked').parentElement.open"));
            Assert.Equal(1, b.Actions - before);
            Assert.Contains(told, b.Text, StringComparison.Ordinal);
        }

        Assert.True(b.Script<bool>("return !!document.querySelector('details[open] svg.sketch, .word svg.sketch')"));
    }
}
