using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;

namespace Screeline.Web.Tests;

/// <summary>Requests that are wrong, forged, early or late: a 4xx with a reason, never a 5xx; and a database that goes away.</summary>
public sealed class RequestTests(Site site)
{
    [Theory]
    [InlineData("/jobs/999999")]
    [InlineData("/jobs/999999/find")]
    [InlineData("/jobs/abc/find")]
    [InlineData("/jobs/99999999999999999999/find")]
    [InlineData("/jobs/1/nonsense")]
    [InlineData("/nowhere")]
    [InlineData("/api/v1/jobs/00000000-0000-0000-0000-000000000000/entries")]
    public async Task An_unknown_address_is_a_plain_page_with_the_way_back(string path)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync(path);
        Assert.Equal(HttpStatusCode.NotFound, b.Status);
        if (!path.StartsWith("/api", StringComparison.Ordinal))
        {
            Assert.Equal("/", b.Page.QuerySelector(".actions a")!.GetAttribute("href"));
        }
    }

    [Theory]
    [InlineData("/?q=%00")]
    [InlineData("/?q=%ff%fe")]
    [InlineData("/?q=%")]
    [InlineData("/?show=%3Cscript%3E")]
    [InlineData("/jobs/5/take-apart?step=%00")]
    [InlineData("/jobs/5/take-apart?step=nonsense")]
    [InlineData("/jobs/7/find?test=nonsense")]
    [InlineData("/jobs/7/find?at=nonsense")]
    [InlineData("/jobs/7/find?at=%00")]
    [InlineData("/who?back=%2F%2Felsewhere.example")]
    [InlineData("/jobs/new?vehicle=nonsense")]
    public async Task A_strange_address_never_breaks_anything(string path)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync(path);
        Assert.True((int)b.Status < 500, $"{path}: {b.Status}");
        Assert.Empty(b.Page.QuerySelectorAll("script:not([src])"));
    }

    [Fact]
    public async Task A_form_without_its_token_is_refused_and_changes_nothing()
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/7/find?test=ground-drop-cranking");
        var before = await CountAsync();
        var fields = PlainBrowser.Fields(b.Form("#reading"), ("value", "12")).Where(f => f.Key != "form-token").ToList();
        await b.PostAsync("/jobs/7/find?handler=Read", fields);
        Assert.Equal(HttpStatusCode.BadRequest, b.Status);
        Assert.Equal(before, await CountAsync());
    }

    [Theory]
    [InlineData("/favicon.ico", "image")]
    [InlineData("/jobs/5/take-apart", "image")]
    [InlineData("/nowhere.css", "style")]
    [InlineData("/", "manifest")]
    public async Task What_a_browser_asks_for_by_itself_brings_no_other_cookie_for_forms(string path, string wanted)
    {
        using var client = new HttpClient(new HttpClientHandler { UseCookies = false, AllowAutoRedirect = false }) { BaseAddress = site.Address };
        client.DefaultRequestHeaders.Add("Sec-Fetch-Dest", wanted);
        using var answer = await client.GetAsync(new Uri(path, UriKind.Relative), TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
        Assert.False(answer.Headers.Contains("Set-Cookie"));
    }

    [Fact]
    public async Task The_cookie_for_forms_outlives_a_sign_in()
    {
        using var client = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = site.Address };
        using var answer = await client.GetAsync(new Uri("/sign-in", UriKind.Relative), TestContext.Current.CancellationToken);
        var cookie = Assert.Single(answer.Headers.GetValues("Set-Cookie"), c => c.StartsWith("screeline-form=", StringComparison.Ordinal));
        var age = Assert.Single(cookie.Split(';'), part => part.Trim().StartsWith("max-age=", StringComparison.Ordinal)).Split('=')[1];
        Assert.True(TimeSpan.FromSeconds(long.Parse(age, System.Globalization.CultureInfo.InvariantCulture)) > SignIn.Signed.Shift);
    }

    public static TheoryData<string, string, string> BrokenForms => new()
    {
        { "entry", "nonsense", "" }, { "entry", "", "" }, { "based_on", "nonsense", "" }, { "based_on", "-5", "" }, { "based_on", "99999", "" },
        { "test", "nonsense", "" }, { "test", "", "" }, { "value", "1\u00002", "" }, { "value", "💥", "" }, { "form-token", "forged", "" },
    };

    [Theory]
    [MemberData(nameof(BrokenForms))]
    public async Task A_broken_form_is_refused_and_changes_nothing(string field, string value, string _)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/7/find?test=ground-drop-cranking");
        var before = await CountAsync();
        await b.SubmitAsync("#reading", ("value", "12.3"), (field, value));
        Assert.InRange((int)b.Status, 400, 499);
        Assert.Equal(before, await CountAsync());
    }

    [Fact]
    public async Task What_is_no_form_at_all_is_refused()
    {
        using var b = new PlainBrowser(site);
        foreach (var content in new HttpContent[]
        {
            new StringContent("{}", Encoding.UTF8, "application/json"), new StringContent("x", Encoding.UTF8, "multipart/form-data"),
            new StringContent("x=%zz&&&==", Encoding.UTF8, "application/x-www-form-urlencoded"), new ByteArrayContent(new byte[2_000_000]) { Headers = { ContentType = MediaTypeHeaderValue.Parse("application/x-www-form-urlencoded") } },
        })
        {
            var answer = await b.Client.PostAsync("/jobs/7/find?handler=Read", content);
            Assert.InRange((int)answer.StatusCode, 400, 499);
        }
    }

    [Fact]
    public async Task Every_answer_carries_its_safety_headers_and_no_inline_script_or_style()
    {
        using var b = new PlainBrowser(site);
        foreach (var path in new[] { "/", "/jobs/7/find", "/jobs/5/take-apart", "/jobs/1/sheet", "/library", "/more", "/who", "/nowhere", "/css/site.css" })
        {
            var answer = await b.Client.GetAsync(path);
            var policy = answer.Headers.GetValues("Content-Security-Policy").Single();
            Assert.DoesNotContain("unsafe", policy, StringComparison.Ordinal);
            Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
            var html = await answer.Content.ReadAsStringAsync();
            Assert.DoesNotContain(" style=", html, StringComparison.Ordinal);
            Assert.DoesNotContain("<script>", html, StringComparison.Ordinal);
            Assert.DoesNotMatch(" on[a-z]+=\"", html);
        }
    }

    [Fact]
    public async Task The_stream_takes_an_entry_once_and_tells_conflicts()
    {
        using var b = new PlainBrowser(site);
        await PlainTests.OpenJobAsync(b);
        await PlainTests.NoteAsync(b);
        var job = await site.ScalarAsync<Guid>($"select id from jobs where number = {b.Number}");
        var address = $"/api/v1/jobs/{job}/entries";
        JsonObject Entry(string value, Guid? id = null, int basedOn = 2) => JsonNode.Parse($$"""
            {"id": "{{id ?? Guid.NewGuid()}}", "based_on": {{basedOn}}, "occurred_at": "2036-05-04T08:00:00+02:00", "kind": "reading-taken@1",
             "payload": {"test": "battery-rest", "value": {"value": {{value}}, "unit": "V" }, "choice": null } }
            """)!.AsObject();

        var first = Entry("12.6");
        Assert.Equal(HttpStatusCode.Created, (await SendAsync(b, address, first)).Status);
        var (again, answer) = await SendAsync(b, address, first);
        Assert.Equal(HttpStatusCode.OK, again);
        Assert.Equal(3, (int)answer!["position"]!);
        var clash = await SendAsync(b, address, Entry("12.1"));
        Assert.Equal(HttpStatusCode.Conflict, clash.Status);
        Assert.Equal("12.6", clash.Answer!["since"]![0]!["payload"]!["value"]!["value"]!.ToJsonString());
        Assert.Equal(HttpStatusCode.Conflict, (await SendAsync(b, address, Entry("12.2", Guid.Parse((string)first["id"]!)))).Status);
        Assert.Equal(HttpStatusCode.Created, (await SendAsync(b, address, Entry("12.1", null, 3))).Status);
        var all = JsonNode.Parse(await b.Client.GetStringAsync(address + "?after=2"))!;
        Assert.Equal(2, all["entries"]!.AsArray().Count);
        Assert.Equal(4, (int)all["head"]!);
    }

    public static TheoryData<string, string> BrokenEntries => new()
    {
        { "", "$" }, { "[]", "$" }, { "{", "$" }, { "{}", "$.id" }, { "{\"id\": \"\\u0000\"}", "$" },
        { Broken("id", "\"x\""), "$.id" }, { Broken("based_on", "-1"), "$.based_on" }, { Broken("based_on", "1.5"), "$.based_on" }, { Broken("based_on", "99"), "$.based_on" },
        { Broken("occurred_at", "\"yesterday\""), "$.occurred_at" }, { Broken("kind", "\"x@1\""), "$.kind" }, { Broken("kind", "\"reading-taken@9\""), "$.kind" },
        { Broken("kind", "\"job-opened@1\""), "$.payload" }, { Broken("payload", "null"), "$.payload" }, { Broken("payload", "{\"test\": 3}"), "$.payload" },
        { Broken("payload", "{\"test\": \"moon\", \"value\": null, \"choice\": null}"), "$.payload.test" },
        { Broken("payload", "{\"test\": \"battery-rest\", \"value\": {\"value\": 125, \"unit\": \"V\"}, \"choice\": null}"), "$.payload.value" },
        { Broken("colour", "1"), "$.colour" },
    };

    [Theory]
    [MemberData(nameof(BrokenEntries))]
    public async Task A_broken_entry_is_refused_with_its_path(string body, string path)
    {
        using var b = new PlainBrowser(site);
        var job = await site.ScalarAsync<Guid>("select id from jobs where number = 7");
        var before = await CountAsync();
        var answer = await b.Client.PostAsync($"/api/v1/jobs/{job}/entries", new StringContent(body, Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, answer.StatusCode);
        Assert.Contains($"\"path\":\"{path}", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(before, await CountAsync());
    }

    [Fact]
    public async Task An_entry_from_elsewhere_or_from_nobody_is_refused()
    {
        using var b = new PlainBrowser(site);
        using var nobody = new PlainBrowser(site, person: null);
        var address = $"/api/v1/jobs/{await site.ScalarAsync<Guid>("select id from jobs where number = 7")}/entries";
        var json = () => new StringContent("{}", Encoding.UTF8, "application/json");
        Assert.Equal(HttpStatusCode.UnsupportedMediaType, (await b.Client.PostAsync(address, new StringContent("{}", Encoding.UTF8, "text/plain"))).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await nobody.Client.PostAsync(address, json())).StatusCode);
        using var forged = new HttpRequestMessage(HttpMethod.Post, address) { Content = json(), Headers = { { "Origin", "http://elsewhere.example" } } };
        Assert.Equal(HttpStatusCode.Forbidden, (await b.Client.SendAsync(forged)).StatusCode);
    }

    private static string Broken(string key, string value)
    {
        var entry = JsonNode.Parse($$$"""{"id": "{{{Guid.NewGuid()}}}", "based_on": 2, "occurred_at": "2036-05-04T08:00:00Z", "kind": "reading-taken@1", "payload": {"test": "engine-turns", "value": null, "choice": "turns"}}""")!;
        entry[key] = JsonNode.Parse(value);
        return entry.ToJsonString();
    }

    private static async Task<(HttpStatusCode Status, JsonNode? Answer)> SendAsync(PlainBrowser b, string address, JsonNode entry)
    {
        var answer = await b.Client.PostAsync(address, new StringContent(entry.ToJsonString(), Encoding.UTF8, "application/json"));
        return (answer.StatusCode, JsonNode.Parse(await answer.Content.ReadAsStringAsync()));
    }

    private Task<long> CountAsync() => site.ScalarAsync<long>("select count(*) from entries e join jobs j on j.id = e.job_id where j.number = 7")!;
}

/// <summary>A database that goes away, on a site of its own: others must not feel it.</summary>
public sealed class DatabaseAwayTests
{
    [Fact]
    public async Task Nothing_lost_is_acknowledged_and_nothing_acknowledged_is_lost()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/7/find?test=ground-drop-cranking");
        var form = b.Form("#reading");

        site.Cable.Cut();
        await b.SubmitAsync(form, ("value", "12.2"));
        Assert.Equal(HttpStatusCode.ServiceUnavailable, b.Status);
        Assert.Contains("Not kept: the database is away", b.Text, StringComparison.Ordinal);
        Assert.Equal("12.2", b.Page.QuerySelector("input[name=value]")!.GetAttribute("value"));
        var held = b.Page.Forms[0];

        using var waiting = new PlainBrowser(site);
        await waiting.OpenAsync("/");
        Assert.Equal(HttpStatusCode.ServiceUnavailable, waiting.Status);
        Assert.NotNull(waiting.Page.QuerySelector("meta[http-equiv=refresh]"));
        Assert.Equal(HttpStatusCode.ServiceUnavailable, (await b.Client.GetAsync("/health/ready")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await b.Client.GetAsync("/health/live")).StatusCode);

        site.Cable.Mend();
        await b.SubmitAsync(held);
        Assert.True(b.Status == HttpStatusCode.OK, $"{b.Status} at {b.At}: {b.Text}\n{site.Log}");
        Assert.Contains("12.2 V", b.Text, StringComparison.Ordinal);
        await waiting.OpenAsync("/");
        Assert.Equal(HttpStatusCode.OK, waiting.Status);
    }

    [Fact]
    public async Task Ready_is_said_once_the_first_open_jobs_are_judged_or_their_time_is_up()
    {
        await using var site = new Site { WarmUp = true };
        await site.InitializeAsync();
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/12/find");
        Assert.Equal(HttpStatusCode.OK, b.Status);
        Assert.DoesNotContain("Nothing could be made ready", site.Log, StringComparison.Ordinal);
        // The others are judged in the background: whoever looks at one meanwhile gets it all the same.
        await b.OpenAsync("/jobs/7/find");
        Assert.Equal(HttpStatusCode.OK, b.Status);
    }

    [Fact]
    public async Task An_empty_installation_teaches()
    {
        await using var site = new Site { Demo = false };
        await site.InitializeAsync();
        using var b = new PlainBrowser(site, person: null);
        // The first start asks for the first foreman, and lets nobody be it who has not the code.
        await b.OpenAsync("/");
        Assert.Equal("/setup", b.At.AbsolutePath);
        await b.SubmitAsync("#setup", ("code", "AAAAA-AAAAA"), ("name", "Ansa Tollard"), ("login", "ansa"), ("password", "ebb and flow and ebb"));
        Assert.Contains("That code is not right", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#setup", ("code", Site.SetupCode!), ("password", "short"));
        Assert.Contains("At least 12 characters", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#setup", ("code", Site.SetupCode!.ToLowerInvariant()), ("password", "ebb and flow and ebb"));
        Assert.Contains("No open jobs. Open one in the customer's words.", b.Text, StringComparison.Ordinal);
        using var late = new PlainBrowser(site, person: null);
        await late.OpenAsync("/setup");
        Assert.Equal("/sign-in", late.At.AbsolutePath);
        Assert.Empty(late.Page.QuerySelectorAll(".sample-accounts"));
        await b.OpenAsync("/jobs/new");
        Assert.Contains("No vehicles yet", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/vehicles/new");
        await b.SubmitAsync("#vehicle", ("name", "Pinnace"), ("model", "Orlo Pinnace"), ("volts", "12"));
        await b.SubmitAsync("#open-job", ("family", "starting"), ("words", "clatter"));
        await PlainTests.NoteAsync(b);
        await b.SubmitAsync("form.fields[action*=Decide]", ("repair-id", "starter"), ("why", "quick"), ("act", "guess"));
        Assert.Contains("No map for the Orlo Pinnace yet", b.Text, StringComparison.Ordinal);
    }
}
