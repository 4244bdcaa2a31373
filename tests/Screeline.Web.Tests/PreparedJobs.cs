namespace Screeline.Web.Tests;

/// <summary>Jobs brought to a moment through the pages, as anybody would.</summary>
internal static class PreparedJobs
{
    // A job of its own, taken apart up to a step; null for all of it.
    public static async Task<long> JobAtAsync(this Site site, string? before)
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
}
