using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Screeline.Web.Tests;

/// <summary>The diagnosis over JSON and on the screen.</summary>
public sealed class DiagnosisTests(Site site)
{
    private const string Ground = """{"test": "ground-drop-cranking", "value": 1600, "unit": "mV"}""";
    private const string Rest = """{"test": "battery-rest", "value": 12.6, "unit": "V"}""";
    private const string Heard = """{"test": "start-heard", "choice": "slow-crank"}""";

    private static string Ask(string readings, string rest = "") => $$"""{"system": "starting", "readings": [{{readings}}]{{rest}}}""";

    private async Task<(HttpStatusCode Status, JsonNode Answer)> PostAsync(string body)
    {
        using var b = new PlainBrowser(site);
        var answer = await b.Client.PostAsync("/api/v1/diagnosis", new StringContent(body, Encoding.UTF8, "application/json"));
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync())!);
    }

    [Fact]
    public async Task Readings_are_judged_and_their_order_does_not_matter()
    {
        var (status, one) = await PostAsync(Ask($"{Heard}, {Rest}, {Ground}"));
        Assert.Equal(HttpStatusCode.OK, status);
        var (_, other) = await PostAsync(Ask($"{Ground}, {Heard}, {Rest}"));
        Assert.Equal(one.ToJsonString(), other.ToJsonString());
        Assert.Equal("ground-path", (string)one["repairs"]![0]!["repair"]!);
        Assert.Equal(1, one["beliefs"]!.AsArray().Sum(b => (double)b!["probability"]!) + (double)one["unknown"]!, 4);
        var evidence = one["evidence"]!.AsArray().Single(e => (string)e!["test"]! == "ground-drop-cranking")!;
        Assert.Equal(1.6, (double)evidence["value"]!, 6);
        Assert.True((double)evidence["expected_if_good"]![1]! < 0.4);
        Assert.Contains("ground", evidence["speaks_for"]!.AsArray().Select(f => (string)f!));
        Assert.True((double)evidence["bits"]! > 0.5);
        Assert.All(one["next"]!.AsArray(), n => Assert.True((double)n!["gain_bits"]! >= 0 && (double)n["minutes"]! > 0 && n["because"] is not null));
        Assert.Equal(["command", "ground", "mechanical", "power"], one["proof"]!.AsObject().Select(p => p.Key).Order());
        Assert.Contains((string)one["decision"]!["act"]!, new[] { "test", "guess", "proven" });
        Assert.True((double)one["decision"]!["expected_cost"]!["now"]! > 0);
        Assert.Null(one["surprise"]);
    }

    [Fact]
    public async Task Proven_needs_the_four_ways_and_what_is_off_costs_no_minutes()
    {
        const string readings = $$"""{"test": "start-heard", "choice": "one-clunk"}, {{Rest}}, {"test": "battery-cranking", "value": 12.5, "unit": "V"}, {"test": "starter-volts-cranking", "value": 12.4, "unit": "V"}, {"test": "switched-terminal-cranking", "value": 12.2, "unit": "V"}""";
        var (_, open) = await PostAsync(Ask(readings));
        Assert.NotEqual("proven", (string)open["decision"]!["act"]!);
        Assert.Equal("engine-turns", (string)open["next"]![0]!["test"]!);
        Assert.Equal(6, (double)open["next"]![0]!["access_minutes"]!);
        var (_, raised) = await PostAsync(Ask(readings, ""","done": ["raised"]"""));
        Assert.Equal(0, (double)raised["next"]![0]!["access_minutes"]!);
        var (_, proven) = await PostAsync(Ask(readings + """, {"test": "engine-turns", "choice": "turns"}, {"test": "starter-volts-cranking", "value": 12.38, "unit": "V"}"""));
        Assert.Equal(("proven", "starter"), ((string)proven["decision"]!["act"]!, (string)proven["decision"]!["repair"]!));
    }

    public static TheoryData<string, string> Faulty => new()
    {
        { """{"system": "rocket", "readings": []}""", "$.system" },
        { """{"system": "starting"}""", "$.readings" },
        { Ask("""{"test": "moon", "value": 1, "unit": "V"}"""), "$.readings[0].test" },
        { Ask($$"""{{Rest}}, {"test": "battery-load", "value": 1, "unit": "A"}"""), "$.readings[1].unit" },
        { Ask("""{"test": "battery-load", "value": 1}"""), "$.readings[0].unit" },
        { Ask("""{"test": "battery-load", "value": 125, "unit": "V"}"""), "$.readings[0].value" },
        { Ask("""{"test": "battery-load", "choice": "bright"}"""), "$.readings[0].value" },
        { Ask("""{"test": "engine-turns", "choice": "flies"}"""), "$.readings[0].choice" },
        { Ask("""{"test": "engine-turns", "value": 1, "unit": "V"}"""), "$.readings[0].choice" },
        { Ask("""{"test": "engine-turns", "choice": "turns", "mood": 1}"""), "$.readings[0].mood" },
        { Ask(Rest, ""","vehicle": {"volts": 18}"""), "$.vehicle.volts" },
        { Ask(Rest, ""","vehicle": {"cca": 5}"""), "$.vehicle.cca" },
        { Ask(Rest, ""","vehicle": {"wings": 2}"""), "$.vehicle.wings" },
        { Ask(Rest, ""","vehicle": {"button": "crank"}"""), "$.vehicle.button" },
        { Ask(Rest, ""","vehicle": 12"""), "$.vehicle" },
        { Ask(Rest, ""","temperature_c": 400"""), "$.temperature_c" },
        { Ask("""{"test": "engine-turns", "choice": "turns", "temperature_c": -60}"""), "$.readings[0].temperature_c" },
        { Ask(Rest, ""","at": {"place": "On the moon"}"""), "$.at.place" },
        { Ask(Rest, ""","at": {"alone": "yes"}"""), "$.at.alone" },
        { Ask(Rest, ""","assumptions": {"labour_per_hour": -1}"""), "$.assumptions.labour_per_hour" },
        { Ask(Rest, ""","assumptions": {"minutes": {"wings": 1}}"""), "$.assumptions.minutes.wings" },
        { Ask(Rest, ""","colour": "red" """), "$.colour" },
        { "{", "$" },
    };

    [Theory]
    [MemberData(nameof(Faulty))]
    public async Task A_fault_in_a_request_comes_back_with_its_path(string body, string path)
    {
        var (status, answer) = await PostAsync(body);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, status);
        Assert.Contains(path, answer["faults"]!.AsArray().Select(f => (string)f!["path"]!));
        Assert.All(answer["faults"]!.AsArray(), f => Assert.NotEmpty((string)f!["message"]!));
    }

    [Fact]
    public async Task Readings_that_contradict_each_other_are_named()
    {
        var (_, answer) = await PostAsync(Ask($$"""{{Heard}}, {"test": "battery-cranking", "value": 11.3, "unit": "V"}, {"test": "battery-load", "value": 10.2, "unit": "V"}, {"test": "starter-volts-cranking", "value": 10.9, "unit": "V"}, {"test": "cable-drop-cranking", "value": 4.2, "unit": "V"}, {"test": "ground-drop-cranking", "value": 0.05, "unit": "V"}"""));
        Assert.NotNull(answer["surprise"]);
        Assert.Contains("starter-volts-cranking", answer["contradiction"]!.AsArray().Select(t => (string)t!));
    }

    [Fact]
    public async Task The_families_are_told_with_what_can_be_asked_of_them()
    {
        using var b = new PlainBrowser(site);
        var list = JsonNode.Parse(await b.Client.GetStringAsync("/api/v1/systems"))!.AsArray();
        Assert.Equal(7, list.Count);
        foreach (var id in list.Select(s => (string)s!["id"]!))
        {
            var system = JsonNode.Parse(await b.Client.GetStringAsync($"/api/v1/systems/{id}"))!;
            Assert.True(system["faults"]!.AsArray().Count >= 14);
            Assert.Equal(1, system["faults"]!.AsArray().Sum(f => (double)f!["prior"]!), 6);
            Assert.All(system["tests"]!.AsArray(), t => Assert.True(t!["unit"] is not null ^ t["choices"] is not null));
        }

        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync("/api/v1/systems/rocket")).StatusCode);
        Assert.InRange((int)(await b.Client.PostAsync("/api/v1/diagnosis", new StringContent("x"))).StatusCode, 400, 499);
        var document = JsonNode.Parse(await b.Client.GetStringAsync("/openapi/v1.json"))!;
        foreach (var path in new[] { "/api/v1/systems", "/api/v1/systems/{id}", "/api/v1/diagnosis" })
        {
            Assert.NotNull(document["paths"]![path]);
        }

        Assert.NotNull(document["components"]!["schemas"]!["DiagnosisOutput"]!["properties"]!["evidence"]);
    }

    [Theory]
    [InlineData("starting")]
    [InlineData("charging")]
    [InlineData("blower")]
    [InlineData("wiper")]
    [InlineData("window")]
    [InlineData("fan")]
    [InlineData("actuator")]
    public async Task Every_family_is_found_by_plain_forms(string family)
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b, family);
        var behaviour = b.Page.QuerySelector("input[name=behaviours]")!.GetAttribute("value")!;
        await b.SubmitAsync("#complaint", ("behaviours", behaviour), ("tried", "3"), ("failed", "3"));
        Assert.EndsWith("/find", b.At.AbsolutePath, StringComparison.Ordinal);
        for (var i = 0; i < 3; i++)
        {
            Assert.NotEmpty(b.Page.QuerySelectorAll(".circuit svg a"));
            Assert.NotEmpty(b.Page.QuerySelectorAll(".bar-row"));
            var choice = b.Page.QuerySelector("#reading input[name=choice]")?.GetAttribute("value");
            await b.SubmitAsync("#reading", choice is null ? ("value", "0.1") : ("choice", choice));
            Assert.Equal(HttpStatusCode.OK, b.Status);
            Assert.Equal(i + 1, b.Page.QuerySelectorAll(".row-reading").Length);
        }

        // A point of the drawing leads to the tests that are done there.
        await b.OpenAsync(b.Page.QuerySelector(".circuit a")!.GetAttribute("href")!);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.NotNull(b.Page.QuerySelector("#reading input[name=test]"));
    }

    [Fact]
    public async Task A_reading_is_corrected_and_withdrawn_and_the_belief_follows()
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("behaviours", "slow-crank"), ("tried", "3"), ("failed", "3"));
        var first = Likeliest(b);
        await b.OpenAsync($"/jobs/{b.Number}/find?test=ground-drop-cranking");
        await b.SubmitAsync("#reading", ("value", "1.6"));
        Assert.StartsWith("ground path", Likeliest(b), StringComparison.Ordinal);
        await b.SubmitAsync("form[method=post][action*=Correct]", ("corrected", "16 A"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Equal("16 A", b.Page.QuerySelector("input[name=corrected]")!.GetAttribute("value"));
        await b.SubmitAsync("form[method=post][action*=Correct]", ("corrected", "0.06 V"));
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.DoesNotContain("ground path", Likeliest(b), StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Withdraw]");
        Assert.Empty(b.Page.QuerySelectorAll(".row-reading"));
        Assert.Equal(first, Likeliest(b));
    }

    [Fact]
    public async Task What_the_vehicle_has_and_what_money_stands_on_can_be_said()
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b, "fan");
        await b.SubmitAsync("#complaint", ("behaviours", "this-dead"), ("tried", "3"), ("failed", "3"));
        await b.SubmitAsync("form.fields[action*=Vehicle]", ("p-rated", "5000"), ("celsius", "hot"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("5000 is outside 3 to 60 A", b.Text, StringComparison.Ordinal);
        Assert.Contains("“hot” is not a temperature", b.Text, StringComparison.Ordinal);
        Assert.Equal("5000", b.Page.QuerySelector("#p-rated")!.GetAttribute("value"));
        await b.SubmitAsync("form.fields[action*=Vehicle]", ("p-rated", "18"), ("p-common", "1"), ("celsius", "-5"));
        Assert.True(b.Status == HttpStatusCode.OK, $"{b.At} {b.Text}");
        Assert.Contains("12 V, -5 °C, 2 values stated", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form.fields[action*=Money]", ("labour", "much"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Equal("much", b.Page.QuerySelector("#labour")!.GetAttribute("value"));
        await b.SubmitAsync("form.fields[action*=Money]", ("labour", "75"), ("comeback", "90"));
        Assert.Equal("75", b.Page.QuerySelector("#labour")!.GetAttribute("value"));
        await b.SubmitAsync("form.fields[action*=Money]", ("labour", "60"));
    }

    /// <summary>Where one is, with whom and how cold it was stay with the readings, until one comes out.</summary>
    [Fact]
    public async Task A_round_knows_where_one_is_and_how_cold_it_was()
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("behaviours", "one-clunk"), ("tried", "5"), ("failed", "5"), ("when", "always"));
        await b.SubmitAsync("form.fields[action*=Vehicle]", ("celsius", "-12"));
        await b.OpenAsync($"/jobs/{b.Number}/find?test=cable-drop-cranking");
        Assert.Contains("2 people", b.Page.QuerySelector(".next-test")!.TextContent, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Place]", ("alone", "yes"));
        Assert.Contains("Somebody can help", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{b.Number}/find?test=cable-drop-cranking");
        Assert.Contains("nobody underneath", b.Page.QuerySelector(".next-test")!.TextContent, StringComparison.Ordinal);
        Assert.DoesNotContain("2 people", b.Page.QuerySelector(".next-test")!.TextContent, StringComparison.Ordinal);
        Assert.DoesNotContain("where you are", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#reading", ("value", "0.05"));
        Assert.Contains("at -12 °C", b.Page.QuerySelector(".row-reading")!.TextContent, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{b.Number}/find?test=contact-drop-cranking");
        Assert.Contains("where you are", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=Place]", ("out", "yes"));
        await b.OpenAsync($"/jobs/{b.Number}/find?test=contact-drop-cranking");
        Assert.DoesNotContain("where you are", b.Text, StringComparison.Ordinal);
        Assert.Contains("Somebody can help", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Closed_jobs_count_until_they_are_left_out()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/7/find");
        Assert.Matches("closed jobs? on the Orlo Petrel", b.Text);
        await b.SubmitAsync("form[action*=History]");
        Assert.Contains("Left out: ", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*=History]");
        Assert.Contains("of the library", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_not_the_motor_is_put_right_where_it_was_found()
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b);
        await b.SubmitAsync("#complaint", ("behaviours", "silence"), ("tried", "5"), ("failed", "5"));
        foreach (var (test, field, answer) in new[] { ("fuse-far-side", "value", "12.6"), ("relay-output", "value", "0.0"), ("relay-coil-feed", "value", "12.4"), ("relay-exchanged", "choice", "cured"), ("relay-exchanged", "choice", "cured") })
        {
            await b.OpenAsync($"/jobs/{b.Number}/find?test={test}");
            await b.SubmitAsync("#reading", (field, answer));
        }

        Assert.Contains("Proven: start relay", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm, ("act", "proven"));
        Assert.EndsWith("/prove", b.At.AbsolutePath, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{b.Number}/find");
        Assert.Contains("Decided: start relay renewed", b.Text, StringComparison.Ordinal);
    }

    private static string Likeliest(PlainBrowser b) => b.Page.QuerySelector(".bar-row")!.TextContent.Trim();
}
