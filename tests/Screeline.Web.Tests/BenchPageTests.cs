using System.Net;

namespace Screeline.Web.Tests;

/// <summary>The calculators on their own, and over JSON.</summary>
public sealed class BenchPageTests(Site site)
{
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
        using var b = new PlainBrowser(site);
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
        b.Until(() => b.Text.Contains("29.8 N·m", StringComparison.Ordinal), () => b.Text);
        Assert.Contains("value=22", b.Script<string>("return location.search"), StringComparison.Ordinal);
        b.Type("#thread", "M9");
        b.Until(() => b.One("#thread-fault").Text.Contains("ISO 261", StringComparison.Ordinal), () => b.Text);
        Assert.Empty(b.Complaints);
    }

    // The answer to the first field comes while one types into the second.
    [Theory]
    [InlineData("/bench/torque", 1280, "#value", "22 lb-ft", "29.8", "#offset", "45")]
    [InlineData("/bench/wire?section=16", 390, "#metres", "4", "mohm", "#amperes", "20")]
    [InlineData("/bench/wiper", 390, "#park0", "22", "the crank", "#park1", "19")]
    public void The_hand_stays_in_the_field_in_which_one_types(string page, int width, string first, string typed, string answer, string second, string then)
    {
        using var b = new Browser(site, width, width == 390 ? 844 : 800);
        b.Open(page);
        b.Type(first, typed);
        b.Type(second, then[..1]);
        double Top() => b.Number("return document.activeElement.getBoundingClientRect().top")!.Value;
        var top = Top();
        b.Until(() => b.One("#answer").Text.Contains(answer, StringComparison.Ordinal), () => b.Text);
        b.Until(() => b.Script<string>("return location.search").Contains($"{second[1..]}={then[0]}&", StringComparison.Ordinal) || b.Script<string>("return location.search").EndsWith($"{second[1..]}={then[0]}", StringComparison.Ordinal), () => b.Text);
        Assert.Equal(second[1..], b.Focused.GetDomProperty("id"));
        Assert.InRange(Top(), top - 1, top + 1);
        b.Key(then[1..]);
        Assert.Equal((typed, then), (b.One(first).GetDomProperty("value"), b.One(second).GetDomProperty("value")));
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
}
