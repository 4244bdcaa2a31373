using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Runtime.CompilerServices;
using System.Text.Json.Nodes;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Web.SignIn;

namespace Screeline.Web.Tests;

/// <summary>Who may say what, by whatever way it comes in: over JSON, by a correction, by a form whose ticket tells who pressed it, by a file.</summary>
public sealed class RightsTests(Site site)
{
    // One payload of each kind, as it is written today.
    private static IEnumerable<(string Kind, JsonNode Payload)> Samples([CallerFilePath] string here = "") =>
        File.ReadLines(Path.Combine(Path.GetDirectoryName(here)!, "..", "Screeline.Core.Tests", "written-before", "entries.jsonl")).Select(line => JsonNode.Parse(line)!)
            .Select(body => (Kind: body["kind"]!.GetValue<string>(), Payload: body["payload"]!)).Where(s => EntryKinds.All.Any(k => k.Tag == s.Kind)).DistinctBy(s => s.Kind);

    private static readonly (string? Person, Role Role)[] People = [(null, Role.Viewer), (Site.Nell, Role.Apprentice), (Site.Bram, Role.Technician), (Site.Orrin, Role.Foreman)];

    private async Task<HttpClient> ClientAsync(string? person)
    {
        var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false }) { BaseAddress = site.Address };
        client.DefaultRequestHeaders.Add("Cookie", $"{SignInSetup.Cookie}={(person is null ? await site.ViewerAsync() : site.CookieOf(person))}");
        return client;
    }

    private static JsonObject Entry(int head, string kind, JsonNode payload) => new()
    {
        ["id"] = Guid.NewGuid().ToString(), ["based_on"] = head, ["occurred_at"] = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture), ["kind"] = kind, ["payload"] = payload.DeepClone(),
    };

    /// <summary>Every kind of entry by every role over JSON: refused for the role exactly where the kind says so.</summary>
    [Fact]
    public async Task Over_JSON_each_role_says_what_its_kind_allows()
    {
        var number = await site.JobAtAsync("intake-duct");
        var (job, head) = await HeadAsync(number);
        Assert.Equal(EntryKinds.All.Select(k => k.Tag).Order(StringComparer.Ordinal), Samples().Select(s => s.Kind).Order(StringComparer.Ordinal));
        foreach (var (person, role) in People)
        {
            using var client = await ClientAsync(person);
            foreach (var (tag, payload) in Samples().Where(s => s.Kind != HandedBack.EntryKind.Tag || role < Role.Technician))
            {
                var answer = await client.PostAsJsonAsync($"/api/v1/jobs/{job}/entries", Entry(head, tag, payload));
                var kind = EntryKinds.All.Single(k => k.Tag == tag);
                if (role > Role.Viewer && kind.Name is "job-opened" or "second-wanted" or "job-imported")
                {
                    // What only the server says, it says itself.
                    Assert.Equal(HttpStatusCode.UnprocessableEntity, answer.StatusCode);
                    continue;
                }

                Assert.True((answer.StatusCode == HttpStatusCode.Forbidden) == (role < kind.By), $"{tag} as {role}: {answer.StatusCode}");
            }
        }
    }

    /// <summary>A correction or a withdrawal is as much as what it is about.</summary>
    [Fact]
    public async Task By_way_of_a_correction_nobody_says_more()
    {
        using var technician = await ClientAsync(Site.Bram);
        var closed = JsonNode.Parse(await technician.GetStringAsync($"/api/v1/jobs/{(await HeadAsync(await site.ScalarAsync<long>("select min(number) from job_summaries s join jobs j on j.id = s.job_id where s.closed_at is not null"))).Job}/entries"))!;
        var handed = closed["entries"]!.AsArray().Single(e => e!["kind"]!.GetValue<string>() == HandedBack.EntryKind.Tag)!;
        var correction = Entry(closed["head"]!.GetValue<int>(), "entry-corrected@1", new JsonObject { ["entry"] = handed["id"]!.GetValue<string>(), ["payload"] = handed["payload"]!.DeepClone() });
        var withdrawal = Entry(closed["head"]!.GetValue<int>(), "entry-withdrawn@1", new JsonObject { ["entry"] = handed["id"]!.GetValue<string>() });
        var path = $"/api/v1/jobs/{closed["job"]!.GetValue<string>()}/entries";
        using var apprentice = await ClientAsync(Site.Nell);
        foreach (var said in new[] { correction, withdrawal })
        {
            Assert.Equal(HttpStatusCode.Forbidden, (await apprentice.PostAsJsonAsync(path, said)).StatusCode);
        }

        Assert.Equal(closed["head"]!.GetValue<int>(), JsonNode.Parse(await technician.GetStringAsync(path))!["head"]!.GetValue<int>());
    }

    /// <summary>A form tells who pressed it on its own device and job, and nowhere else.</summary>
    [Fact]
    public async Task A_ticket_holds_for_its_device_and_its_job()
    {
        var (one, other) = (await site.JobAtAsync("intake-duct"), await site.JobAtAsync("intake-duct"));
        using var bram = new PlainBrowser(site, Site.Bram);
        await bram.OpenAsync($"/jobs/{one}/take-apart");
        var form = bram.MainForm;
        var ticket = PlainBrowser.Fields(form).Single(f => f.Key == "by").Value;
        var before = await CountAsync(one) + await CountAsync(other);

        // Another device, whoever is in there.
        using var ansa = new PlainBrowser(site, Site.Ansa);
        await ansa.OpenAsync($"/jobs/{one}/take-apart");
        await ansa.SubmitAsync(ansa.MainForm, ("by", ticket));
        Assert.Equal(HttpStatusCode.Forbidden, ansa.Status);
        Assert.Contains("Who pressed this cannot be told any more", ansa.Text, StringComparison.Ordinal);
        // Another job on the same device.
        await bram.OpenAsync($"/jobs/{other}/take-apart");
        await bram.SubmitAsync(bram.MainForm, ("by", ticket));
        Assert.Equal(HttpStatusCode.Forbidden, bram.Status);
        // One that was changed.
        await bram.OpenAsync($"/jobs/{one}/take-apart");
        await bram.SubmitAsync(bram.MainForm, ("by", ticket[..^6] + "AAAAAA"));
        Assert.Equal(HttpStatusCode.Forbidden, bram.Status);
        Assert.Equal(before, await CountAsync(one) + await CountAsync(other));
        // Where it belongs.
        await bram.OpenAsync($"/jobs/{one}/take-apart");
        await bram.SubmitAsync(bram.MainForm, ("by", ticket));
        Assert.Equal(before + 1, await CountAsync(one) + await CountAsync(other));
    }

    /// <summary>What a technician pressed and an apprentice sends is judged by the lesser of both.</summary>
    [Fact]
    public async Task A_ticket_lends_nobodys_rights()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new PlainBrowser(site, Site.Bram);
        await b.OpenAsync($"/jobs/{job}/hand-back");
        var fields = PlainBrowser.Fields(b.Form("form:has(input[name=entry])"));
        await b.OpenAsync($"/who?back=/jobs/{job}/take-apart");
        await b.SubmitAsync($"form.switch-form:has(input[value='{Site.Nell}'])", ("pin", "6301"));
        Assert.Equal($"/jobs/{job}/take-apart", b.At.AbsolutePath);
        await b.OpenAsync($"/jobs/{job}/take-apart");
        var mine = PlainBrowser.Fields(b.MainForm);
        var theirs = fields.Single(f => f.Key == "by").Value;
        // The technician's difference, signed under the apprentice's name at the tablet.
        await b.PostAsync($"/jobs/{job}/prove?handler=Sign", [.. mine.Where(f => f.Key is not ("by" or "step" or "cell")), new("by", theirs), new("reason", "on order"), new("covers", "undertray/edge:1")]);
        Assert.Equal(HttpStatusCode.Forbidden, b.Status);
        Assert.Contains("A technician or foreman answers for that", b.Text, StringComparison.Ordinal);
    }

    /// <summary>What changes everybody's plans is a technician's.</summary>
    [Theory]
    [InlineData("NotNeeded")]
    [InlineData("TakeBack")]
    public async Task Marks_on_everybodys_plans_are_a_technicians(string handler)
    {
        using var b = new PlainBrowser(site, Site.Nell);
        await b.OpenAsync("/jobs/7/find");
        var fields = PlainBrowser.Fields(b.Form("form:has(input[name=entry])"));
        await b.PostAsync($"/jobs/7/way-in?handler={handler}", [.. fields.Where(f => f.Key is "by" or "entry" or "based_on" or "form-token"), new("operation", "undertray")]);
        Assert.Equal(HttpStatusCode.Forbidden, b.Status);
    }

    /// <summary>A wait that protects people begins when the server hears of it: neither the date of a device nor a clock that ran longer than its page makes it older.</summary>
    [Fact]
    public async Task A_wait_that_was_kept_on_a_device_is_no_older_than_its_page()
    {
        var job = await site.JobAtAsync("cooled");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart");
        var fields = PlainBrowser.Fields(b.MainForm);
        Assert.Contains(fields, f => f.Key == "minutes");
        using var request = new HttpRequestMessage(HttpMethod.Post, b.MainForm.Action)
        {
            Content = new FormUrlEncodedContent([.. fields, new("occurred_at", DateTimeOffset.Now.AddHours(-2).ToString("o", CultureInfo.InvariantCulture)), new("waited_ms", "7200000"), new("same_page", "yes")]),
            Headers = { { "X-Screeline-Kept", "1" } },
        };
        Assert.Contains("kept", await (await b.Client.SendAsync(request)).Content.ReadAsStringAsync(), StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{job}/take-apart?step=cooled");
        var left = long.Parse(b.Page.QuerySelector(".timer")!.GetAttribute("data-left")!, CultureInfo.InvariantCulture);
        var minutes = decimal.Parse(fields.Single(f => f.Key == "minutes").Value, CultureInfo.InvariantCulture);
        Assert.InRange(left, (long)(60_000 * minutes) - 60_000, (long)(60_000 * minutes));
    }

    private Task<long> CountAsync(long number) => site.ScalarAsync<long>($"select count(*) from entries e join jobs j on j.id = e.job_id where j.number = {number}")!;

    private async Task<(Guid Job, int Head)> HeadAsync(long number) => (await site.ScalarAsync<Guid>($"select id from jobs where number = {number}"), await site.ScalarAsync<int>($"select head from jobs where number = {number}"));
}
