using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Screeline.Web.Tests;

/// <summary>No entry is lost: the network drops, people change places, two work on one job, and two processes serve them.</summary>
public sealed class KeptTests(Site site)
{
    private Task<long> CountAsync(long job, string kind = "%") => site.ScalarAsync<long>($"select count(*) from entries e join jobs j on j.id = e.job_id where j.number = {job} and kind like '{kind}'")!;

    private static void AheadIsThere(Browser b) => b.Until(() => b.Script<bool>("return !!document.documentElement.dataset.prefetch"), "the pages ahead are not on this device");

    private static int Waiting(Browser b) => (int)(b.Number("return Number((document.querySelector('.kept:not([hidden]) .kept-count')?.textContent ?? '0').split(' ')[0])") ?? 0);

    // Presses the main action of a step and waits for the next one.
    private static bool Tick(Browser b)
    {
        var before = b.Script<string>("return (document.getElementById('frame').dataset.tick ?? '') + (document.getElementById('frame').dataset.then ?? '')");
        if (!b.Script<bool>("return !!document.querySelector('.actions form [data-main]:not(.shut):not(:disabled)')"))
        {
            return false;
        }

        b.Press("[data-main]", () => b.Script<bool>("const f = document.getElementById('frame'); return (f.dataset.tick ?? '') + (f.dataset.then ?? '') !== arguments[0] || !!document.querySelector('.actions button:disabled')", before));
        return true;
    }

    [Fact]
    public async Task The_network_drops_for_forty_ticks_and_every_one_is_there_afterwards()
    {
        var job = await site.JobAtAsync("codes-saved");
        using var cable = new Cable(site.Address.Port);
        using var b = new Browser(site, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        var before = await CountAsync(job);
        cable.Cut();
        var ticks = 0;
        while (ticks < 40 && Tick(b))
        {
            ticks++;
            b.Until(() => Waiting(b) == ticks, $"it is not told that {ticks} wait: {b.One("#kept").Text}");
        }

        // A gate that hangs on what is measured stays shut here; what is measured is kept all the same. Then back and on again, to forty.
        for (; ticks < 40 && b.All("form.check input[name=value]").FirstOrDefault(f => f.Displayed) is { } field; ticks++)
        {
            b.Script<object?>("arguments[0].value = '0.1'; arguments[0].form.requestSubmit(); arguments[0].closest('.row-check').remove(); return null", field);
            b.Until(() => Waiting(b) == ticks + 1, $"check not kept: {b.One("#kept").Text}");
        }

        while (ticks < 40)
        {
            // That one more waits is told before the step is shown that is open again.
            var at = b.One("#frame").GetDomAttribute("data-tick");
            b.Press("form[action*=Undo] button", () => Waiting(b) == ticks + 1 && b.One("#frame").GetDomAttribute("data-tick") != at);
            ticks++;
            if (ticks < 40 && Tick(b))
            {
                ticks++;
                b.Until(() => Waiting(b) == ticks, "not kept");
            }
        }

        Assert.Equal(before, await CountAsync(job));
        Assert.Contains("40 kept here, not yet sent", b.One("#kept").Text, StringComparison.Ordinal);
        cable.Mend();
        b.Until(() => Waiting(b) == 0, $"not sent: {b.One("#kept").Text}");
        // Torques are told with their tick and taken back with it, a wait ends with its own.
        var back = await site.ScalarAsync<long>($"select count(*) from entries w join jobs j on j.id = w.job_id join entries t on t.id = (w.payload->>'entry')::uuid where j.number = {job} and w.kind = 'entry-withdrawn' and t.kind = 'torque-set'");
        var kinds = await site.ScalarAsync<string>($"select string_agg(kind || ' ' || n, ', ') from (select kind, count(*) n from entries e join jobs j on j.id = e.job_id where j.number = {job} group by kind order by kind) x");
        var kept = await CountAsync(job) - await CountAsync(job, "torque-set") - await CountAsync(job, "timer-ended") - back;
        Assert.True(before + 40 == kept, $"{before} before, {kept} after: {kinds}");
        // They happened when they were pressed, not when they arrived.
        Assert.True(await site.ScalarAsync<bool>($"select bool_and(occurred_at < received_at) from (select * from entries e join jobs j on j.id = e.job_id where j.number = {job} order by position desc limit 40) x"));
        Assert.DoesNotContain(b.Complaints, c => !c.Contains("ERR_", StringComparison.Ordinal) && !c.Contains("Failed to fetch", StringComparison.Ordinal));
        Assert.Equal(0L, await site.ScalarAsync<long>($"select disputes::bigint from job_summaries s join jobs j on j.id = s.job_id where j.number = {job}"));
    }

    [Fact]
    public async Task Every_kind_of_form_is_kept_and_a_reload_goes_on_from_there()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var cable = new Cable(site.Address.Port);
        using var b = new Browser(site, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        b.Until(() => b.Script<bool>("return !!navigator.serviceWorker.controller"), "no worker");
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        var before = await CountAsync(job);
        cable.Cut();
        b.Script<object?>("document.querySelector('form[action*=\"handler=Note\"] [name=text]').value = 'clip was broken already'; document.querySelector('form[action*=\"handler=Note\"]').requestSubmit(); return null");
        b.Until(() => Waiting(b) == 1, "the note is not kept");
        Assert.True(Tick(b));
        b.Until(() => Waiting(b) == 2, "the tick is not kept");
        var act = b.One("h1.act").Text;
        // Taken back, and done again: the tick was not sent yet, and its id is known all the same.
        b.Press("form[action*=Undo] button", () => b.Script<bool>("return document.querySelector('h1.act').innerText !== arguments[0]", act));
        var back = b.One("h1.act").Text;
        b.Reload();
        b.Until(() => Waiting(b) == 3 && b.One("h1.act").Text == back, "a reload forgot that it was taken back");
        Assert.True(Tick(b));
        b.Until(() => Waiting(b) == 4, "not all is kept");
        Assert.Equal(act, b.One("h1.act").Text);
        b.Reload();
        b.Until(() => Waiting(b) == 4 && b.One("h1.act").Text == act, "a reload lost it");
        cable.Mend();
        b.Until(() => Waiting(b) == 0, "not sent");
        Assert.Equal(before + 4, await CountAsync(job));
        b.Until(() => b.One("h1.act").Text == act, "it does not go on from there");
        Assert.Equal(0L, await site.ScalarAsync<long>($"select disputes::bigint from job_summaries s join jobs j on j.id = s.job_id where j.number = {job}"));
    }

    [Fact]
    public async Task A_conflict_is_shown_with_both_versions_and_a_choice()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var cable = new Cable(site.Address.Port);
        using var b = new Browser(site, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        cable.Cut();
        Assert.True(Tick(b));
        b.Until(() => Waiting(b) == 1, "not kept");
        using (var other = new PlainBrowser(site, Site.Bram))
        {
            await other.OpenAsync($"/jobs/{job}/take-apart");
            await other.SubmitAsync(other.MainForm);
        }

        var before = await CountAsync(job);
        cable.Mend();
        var choice = b.Until(() => b.Script<string?>("return document.querySelector('.kept-choice')?.innerText"), "no choice is offered");
        Assert.Contains("somebody else came first", choice, StringComparison.Ordinal);
        Assert.Contains("Bram Quillow", choice, StringComparison.Ordinal);
        Assert.Contains("Ansa Tollard", choice, StringComparison.Ordinal);
        Assert.Equal(before, await CountAsync(job));
        b.Press(".kept-choice button:last-of-type", () => Waiting(b) == 0);
        Assert.Equal(before, await CountAsync(job));
    }

    [Fact]
    public async Task An_expired_sign_in_keeps_what_waits_and_the_next_one_does_not_change_who_did_it()
    {
        await using var own = new Site();
        await own.InitializeAsync();
        var job = await own.JobAtAsync("intake-duct");
        using var cable = new Cable(own.Address.Port);
        using var b = new Browser(own, 390, 844, person: Site.Bram, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        cable.Cut();
        Assert.True(Tick(b));
        b.Until(() => Waiting(b) == 1, "not kept");
        await own.ScalarAsync<Guid>($"update accounts set stamp = gen_random_uuid() where person_id = '{Site.Bram}' returning stamp");
        cable.Mend();
        b.Press("#kept .kept-sign-in", () => b.Path == "/sign-in");
        b.Press(".sample-accounts button", () => b.Path.EndsWith("/take-apart", StringComparison.Ordinal));
        b.Until(() => Waiting(b) == 0, "not sent");
        var (actor, sentBy) = (await own.ScalarAsync<Guid>($"select actor from entries e join jobs j on j.id = e.job_id where j.number = {job} order by position desc limit 1"), await own.ScalarAsync<Guid>($"select sent_by from entries e join jobs j on j.id = e.job_id where j.number = {job} order by position desc limit 1"));
        Assert.Equal((Guid.Parse(Site.Bram), Guid.Parse(Site.Ansa)), (actor, sentBy));
    }

    /// <summary>On a shared tablet: pages that were made ahead for one person are not pressed by the next.</summary>
    [Fact]
    public async Task After_a_switch_by_PIN_what_is_pressed_without_a_network_is_the_new_persons_and_waits_at_what_an_apprentice_may_not_alone()
    {
        var job = await site.JobAtAsync("raised");
        using var cable = new Cable(site.Address.Port);
        using var b = new Browser(site, 390, 844, person: Site.Bram, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        b.Open("/who");
        b.Script<object?>($"const f = [...document.querySelectorAll('.switch-form')].find(f => f.querySelector('[name=person]').value === '{Site.Nell}'); f.querySelector('[name=pin]').value = '6301'; f.requestSubmit(); return null");
        b.Until(() => b.Path == "/", "the switch did not come");
        b.Open($"/jobs/{job}/take-apart");
        AheadIsThere(b);
        var before = await CountAsync(job);
        cable.Cut();
        // Supports: kept, and then nobody goes on before somebody has looked.
        Assert.True(Tick(b));
        b.Until(() => Waiting(b) == 1, "not kept");
        Assert.Contains("A second person looks.", b.Text, StringComparison.Ordinal);
        b.Press("[data-main]", () => b.One("#notice").Text.Contains("before a second person has looked", StringComparison.Ordinal));
        Assert.Equal(1, Waiting(b));
        cable.Mend();
        b.Until(() => Waiting(b) == 0, "not sent");
        Assert.Equal(Guid.Parse(Site.Nell), await site.ScalarAsync<Guid>($"select actor from entries e join jobs j on j.id = e.job_id where j.number = {job} order by position desc limit 1"));
        Assert.Equal(before + 2, await CountAsync(job));
        Assert.Equal(1, await CountAsync(job, "second-wanted"));
        Assert.Equal(0L, await site.ScalarAsync<long>($"select disputes::bigint from job_summaries s join jobs j on j.id = s.job_id where j.number = {job}"));
    }

    /// <summary>Beside a step: a picture that is taken and pinned, and a setting that is measured, all without a network.</summary>
    [Fact]
    public async Task A_picture_its_pins_and_a_setting_wait_on_this_device_like_a_tick()
    {
        await using var own = new Site();
        await own.InitializeAsync();
        Task<long> Kept(string kind) => own.ScalarAsync<long>($"select count(*) from entries e join jobs j on j.id = e.job_id where j.number = 16 and kind = '{kind}'")!;
        using var cable = new Cable(own.Address.Port);
        using var b = new Browser(own, 390, 844, through: new Uri($"http://127.0.0.1:{cable.Port}"));
        var file = Path.Combine(Path.GetTempPath(), $"screeline-{Guid.NewGuid():N}.png");
        await File.WriteAllBytesAsync(file, MadeUpPicture.Make());
        try
        {
            b.Open("/jobs/16/refit");
            AheadIsThere(b);
            var act = b.One("h1.act").Text;
            cable.Cut();
            b.Press("#keeps > summary", () => b.Script<bool>("return document.getElementById('keeps').open"));
            b.One("#keeps input[type=file]").SendKeys(file);
            b.Press("#keeps form[enctype] button", () => Waiting(b) == 1);
            b.Press("#keeps a.kept-here", () => b.Path.Contains("/pictures/", StringComparison.Ordinal));
            b.Until(() => b.Script<bool>("return document.querySelector('.pin-tap')?.offsetHeight > 100"), "the picture does not come");
            b.ClickAt(".pin-tap", 0.25, 0.5);
            b.Until(() => Waiting(b) == 2 && b.All(".pin").Count == 1, "no pin");
            b.Press(".choice:has([value=wire])", () => b.Script<bool>("return document.querySelector('[name=mark][value=wire]').checked"));
            foreach (var (x, waits) in new[] { (0.1, 3), (0.5, 4) })
            {
                b.ClickAt(".pin-tap", x, 0.2);
                b.Until(() => Waiting(b) == waits && b.All(".pin").Count == 2, "the wire is not drawn");
            }

            Assert.Equal(2, b.Script<string>("return document.querySelector('.pin:last-of-type polyline').getAttribute('points')").Split(' ').Length);
            b.Press("#pin-back button", () => Waiting(b) == 5);
            Assert.DoesNotContain(' ', b.Script<string>("return document.querySelector('.pin:last-of-type polyline').getAttribute('points')"));
            b.Press("[data-main]", () => b.Path == "/jobs/16/refit" && b.One("h1.act").Text == act);

            b.Press("a[href*='/set/wiper']", () => b.Path == "/jobs/16/set/wiper");
            b.Type("#park0", "22");
            b.Type("#park1", "19");
            b.Press(".choice:has([name=school][value=gap])", () => b.Script<bool>("return document.querySelector('[name=school][value=gap]').checked"));
            b.Type("#school-why", "pin and gap as the sheet says");
            b.Press("#keep-form [data-main]", () => Waiting(b) == 6 && b.One("#notice").Text.StartsWith("Kept here.", StringComparison.Ordinal));
            b.Press("a[href*='/refit']", () => b.Path == "/jobs/16/refit" && b.All("a.kept-here[href*='/set/wiper']").Count > 0);
            b.Reload();
            b.Until(() => Waiting(b) == 6 && b.One("h1.act").Text == act, "a reload lost it");
            Assert.Equal(0, await Kept("picture-taken"));

            cable.Mend();
            b.Until(() => Waiting(b) == 0, () => $"not sent: {b.One("#kept").Text}");
            Assert.Equal((1, 4, 1), (await Kept("picture-taken"), await Kept("pins-set"), await Kept("setting-kept")));
            Assert.Equal("""[["screw", 1], ["wire", 1]]""", await own.ScalarAsync<string>("select jsonb_agg(jsonb_build_array(p->'kind', jsonb_array_length(p->'points')))::text from entries e join jobs j on j.id = e.job_id, jsonb_array_elements(e.payload->'pins') p where j.number = 16 and e.position = (select max(position) from entries x where x.job_id = e.job_id and kind = 'pins-set')"));
            Assert.Equal("""{"park0": "22", "park1": "19", "school": "gap"}""", await own.ScalarAsync<string>("select jsonb_build_object('park0', payload->'asked'->'park0', 'park1', payload->'asked'->'park1', 'school', payload->'asked'->'school')::text from entries e join jobs j on j.id = e.job_id where j.number = 16 and kind = 'setting-kept'"));
            b.Until(() => b.Text.Contains("Set it", StringComparison.Ordinal) || b.All(".set-here").Count > 0, "the step does not come back");
        }
        finally
        {
            File.Delete(file);
        }
    }

    /// <summary>A tablet of the shop sees many jobs; the pages of those seen long ago do not stay on it.</summary>
    [Fact]
    public void The_pages_of_the_last_six_jobs_stay_on_the_device()
    {
        using var b = new Browser(site);
        foreach (var job in new[] { 4, 5, 6, 7, 9, 12, 16, 6 })
        {
            b.Open($"/jobs/{job}/take-apart");
            AheadIsThere(b);
        }

        var kept = (string)b.RunAsync("""
            const [done] = arguments;
            (async () => {
              const inPages = await new Promise((resolve, reject) => {
                const open = indexedDB.open('screeline', 1);
                open.onerror = reject;
                open.onsuccess = () => { const keys = open.result.transaction('pages').objectStore('pages').getAllKeys(); keys.onsuccess = () => resolve(keys.result); };
              });
              const inCache = (await (await caches.open('screeline-pages-1')).keys()).map(r => new URL(r.url).pathname);
              return JSON.stringify([inPages, inCache].map(urls => [...new Set(urls.map(u => Number(u.split('/')[2])))].sort((a, b) => a - b)));
            })().then(done, e => done(String(e)));
            """)!;
        Assert.Equal("[[5,6,7,9,12,16],[5,6,7,9,12,16]]", kept);
    }

    /// <summary>A tick and its taking back as the version before kept them on the device: their addresses alone said what they were.</summary>
    [Fact]
    public async Task What_waited_when_the_version_changed_is_still_sent()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var b = new Browser(site);
        b.Open($"/jobs/{job}/take-apart");
        var before = await CountAsync(job);
        b.RunAsync("""
            const [done] = arguments;
            (async () => {
              const form = document.querySelector("form[data-ticks]");
              const { job, then, tick } = document.getElementById("frame").dataset;
              const fields = [...new FormData(form)];
              const url = new URL(form.action);
              const other = (handler, more) => ({ job, url: `${url.pathname}?handler=${handler}`, at: Date.now(), words: handler, state: "waiting", ...more });
              const items = [
                other("Done", { fields, then, tick }),
                other("Undo", { fields: [["entry", crypto.randomUUID()], ["based_on", fields.find(([n]) => n === "based_on")[1]], ["by", fields.find(([n]) => n === "by")?.[1] ?? ""], ["target", fields.find(([n]) => n === "entry")[1]]], then: null, tick }),
              ];
              const database = await new Promise((resolve, reject) => {
                const open = indexedDB.open("screeline", 1);
                open.onsuccess = () => resolve(open.result);
                open.onerror = reject;
              });
              const change = database.transaction("waiting", "readwrite");
              items.forEach((item) => change.objectStore("waiting").put(item));
              change.oncomplete = () => done("ok");
            })().catch((error) => done(String(error)));
            """);
        b.Open($"/jobs/{job}/take-apart");
        b.Until(() => b.Script<bool>("return screeline.now.line === 0 && !!document.documentElement.dataset.prefetch"), "what waited is not sent");
        Assert.Equal(before + 2, await CountAsync(job));
    }

    // A device whose clock is believed, and one whose clock is not: each sending is then dated by the server, at another moment.
    [Theory]
    [InlineData(-1)]
    [InlineData(-40)]
    public async Task The_same_tick_five_times_at_once_is_one(int daysAgo)
    {
        var at = DateTimeOffset.Now.AddDays(daysAgo).ToString("o", System.Globalization.CultureInfo.InvariantCulture);
        var job = await site.JobAtAsync("intake-duct");
        using var b = new PlainBrowser(site);
        await b.OpenAsync($"/jobs/{job}/take-apart");
        var fields = PlainBrowser.Fields(b.MainForm);
        var before = await CountAsync(job);
        var answers = await Task.WhenAll(Enumerable.Range(0, 5).Select(async _ =>
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, b.MainForm.Action) { Content = new FormUrlEncodedContent(fields.Append(new("occurred_at", at))), Headers = { { "X-Screeline-Kept", "1" } } };
            return JsonNode.Parse(await (await b.Client.SendAsync(request)).Content.ReadAsStringAsync())!["state"]!.GetValue<string>();
        }));
        Assert.All(answers, a => Assert.Equal("kept", a));
        Assert.Equal(before + 1, await CountAsync(job));
    }

    [Fact]
    public async Task What_the_other_one_does_comes_within_two_seconds_also_across_processes()
    {
        await using var own = new Site();
        await own.InitializeAsync();
        var other = await own.StartAnotherAsync();
        var job = await own.JobAtAsync("intake-duct");
        // In front of both a proxy that gives each connection to the next one: what is signed in, read and told by one is good for the other.
        using var proxy = new Cable(own.Address.Port, other.Port);
        var through = new Uri($"http://127.0.0.1:{proxy.Port}");
        using var a = new Browser(own, 390, 844, through: through);
        using var b = new Browser(own, person: Site.Bram, through: through);
        a.Open($"/jobs/{job}/take-apart");
        b.Open($"/jobs/{job}/take-apart");
        foreach (var (one, two) in new[] { (a, b), (b, a), (a, b) })
        {
            var act = two.One("h1.act").Text;
            two.Until(() => two.Script<bool>("return !!window.EventSource && document.readyState === 'complete'"), "not loaded");
            one.Press("[data-main]");
            var watch = System.Diagnostics.Stopwatch.StartNew();
            two.Until(() => two.One("h1.act").Text != act, "the other one's tick did not come");
            Assert.InRange(watch.ElapsedMilliseconds, 0, 2000);
        }

        Assert.All(proxy.Taken, n => Assert.InRange(n, 3, int.MaxValue));
        // One that looks at each of them, whichever the proxy chose.
        using var c = new Browser(own, person: Site.Bram, through: other);
        c.Open($"/jobs/{job}/take-apart");
        using var d = new Browser(own, 390, 844);
        d.Open($"/jobs/{job}/take-apart");
        var shown = c.One("h1.act").Text;
        d.Press("[data-main]");
        c.Until(() => c.One("h1.act").Text != shown, "the other process was not told");

        // What is half typed stays under the hand.
        b.Open($"/jobs/{job}/take-apart");
        b.Script<object?>("document.querySelectorAll('details').forEach(d => { d.open = true; }); return null");
        b.Type("form[action*='handler=Note'] [name=text]", "half a sen");
        a.Press("[data-main]");
        b.Until(() => b.Text.Contains("Somebody else kept something", StringComparison.Ordinal), "it is not told");
        Assert.Equal("half a sen", b.Script<string>("return document.querySelector('form[action*=\"handler=Note\"] [name=text]').value"));
    }

    [Fact]
    public async Task What_the_other_one_does_leaves_the_focus_where_it_is_and_open_what_was_opened()
    {
        var job = await site.JobAtAsync("intake-duct");
        using var a = new Browser(site, person: Site.Bram);
        using var b = new Browser(site);
        a.Open($"/jobs/{job}/take-apart");
        string Focused() => b.Script<string>("const e = document.activeElement; return `${e.tagName} ${e.getAttribute('href') ?? e.textContent.trim()}`.slice(0, 60)");
        string Unfolded() => b.Script<string>("return [...document.querySelectorAll('#frame details[open] > summary')].map(s => s.textContent.trim()).join('|')");
        // A link and a fold are the same ones afterwards; the main action is another step's, and Enter must not do that one unseen.
        foreach (var (control, stays) in new[] { ($".stages a[href='/jobs/{job}/find']", true), ("#not-as-planned > summary", true), ("[data-main]", false) })
        {
            b.Open($"/jobs/{job}/take-apart");
            b.Script<object?>("document.getElementById('not-as-planned').open = true; document.querySelector(arguments[0]).focus(); return null", control);
            var (act, focused, unfolded) = (b.One("h1.act").Text, Focused(), Unfolded());
            a.Press("[data-main]");
            b.Until(() => b.One("h1.act").Text != act, "the other one's tick did not come");
            Assert.NotEqual("", unfolded);
            Assert.Equal(unfolded, Unfolded());
            Assert.Equal(stays ? focused : "BODY", stays ? Focused() : Focused()[..4]);
        }
    }

    /// <summary>An apprentice's supports: a colleague signs with a PIN on the same tablet, and only then it goes on.</summary>
    [Fact]
    public async Task A_second_person_signs_on_the_apprentices_tablet()
    {
        var job = await site.JobAtAsync("raised");
        using var b = new PlainBrowser(site, Site.Nell);
        await b.OpenAsync($"/jobs/{job}/take-apart");
        await b.SubmitAsync(b.MainForm);
        Assert.Contains("A second person looks.", b.Text, StringComparison.Ordinal);
        // The main action says so before it is pressed.
        Assert.Equal("A second person looks first", b.Page.QuerySelector(".actions .btn-main.shut")?.TextContent);
        await b.SubmitAsync(b.MainForm);
        Assert.Equal(HttpStatusCode.Conflict, b.Status);
        Assert.Contains("Nobody goes under it before a second person has looked", b.Text, StringComparison.Ordinal);
        Assert.DoesNotContain(b.Page.QuerySelectorAll("form.second option"), o => o.TextContent.Contains("Nell", StringComparison.Ordinal));
        await b.SubmitAsync("form.second", ("person", Site.Bram), ("pin", "1234"));
        Assert.Contains("That PIN is not right", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form.second", ("person", Site.Bram), ("pin", "5186"));
        Assert.DoesNotContain("A second person looks.", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync(b.MainForm);
        Assert.Equal(HttpStatusCode.OK, b.Status);
        await b.OpenAsync($"/jobs/{job}/history");
        Assert.Contains("Bram Quillow", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/jobs/{job}/hand-back");
        await b.SubmitAsync("#hand-back", ("found", "x"));
        Assert.Equal(HttpStatusCode.Forbidden, b.Status);
    }

    /// <summary>A token reads or works, under its person's name, until it is taken back; a foreman's token does not administer.</summary>
    [Fact]
    public async Task A_program_comes_in_with_a_token()
    {
        using var b = new PlainBrowser(site, Site.Orrin);
        async Task<string> MakeAsync(string scope)
        {
            await b.OpenAsync("/admin/tokens");
            await b.SubmitAsync("form[action*='handler=Add']", ("name", $"scale {scope}"), ("person", Site.Orrin), ("scope", scope), ("days", "30"));
            return b.Page.QuerySelector(".token")!.TextContent;
        }

        var (read, work) = (await MakeAsync("read"), await MakeAsync("work"));
        using var program = new HttpClient { BaseAddress = site.Address };
        async Task<HttpStatusCode> AskAsync(HttpMethod method, string path, string? token)
        {
            using var request = new HttpRequestMessage(method, path) { Content = method == HttpMethod.Post ? new StringContent("{}", Encoding.UTF8, "application/json") : null };
            request.Headers.Authorization = token is null ? null : new("Bearer", token);
            return (await program.SendAsync(request)).StatusCode;
        }

        var entries = $"/api/v1/jobs/{await site.ScalarAsync<Guid>("select id from jobs where number = 7")}/entries";
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(HttpMethod.Get, entries, null));
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(HttpMethod.Get, entries, read + "0"));
        Assert.Equal(HttpStatusCode.OK, await AskAsync(HttpMethod.Get, entries, read));
        Assert.Equal(HttpStatusCode.Forbidden, await AskAsync(HttpMethod.Post, entries, read));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await AskAsync(HttpMethod.Post, entries, work));
        Assert.Equal(HttpStatusCode.Forbidden, await AskAsync(HttpMethod.Get, "/admin/people", work));
        Assert.Equal(0L, await site.ScalarAsync<long>($"select count(*) from api_tokens where encode(sha256, 'escape') like '%{work}%' or name like '%{work}%'"));
        await b.OpenAsync("/admin/tokens");
        await b.SubmitAsync("form[action*='handler=Revoke']");
        Assert.Equal(HttpStatusCode.Unauthorized, await AskAsync(HttpMethod.Get, entries, work));
    }
}
