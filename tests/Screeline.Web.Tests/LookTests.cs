using System.Text.Json;

namespace Screeline.Web.Tests;

/// <summary>What every main view must keep, whatever it shows: access for all, the phone's width, reachable targets.</summary>
public sealed class LookTests(Site site)
{
    private static readonly string Axe = File.ReadAllText(Site.InTree("tests/Screeline.Web.Tests/wwwroot/lib/axe/axe.min.js"));

    internal static readonly string[] Views =
    [
        "/", "/?show=closed", "/?q=nothing-like-it", "/jobs/new", "/jobs/8/complaint", "/jobs/7/find", "/jobs/7/find?test=ground-drop-cranking", "/jobs/12/find", "/jobs/13/find", "/jobs/14/find?at=plug-reference", "/jobs/4/find", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/5/take-apart?step=undertray", "/jobs/5/record", "/jobs/44/way-in", "/jobs/45/take-apart", "/jobs/45/take-apart?step=negative-off", "/jobs/6/refit?step=undertray", "/jobs/5/refit", "/jobs/6/refit", "/jobs/9/refit",
        "/jobs/6/prove", "/jobs/6/hand-back", "/jobs/1/sheet", "/jobs/1/history", "/jobs/2/find", "/jobs/4/waits", "/more?back=/jobs/4/find", "/library", "/jobs/5/way-in", "/jobs/5/way-in?plan=again", "/jobs/5/way-in?block=main-nut", "/library/maps", "/library/maps/new", "/library/maps/tideway-starter", "/library/maps/tideway-starter?step=heat-shield", "/library/maps/fan-brannock-tideway", "/library/maps/fan-brannock-tideway?step=looked-over", "/jobs/46/keep", "/jobs/47/way-in", "/vehicles/new", "/more", "/who", "/nowhere",
        "/jobs/5/prepare", "/jobs/4/prepare", "/jobs/12/prepare", "/jobs/9/old-and-new", "/jobs/5/labels", "/jobs/9/refit?step=heat-shield", "/jobs/9/refit?step=wheel-off", "/bench", "/bench/torque?value=24%20N%C2%B7m&thread=M5&offset=45&angle=30",
        "/bench/torque?value=nonsense", "/bench/convert?figure=22%20lb-ft", "/bench/convert?figure=nine", "/bench/thread?thread=M8&joint=light-alloy", "/bench/socket?head=hex-13&tool=14", "/bench/wire?metres=1.6&section=35&amperes=200",
        "/bench/wiper", "/bench/wiper?park0=22&park1=19&low0=7&pillar1=0", "/bench/wiper?l-crank=75", "/bench/park?s1=10&s2=22&s3=11&s4=21&s5=10&s6=22", "/bench/window?ups=5.2&up=6+5+4.9+5+6.9+5.3+7&downs=3.6&down=3+3+3+3+4+3+4&frontt=402&reart=400", "/bench/actuator?low=12&high=1060&lowa=3&higha=1.2&upa=1.1&downa=1.2&gears=40:3+5:1", "/bench/balance?a0=3.4&grams=2&a1=1.8&a2=5.58&a3=4.18&speeds=1200+0.4;2400+1.7;3600+3.6", "/bench/battery?rest=12.4&cca=600", "/bench/belt?span=300&gpm=80&hertz=90&least=200&most=260", "/bench/lengths?find-crank=yes&lo0=4.2&hi0=91.9", "/jobs/16/set/wiper?step=tips-set&park0=22&park1=19", "/jobs/16/refit?step=tips-set",
        "/library/words", "/library/words?q=nothing-like-it", "/library/words/crow-foot", "/library/systems", "/library/systems/starting", "/library/systems/blower?at=plug-plus", "/about/parts", "/jobs/5/pictures/00000000-0000-4000-8000-000000000000", "/jobs/5/pictures/91c00000-0000-4000-8000-000000000005",
    ];

    /// <summary>
    /// Each view is opened once and looked at in every way: the rules of axe in the light and, at the current, the colours in the dark;
    /// the main action in sight; on the phone nothing wider than it, and nothing smaller than a gloved finger.
    /// </summary>
    [Theory]
    [InlineData(1280, 800)]
    [InlineData(390, 844)]
    public void Every_view_keeps_what_all_must(int width, int height)
    {
        using var b = new Browser(site, width, height);
        var phone = width < 800;
        var faults = new List<string>();
        foreach (var view in Views)
        {
            b.Open(view);
            // A list of nothing, or an end of the road, has no main action; every other view has one in sight.
            if (b.Number("const m = document.querySelector('.actions .btn-main'); return m ? m.getBoundingClientRect().bottom : null") is { } bottom && bottom > height + 0.5)
            {
                faults.Add($"{view}: the main action ends at {bottom} of {height}");
            }

            // On the phone what is used at the vehicle.
            if (!phone || view == "/" || view.StartsWith("/jobs/", StringComparison.Ordinal))
            {
                b.Script<object?>(Axe + "; return null");
                faults.AddRange(Broken(b, "").Select(v => $"{view}: {v}"));
            }

            if (phone)
            {
                faults.AddRange(OnAPhone(b).Select(f => $"{view}: {f}"));
            }
            else if (view != "/about/parts")
            {
                // In the dark only colours differ; the page of parts shows both looks at once.
                var light = b.Script<string>(Ground);
                b.Script<object?>("document.documentElement.dataset.look = 'dark'; document.querySelector('meta[name=color-scheme]').content = 'dark'; return null");
                Assert.NotEqual(light, b.Script<string>(Ground));
                faults.AddRange(Broken(b, ", runOnly: {type: 'rule', values: ['color-contrast', 'link-in-text-block']}").Select(v => $"{view} in the dark: {v}"));
            }
        }

        Assert.True(faults.Count == 0, string.Join('\n', faults));
        Assert.Empty(b.Complaints);
        b.Open("/jobs/5/take-apart");
        Assert.True(b.Script<bool>("return document.querySelector('.caution').getBoundingClientRect().top < document.querySelector('.actions').getBoundingClientRect().top - 40"), "the first caution is hidden below the fold");
    }

    private const string Ground = "return getComputedStyle(document.body).backgroundColor";

    private static string[] Broken(Browser b, string rules) =>
        JsonSerializer.Deserialize<string[]>((string)b.RunAsync($"const done = arguments[arguments.length - 1]; axe.run(document, {{preload: false, resultTypes: ['violations']{rules}}}).then(r => done(JSON.stringify(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).join(' | ')))))")!)!;

    private static IEnumerable<string> OnAPhone(Browser b)
    {
        b.Script<object?>("document.querySelectorAll('details').forEach(d => { d.open = true; }); return null");
        if (b.Script<long>("return document.documentElement.scrollWidth") > 390)
        {
            yield return $"wider than the phone: {b.Script<string>("return [...document.querySelectorAll('#frame *')].filter(e => e.getBoundingClientRect().right > 391).map(e => e.className || e.tagName).slice(0, 5).join(', ')")}";
        }

        if (b.Number("const m = document.querySelector('.actions .btn-main'); return m ? m.getBoundingClientRect().top : null") is { } top && top < 844 * 2 / 3.0)
        {
            yield return $"the main action begins at {top}";
        }

        var small = b.Script<string>("""
            return [...document.querySelectorAll('#frame button, #frame a.button, #frame summary, #frame input:not([type=hidden]), #frame select')]
              .filter(e => e.offsetParent && e.getBoundingClientRect().height < 47.5).map(e => e.outerHTML.slice(0, 80)).join(' ; ')
            """);
        if (small.Length > 0)
        {
            yield return $"smaller than a gloved finger: {small}";
        }
    }

    [Fact]
    public void A_step_is_ticked_on_a_phone_and_undone()
    {
        using var b = new Browser(site, 390, 844);
        b.Open("/jobs/5/take-apart");
        var act = b.One("h1.act").Text;
        b.Press("[data-main]");
        Assert.NotEqual(act, b.One("h1.act").Text);
        b.Press("form[action*=Undo] button");
        Assert.Equal(act, b.One("h1.act").Text);
    }

    [Fact]
    public void The_sheet_fits_one_page_of_A4()
    {
        using var b = new Browser(site);
        b.Open("/jobs/1/sheet");
        var pdf = b.PrintedPages();
        Assert.Equal(1, pdf);
    }

    /// <summary>The narrowest screen that WCAG 2.2 asks for (1.4.10, 320 px): nothing is wider, and the places stand apart.</summary>
    [Theory]
    [InlineData("/")]
    [InlineData("/library")]
    [InlineData("/bench/torque")]
    public void The_places_fit_the_narrowest_screen(string view)
    {
        using var b = new Browser(site, 320, 640);
        b.Open(view);
        Assert.Equal(320, b.Script<long>("return document.documentElement.scrollWidth"));
        Assert.True(b.Number("""
            const ends = [...document.querySelectorAll('.band-places a')].map((a) => { const r = document.createRange(); r.selectNodeContents(a); return r.getBoundingClientRect(); });
            return Math.min(...ends.slice(1).map((r, i) => r.left - ends[i].right));
            """) >= 4);
    }
}
