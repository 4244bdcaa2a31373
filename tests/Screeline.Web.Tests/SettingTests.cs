using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Xml.Linq;
using Screeline.Core.Motion;
using Screeline.Library;

namespace Screeline.Web.Tests;

/// <summary>Linkages, travel, end stops and balance: on the bench, over JSON, as files, and at the step of a job.</summary>
public sealed class SettingTests(Site site)
{
    private static readonly string Petrel = LinkageFormat.Write(ShippedLibrary.Load().Linkages.Single(l => l.Id == "petrel-front")).ToJsonString();

    [Theory]
    [InlineData("/bench/wiper", "Measure the tips at park")]
    [InlineData("/bench/wiper?park0=22&park1=19", "Turn the crank 6.3° with the clock")]
    [InlineData("/bench/wiper?park0=22&park1=19", "The gap goes from 7.6 to 3 mm")]
    [InlineData("/bench/wiper?park0=10&park1=11", "Tips in their bands")]
    [InlineData("/bench/wiper?park0=72&park1=10&low0=69&low1=7&sweep0=88&sweep1=83", "Move the driver's arm 1 tooth down")]
    [InlineData("/bench/wiper?park0=72&park1=10&low0=69&low1=7&sweep0=88&sweep1=83", "one tooth of 60 is 6°, 63 mm at its tip")]
    [InlineData("/bench/wiper?park0=22&park1=19", "Leaves 8.5 to 11.9 mm at the driver's tip")]
    [InlineData("/bench/wiper?park0=high", "“high”: a number from -500 to 800")]
    [InlineData("/bench/wiper?l-link0=-5", "a length above nothing")]
    [InlineData("/bench/wiper?l-crank=75", "by Grashof's condition")]
    [InlineData("/bench/wiper?linkage=nowhere", "No linkage “nowhere” here")]
    [InlineData("/bench/wiper?park0=300&low0=-200&sweep0=20&sweep1=160&park1=-90", "No known cause fits these readings")]
    [InlineData("/bench/wiper?school=marks", "Marks only when the old position was checked good")]
    [InlineData("/bench/wiper?linkage=ternwick-rear&park0=40", "the sweep is shifted")]
    [InlineData("/bench/wiper?linkage=tideway-front&park0=18&park0b=40&park1=18&park1b=25", "Tips in their bands")]
    [InlineData("/bench/park?s1=10&s2=22&s3=11&s4=21&s5=10&s6=22&s7=10&s8=21", "alternating park, no fault")]
    [InlineData("/bench/park?s1=10&s2=11&s4=12", "This stop is missing")]
    [InlineData("/bench/window?ups=4.2&up=6+5+5+5+5+6&downs=3.6&down=3+3+3+3+3+4", "Within the band of good runs")]
    [InlineData("/bench/window?ups=4.2&up=6+5", "At least five currents")]
    [InlineData("/bench/window?up=6+5+5+5+5", "How long did it take")]
    [InlineData("/bench/window?trap=140", "Pinches with 140 N, 100 N is the most")]
    [InlineData("/bench/window?stalled=40", "wait 9 min before you judge the motor")]
    [InlineData("/bench/actuator?low=12&high=1060&lowa=3&higha=1.2&upa=1.1&downa=1.2", "that stop is missing")]
    [InlineData("/bench/actuator?low=12&high=5", "The high end lies above the low one")]
    [InlineData("/bench/actuator?gears=40:3+4:1+5:0.5", "0.85°")]
    [InlineData("/bench/actuator?gears=forty", "ratio and play")]
    [InlineData("/bench/actuator?worn=plastic&mate=metal", "Renew the worn wheel alone")]
    [InlineData("/bench/balance?a0=3.4&grams=2&a1=1.8&a2=6.561&a3=4.761", "Put 2.01 g at 329°")]
    [InlineData("/bench/balance?a0=3.4&a1=1.8", "How heavy is the trial weight")]
    [InlineData("/bench/balance?a0=9&grams=2&a1=4&a2=4&a3=4", "cannot belong together")]
    [InlineData("/bench/balance?speeds=1200+0.4;2400+1.7;3600+3.6", "Imbalance.")]
    [InlineData("/bench/belt?span=400&newtons=100&depth=5", "N")]
    [InlineData("/bench/belt?rpm=800&drive=150&driven=50", "2400 rev/min at the alternator")]
    [InlineData("/bench/belt?span=300&gpm=80&hertz=90&least=200&most=260", "233 N, within what is wanted")]
    [InlineData("/bench/battery?rest=12.4", "75 % charged")]
    [InlineData("/bench/battery?rest=12.6&cca=600&load=8.2&celsius=21", "Weak under load: renew it")]
    [InlineData("/bench/battery?rest=10.4", "A dead cell")]
    [InlineData("/bench/battery?volts=24&rest=25.2&load=19.4&celsius=21", "Sound under load")]
    [InlineData("/bench/wire?metres=3&amperes=150&limit=0.2", "Take 50 mm²")]
    [InlineData("/bench/wire?metres=100&amperes=3000&limit=0.2", "No section here holds it")]
    [InlineData("/bench/lengths?linkage=petrel-front&find-crank=yes&g-crank=45&lo0=4.2&hi0=91.9", "Found")]
    [InlineData("/bench/lengths?linkage=petrel-front&find-lever1=yes&lo0=4.2&hi0=91.9", "Not fixed by these measurements")]
    public async Task The_bench_works_settings_out(string address, string words)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync(address);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.Contains(words, b.Text, StringComparison.Ordinal);
    }

    private async Task<(HttpStatusCode Status, JsonNode Answer)> PostAsync(string path, string body)
    {
        using var b = new PlainBrowser(site);
        var answer = await b.Client.PostAsync(path, new StringContent(body, Encoding.UTF8, "application/json"));
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync())!);
    }

    [Fact]
    public async Task A_linkage_over_JSON_gives_the_numbers_of_the_screen()
    {
        var (status, told) = await PostAsync("/api/v1/linkage", $$"""{"linkage": {{Petrel}}, "turn_step_deg": 1, "seen": [{"what": "park-height", "arm": 0, "value": 22}, {"what": "park-height", "arm": 1, "value": 19}], "seek": [{"what": "crank", "guess": 45, "spread": 4}], "measured": [{"what": "sweep", "rocker": 0, "value": 87.66, "error": 0.3}]}""");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(361, told["turn"]!.AsArray().Count);
        Assert.Equal(87.7, (double)told["rockers"]![0]!["sweep_deg"]!, 0.1);
        Assert.Equal("Turn the crank 6.3° with the clock", (string)told["causes"]![0]!["changes"]![0]!["act"]!);
        Assert.Equal(42, (double)told["fit"]!["found"]![0]!["value"]!, 0.5);
        var (_, again) = await PostAsync("/api/v1/linkage", """{"linkage_id": "petrel-front"}""");
        Assert.Equal(told["rockers"]!.ToJsonString(), again["rockers"]!.ToJsonString());
        // What goes out comes in again.
        var (_, back) = await PostAsync("/api/v1/linkage", $$"""{"linkage": {{told["linkage"]!.ToJsonString()}}}""");
        Assert.Equal(told["rockers"]!.ToJsonString(), back["rockers"]!.ToJsonString());
    }

    [Fact]
    public async Task A_balance_over_JSON()
    {
        var (status, told) = await PostAsync("/api/v1/balance", """{"runs": [{"amplitude": 5}, {"amplitude": 3, "weights": [{"grams": 2, "degrees": 0}]}, {"amplitude": 6.244998, "weights": [{"grams": 2, "degrees": 120}]}, {"amplitude": 6.244998, "weights": [{"grams": 2, "degrees": 240}]}], "rotor": {"kilograms": 0.34, "revolutions_per_minute": 3600, "radius_mm": 72, "blades": 38}, "growth": [{"revolutions_per_minute": 1000, "amplitude": 1}, {"revolutions_per_minute": 2000, "amplitude": 4}, {"revolutions_per_minute": 3000, "amplitude": 9}]}""");
        Assert.Equal(HttpStatusCode.OK, status);
        // u = −5 g at influence 1: |−5 + 2| = 3, |−5 + 2·e^(2πi/3)| = √39.
        Assert.Equal((5.0, 0.0), ((double)told["correction"]!["grams"]!, Math.IEEERemainder((double)told["correction"]!["degrees"]!, 360)));
        Assert.Equal(9549 * 6.3 * 0.34 / 3600, (double)told["permissible_g_mm"]!, 0.001);
        Assert.Equal("Imbalance", (string)told["growth"]!["source"]!);
    }

    [Theory]
    [InlineData("/api/v1/linkage", """{}""", "$.linkage", "missing")]
    [InlineData("/api/v1/linkage", """{"linkage_id": "nowhere"}""", "$.linkage_id", "none of")]
    [InlineData("/api/v1/linkage", """{"linkage_id": "petrel-front", "seen": [{"what": "park-height", "arm": 5, "value": 1}]}""", "$.seen[0]", "2 arms")]
    [InlineData("/api/v1/linkage", """{"linkage_id": "petrel-front", "seen": [{"what": "colour", "arm": 0, "value": 1}]}""", "$.seen[0].what", "none of")]
    [InlineData("/api/v1/linkage", """{"linkage_id": "petrel-front", "seek": [{"what": "link", "guess": 1, "spread": 1}]}""", "$.seek[0].rocker", "name theirs")]
    [InlineData("/api/v1/linkage", """{"linkage_id": "petrel-front", "shape": 1}""", "$.shape", "unknown key")]
    [InlineData("/api/v1/balance", """{}""", "$", "wanted here")]
    [InlineData("/api/v1/balance", """{"runs": [{"amplitude": 5}]}""", "$.rotor", "missing")]
    [InlineData("/api/v1/balance", """{"runs": [{"amplitude": 5}], "rotor": {"kilograms": 1, "revolutions_per_minute": 1000, "radius_mm": 50}}""", "$", "three with a weight")]
    [InlineData("/api/v1/balance", """{"runs": [{"amplitude": -5}]}""", "$.runs[0].amplitude", "outside")]
    [InlineData("/api/v1/settings/belt", """{"fields": {"span": "long"}}""", "$.fields.span", "a number from")]
    [InlineData("/api/v1/settings/belt", """{"fields": {"span": [1]}}""", "$.fields.span", "a text or a number")]
    [InlineData("/api/v1/settings/belt", """{}""", "$.fields", "missing")]
    [InlineData("/api/v1/settings/belt", """{"fields": []}""", "$.fields", "an object")]
    [InlineData("/api/v1/settings/wiper", """{"fields": {"l-crank": -4}}""", "$.fields.l-crank", "above nothing")]
    public async Task What_cannot_be_is_told_with_its_path(string path, string body, string at, string says)
    {
        var (status, told) = await PostAsync(path, body);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(told["faults"]!.AsArray(), f => (string)f!["path"]! == at && ((string)f["message"]!).Contains(says, StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_linkage_with_faults_names_each_in_its_file()
    {
        var spoiled = JsonNode.Parse(Petrel)!;
        spoiled["rockers"]![0]!["link"] = 20;
        spoiled["glass"]!["cowl"] = new JsonArray(1, 2);
        var (_, told) = await PostAsync("/api/v1/linkage", $$"""{"linkage": {{spoiled.ToJsonString()}}}""");
        Assert.Contains(told["faults"]!.AsArray(), f => (string)f!["path"]! == "$.linkage.glass.cowl");
        spoiled["glass"] = JsonNode.Parse(Petrel)!["glass"]!.DeepClone();
        (_, told) = await PostAsync("/api/v1/linkage", $$"""{"linkage": {{spoiled.ToJsonString()}}}""");
        Assert.Contains(told["faults"]!.AsArray(), f => (string)f!["path"]! == "$.linkage.rockers[0].link");
    }

    [Theory]
    [InlineData("wiper", "park0=22&park1=19", true, 362)]
    [InlineData("park", "s1=10&s2=11&s3=10&s4=11&s5=10&s6=9", true, 7)]
    [InlineData("window", "ups=4&up=5+5+5+5+6", true, 52)]
    [InlineData("actuator", "low=1&high=860", true, 2)]
    [InlineData("balance", "a0=3.4&grams=2&a1=1.8&a2=6.561&a3=4.761", true, 5)]
    [InlineData("belt", "rpm=800&drive=150&driven=50", true, 2)]
    [InlineData("belt", "", false, 2)]
    [InlineData("lengths", "find-crank=yes&lo0=4.2&hi0=91.9", true, 2)]
    [InlineData("battery", "rest=12.4", true, 2)]
    public async Task Each_goes_out_as_a_drawing_a_table_and_JSON(string kind, string query, bool drawn, int rows)
    {
        using var b = new PlainBrowser(site);
        var svg = await b.Client.GetAsync($"/bench/{kind}.svg?{query}");
        Assert.Equal(drawn ? HttpStatusCode.OK : HttpStatusCode.NotFound, svg.StatusCode);
        if (drawn)
        {
            var root = XDocument.Parse(await svg.Content.ReadAsStringAsync()).Root!;
            Assert.Equal("svg", root.Name.LocalName);
            Assert.Contains(root.Elements(), e => e.Name.LocalName == "style");
        }

        var csv = (await b.Client.GetStringAsync($"/bench/{kind}.csv?{query}")).Split("\r\n", StringSplitOptions.RemoveEmptyEntries);
        Assert.Equal(rows, csv.Length);
        Assert.All(csv, r => Assert.False(r.Contains("NaN", StringComparison.Ordinal)));
        var json = JsonNode.Parse(await b.Client.GetStringAsync($"/bench/{kind}.json?{query}"))!;
        Assert.True(json.AsObject().ContainsKey("words"));
        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync($"/bench/nothing.{(drawn ? "svg" : "csv")}")).StatusCode);
    }

    private const string Up = "way,time_s,current_a";

    [Theory]
    [InlineData(null, "Within the band")]
    [InlineData("time_ms,current_a\n1,5", "Row 1, column 1: “time_ms”: time_s (seconds) is wanted here")]
    [InlineData("way,time_s,current_a\nup,0,5\nup,x,5", "Row 3, column time_s: “x”")]
    public async Task Runs_come_from_a_file_or_its_faults_name_row_and_column(string? text, string says)
    {
        text ??= Up + "\n" + string.Concat(Enumerable.Range(0, 43).Select(i => $"up,{i * 0.1:0.0},{(i < 3 ? 9 : 5 + 0.02 * i):0.00}\n"));
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/bench/window?trap=60");
        await b.PostFileAsync("#import-form", "file", "run.csv", Encoding.UTF8.GetBytes(text));
        Assert.Contains(says, b.Text, StringComparison.Ordinal);
        // What was typed is still there.
        Assert.Equal("60", b.Page.QuerySelector("#trap")!.GetAttribute("value"));
    }

    [Fact]
    public void Runs_that_held_on_the_vehicle_before_are_its_band()
    {
        var library = ShippedLibrary.Load();
        var asked = new Dictionary<string, string> { ["window"] = "fellgate-door", ["ups"] = "4", ["up"] = "9 9 9 9 9 9" };
        var held = new Dictionary<string, string> { ["window"] = "fellgate-door", ["ups"] = "4", ["up"] = "9 9 9 9 9 9" };
        Assert.Equal((true, false), (new Setting.WindowWork(asked, library, null, [held]).FromVehicle, new Setting.WindowWork(asked, library, null, [held]).FromTemplate));
        Assert.Contains("Within the band", new Setting.WindowWork(asked, library, null, [held]).Words, StringComparison.Ordinal);
        Assert.Contains("Stiff", new Setting.WindowWork(asked, library, null, []).Words, StringComparison.Ordinal);
        // Another door's runs say nothing here.
        Assert.True(new Setting.WindowWork(asked, library, null, [new Dictionary<string, string>(held) { ["window"] = "tideway-door" }]).FromTemplate);
    }

    [Fact]
    public void At_the_vehicle_the_gate_opens_when_the_tips_are_in_their_bands()
    {
        using var b = new Browser(site, 390, 844, keyboardOnly: true);
        b.Open("/jobs/16/refit");
        Assert.Contains("Set it", b.One("[data-main]").Text, StringComparison.Ordinal);
        b.Press("[data-main]");
        b.Type("#park0", "22");
        b.Type("#park1", "19");
        b.Until(() => b.One("h1").Text.Contains("Turn the crank 6.3° with the clock", StringComparison.Ordinal), () => b.Text);
        // It stays in sight while one types below it.
        Assert.InRange(b.Number("return document.querySelector('.set-act').getBoundingClientRect().top")!.Value, 0, 1);
        // Without saying how park was found it is not kept, and nothing typed is lost.
        b.Press("[data-main]");
        Assert.Contains("How was park found", b.One("#school-fault").Text, StringComparison.Ordinal);
        Assert.Equal("22", b.One("#park0").GetDomProperty("value"));
        b.Press("input[name=school][value=gap]");
        b.Press("[data-main]");
        Assert.Equal("/jobs/16/refit", b.Path);
        Assert.Contains("Turn the crank 6.3°", b.Text, StringComparison.Ordinal);

        // Kept as found, the gate is still shut: the step's tick is refused however it is sent.
        Assert.Contains("Set it", b.One("[data-main]").Text, StringComparison.Ordinal);
        b.Press("[data-main]");
        Assert.Contains("Take back", b.Text, StringComparison.Ordinal);
        Assert.Equal("22", b.One("#park0").GetDomProperty("value"));
        b.Type("#park0", "11");
        b.Type("#park1", "10");
        b.Until(() => b.One("h1").Text.Contains("Tips in their bands", StringComparison.Ordinal) && b.One("[data-main]").Text == "Keep setting", () => b.Text);
        b.Press("[data-main]");
        Assert.Equal("Tips in their bands", b.One("[data-main]").Text);
        b.Press("[data-main]");
        Assert.Contains("Stopped ten times", b.One("h1.act").Text, StringComparison.Ordinal);
        b.Open("/jobs/16/history");
        Assert.Contains("wiper setting: Tips in their bands", b.Text, StringComparison.OrdinalIgnoreCase);
        Assert.Empty(b.Complaints);
    }

    private static readonly string[] Nasty = ["0", "-1", "1e9", "-1e9", "1e-9", "NaN", "Infinity", "9999", "5000", "-5000", "0.001", "359", "720", "'", "<b>", "\u0000", "٣", "1,5", "--", "50:0", "0:0", "1 2 3 4 5", "9 9 9 9 9 9", "5: 1 2 3 4 5 | 6: 1", "reversing", "alternating-park", "ternwick-rear", "carrier-front", "yes", "plastic"];

    private static readonly string[] Names =
    [
        .. "linkage drive at park0 park0b park1 low0 low1 sweep0 sweep1 pillar0 school marks-good l-crank l-park l-park2 l-from l-to l-mx l-my l-gap l-gaptol l-gapr l-px0 l-py0 l-link0 l-lever0 l-angle0 l-tip0 l-teeth0 l-band0 l-bandtol0 l-link1 l-lever1 l-from1".Split(' '),
        .. "s1 s2 s3 s4 s5 s6 s7 window ups up downs down gup gdown npa idle ohms kg volts cold frontt reart width trap stalled ran rested actuator stroke tol low high lowa higha upa downa perdeg lost maxplay maxa gears worn mate".Split(' '),
        .. "rotor a0 a1 a2 a3 a4 d1 d2 d3 grams cg cd rpm radius blades grade speeds drive driven span gpm hertz newtons depth least most find-crank find-link0 find-lever1 find-angle0 g-crank s-crank at0 lo0 hi0 sw0 lo1 err rest load cca amperes celsius".Split(' '),
    ];

    private static Dictionary<string, string> Anything(Random random) => Names.Where(_ => random.Next(7) == 0).Distinct().ToDictionary(n => n, _ => random.Next(3) > 0 ? random.Next(-20, 900).ToString(System.Globalization.CultureInfo.InvariantCulture) : Nasty[random.Next(Nasty.Length)]);

    [Fact]
    public void Whatever_is_typed_a_setting_answers_or_names_the_field()
    {
        var library = ShippedLibrary.Load();
        var random = new Random(11);
        for (var i = 0; i < 150; i++)
        {
            foreach (var kind in SettingKinds.All.Select(k => k.Id))
            {
                var asked = Anything(random);
                var work = Setting.SettingWork.Create(kind, asked, library, null)!;
                Assert.All(work.Table(), r => Assert.DoesNotContain("NaN", r));
                work.Json().ToJsonString();
                Assert.Equal(work.Picture is null, work.Picture?.File is null);
            }

        }
    }

    [Fact]
    public async Task Whatever_stands_in_an_address_the_bench_answers()
    {
        using var b = new PlainBrowser(site);
        var random = new Random(12);
        for (var i = 0; i < 160; i++)
        {
            var query = string.Join("&", Anything(random).Select(f => $"{f.Key}={Uri.EscapeDataString(f.Value)}"));
            var kind = SettingKinds.All[i % SettingKinds.All.Count].Id;
            var answer = await b.Client.GetAsync($"/bench/{kind}?{query}");
            Assert.True((int)answer.StatusCode < 500, $"/bench/{kind}?{query}");
            answer = await b.Client.GetAsync($"/bench/{kind}.json?{query}");
            Assert.True((int)answer.StatusCode < 500, $"/bench/{kind}.json?{query}");
        }
    }

    [Fact]
    public void A_finger_steps_the_figures_and_the_drawing_moves()
    {
        using var b = new Browser(site, 390, 844);
        b.Open("/bench/wiper");
        Assert.True(b.Script<bool>("return [...document.querySelectorAll('.step-by')].filter(e => e.offsetParent).every(e => e.offsetHeight >= 48 && e.offsetWidth >= 48)"));
        var start = b.One("[data-part=r0]").GetDomAttribute("d");
        for (var i = 0; i < 3; i++)
        {
            b.Press(".stepper:has(#park0) .step-by:last-child", () => true);
        }

        // From the usual height three millimetres up.
        Assert.Equal("13", b.One("#park0").GetDomProperty("value"));
        b.Until(() => b.Script<bool>("return location.search.includes('park0=13')"), "the address does not follow");
        b.Script<object?>("const s = document.getElementById('player'); s.value = 20; s.dispatchEvent(new Event('input', {bubbles: true})); return null");
        var moved = b.One("[data-part=r0]").GetDomAttribute("d");
        Assert.NotEqual(start, moved);
        b.Press("[data-play]", () => true);
        b.Until(() => b.One("[data-part=r0]").GetDomAttribute("d") != moved, "it does not play");
        Assert.Equal("Stop", b.One("[data-play]").Text);
        b.Press("[data-play]", () => b.One("[data-play]").Text == "Play");
        Assert.Empty(b.Complaints);
    }
}
