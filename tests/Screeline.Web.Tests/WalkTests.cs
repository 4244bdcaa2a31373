using OpenQA.Selenium;

namespace Screeline.Web.Tests;

/// <summary>One technician takes a van that only clicks from the yard to the printed sheet, in a real browser.</summary>
public sealed class WalkTests
{
    [Fact]
    public async Task From_the_yard_to_the_sheet_over_a_crash_half_way()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new Browser(site);
        Complaint(b);
        Find(b);
        b.Press("[data-main]");
        while (Ticked(b) < 9)
        {
            Tick(b);
        }

        // The page stands open while the process is killed and started again; its form is still good.
        var act = b.One("h1.act").Text;
        Assert.Empty(b.Complaints);
        await site.KillAsync();
        await site.StartAsync();
        // Pages read ahead found nobody meanwhile, whichever it was; nothing worse than that.
        Assert.All(b.Complaints, c => Assert.Contains("net::ERR_", c, StringComparison.Ordinal));
        Assert.Equal(act, b.One("h1.act").Text);
        // The exhaust still cools: the clock went on while nobody served.
        Assert.Contains("left", b.One(".timer-left").Text, StringComparison.Ordinal);
        Tick(b);
        Assert.Equal(10, Ticked(b));
        Apart(b);
        Refit(b);
        Prove(b);
        HandBack(b);
        Assert.Empty(b.Complaints);
        Assert.Equal(0L, await site.ScalarAsync<long>("select sum(disputes) from job_summaries"));
    }

    [Fact]
    public async Task The_whole_path_on_a_phone()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new Browser(site, 390, 844);
        Complaint(b);
        Find(b);
        b.Press("[data-main]");
        Apart(b);
        Refit(b);
        Prove(b);
        HandBack(b);
        Assert.Empty(b.Complaints);
    }

    [Fact]
    public async Task The_whole_path_with_the_keyboard_alone()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new Browser(site, keyboardOnly: true);
        Complaint(b);
        Find(b);
        b.Press("[data-main]");
        // In the step runner the focus is on the main action after every tick: Enter alone goes on, and so does a pedal.
        while (b.Path.EndsWith("/take-apart", StringComparison.Ordinal))
        {
            var step = b.One(".count").Text;
            b.Until(() => b.Focused.GetDomAttribute("data-main") is not null, "the focus is not on the main action");
            if (b.All("a.waits-main").Count > 0)
            {
                Tick(b);
                continue;
            }

            b.Key(step.Contains('7', StringComparison.Ordinal) ? Keys.PageDown : Keys.Enter);
            b.Until(() => !b.Path.EndsWith("/take-apart", StringComparison.Ordinal) || b.One(".count").Text != step, $"the key did nothing at {step}");
        }

        Refit(b);
        Prove(b);
        HandBack(b);
        Assert.Empty(b.Complaints);
    }

    private static void Complaint(Browser b)
    {
        b.Open("/");
        b.Press("a[href='/jobs/8']");
        Assert.Equal("/jobs/8/complaint", b.Path);
        b.Press("input[value=one-clunk]");
        b.Type("#tried", "5");
        b.Type("#failed", "5");
        b.Type("#when", "Always, worse in the morning");
        b.Press("[data-main]");
        Assert.Equal("/jobs/8/find", b.Path);
    }

    private static void Find(Browser b)
    {
        // A slip is questioned where it was typed, and stays to be mended.
        b.Open("/jobs/8/find?test=battery-cranking");
        b.Type("#value", "123");
        b.Press("[data-main]", () => b.All("#value-fault").Any(f => f.Text.Contains("Meant 12.3 V?", StringComparison.Ordinal)));
        Assert.Equal("123", b.One("#value").GetDomProperty("value"));
        b.Type("#value", "12.4 V");
        b.Press("[data-main]");
        ToProof(b);
    }

    /// <summary>Does what is proposed until the four ways are shown, then decides.</summary>
    internal static void ToProof(Browser b)
    {
        // What is proposed is done, until the four ways are shown.
        for (var i = 0; b.All(".verdict").Count == 0; i++)
        {
            Assert.True(i < 12, $"nothing is proven:\n{b.Text}");
            var (field, answer) = OpenStarter.Answer(b.One("#reading input[name=test]").GetDomAttribute("value")!);
            if (field == "value")
            {
                b.Type("#value", answer);
            }
            else
            {
                b.Press($"input[value={answer}]");
            }

            b.Press("[data-main]");
        }

        Assert.Equal(4, b.All(".proof-shown").Count);
        Assert.Contains("Replace the starter", b.One("[data-main]").Text, StringComparison.Ordinal);
        b.Press("[data-main]");
        Assert.Equal("/jobs/8/way-in", b.Path);
        Assert.Contains("4 in 5 under", b.Text, StringComparison.Ordinal);
    }

    internal static void Apart(Browser b)
    {
        while (b.Path.EndsWith("/take-apart", StringComparison.Ordinal))
        {
            Tick(b);
        }

        Assert.EndsWith("/refit", b.Path, StringComparison.Ordinal);
    }

    private static long Ticked(Browser b) => b.Path.EndsWith("/take-apart", StringComparison.Ordinal) ? b.Script<long>("return document.querySelectorAll('.all-steps .mark-done').length") : 0;

    // The main action; where only what waits is left, somebody looks whether it is cool.
    private static void Tick(Browser b) => b.Press(b.All("a.waits-main").Count > 0 ? "form:has(> input[name=early]) button" : "[data-main]");

    internal static void Refit(Browser b)
    {
        while (b.Path.EndsWith("/refit", StringComparison.Ordinal))
        {
            if (b.One("[data-main]").Text.StartsWith("Gate shut", StringComparison.Ordinal))
            {
                // Pressing a shut gate says why and changes nothing.
                b.Press("[data-main]", () => b.Text.Contains("The gate holds", StringComparison.Ordinal));
                foreach (var (check, volts) in new[] { ("cable-drop-refit", "0.18"), ("ground-drop-refit", "60 mV") })
                {
                    b.Type($"#value-{check}", volts);
                    b.Press($"form:has(#value-{check}) button");
                }

                b.Press("button[value=clear]");
            }

            b.Press("[data-main]");
        }

        Assert.EndsWith("/prove", b.Path, StringComparison.Ordinal);
    }

    internal static void Prove(Browser b, string account = "Out 25 = in 25 + renewed 0 + missing 0")
    {
        Assert.Contains(account, b.Text, StringComparison.Ordinal);
        b.Press("button[value=five]");
        b.Type("#value-cranking-volts", "11.1");
        b.Press("#cranking-volts .check-enter button");
        b.Type("#value-charging-idle", "14.2");
        b.Press("#charging-idle .check-enter button");
        b.Press("button[value=none]");
        Taken(b);
        while (b.All(".row-tool form button").Count > 0)
        {
            b.Press(".row-tool form button");
        }

        Assert.Equal("Hand back", b.One("[data-main]").Text);
        b.Press("[data-main]");
    }

    /// <summary>Answers whatever is still open and answered by a choice: the good one stands first.</summary>
    internal static void Taken(Browser b)
    {
        while (b.All(".row-check:has(.mark-todo) .check-enter button[name=choice]:first-of-type").Count > 0)
        {
            b.Press(".row-check:has(.mark-todo) .check-enter button[name=choice]:first-of-type");
        }
    }

    /// <summary>Says what killed it; what is done about it is said under the choice.</summary>
    internal static void Cause(Browser b, string cause)
    {
        b.Press($"input[name=cause][value={cause}]", () => b.Script<bool>($"return document.querySelector('input[name=cause][value={cause}]').checked"));
    }

    internal static void HandBack(Browser b)
    {
        Assert.Equal("/jobs/8/hand-back", b.Path);
        b.Type("#found", "Open inside the starter.");
        Cause(b, "age");
        b.Press("[data-main]");
        Assert.Equal("/jobs/8/sheet", b.Path);
        foreach (var told in new[] { "It only clicks. Two days now, worse in the morning.", "Starter replaced (proven)", "12.4 V", "11.1 V", "47 N·m", "Open inside the starter.", "Record head" })
        {
            Assert.Contains(told, b.Text, StringComparison.Ordinal);
        }
    }
}
