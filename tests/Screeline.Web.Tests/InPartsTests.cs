namespace Screeline.Web.Tests;

/// <summary>A page that comes late or in parts, as over a slow line or on a slow phone.</summary>
public sealed class InPartsTests(Site site)
{
    // The page as it comes over a slow line: its text handed to the parser eight tags at a time, each by itself with ./test --all, and after each the places of what stood there
    // before. Summed is the share of the screen that what moved touches, times how far the farthest moved as a share of the screen's
    // longer side: the layout shift score of the Layout Instability draft of the W3C, with boxes added up instead of united, as if
    // every tag were painted. Told is what makes most of it. What is not seen, below the screen mostly, is looked at after every sixteenth
    // tag: it counts from when it was seen.
    private const string InParts = """
        const [view, tags, done] = [arguments[0], arguments[1], arguments[arguments.length - 1]];
        let parts = [], i = 0, sum = 0, before = new Map();
        const met = new WeakSet();
        const told = [], shown = (e) => [Math.max(0, Math.min(e.right, innerWidth) - Math.max(e.left, 0)), Math.max(0, Math.min(e.bottom, innerHeight) - Math.max(e.top, 0))];
        const step = () => {
          for (const end = performance.now() + 200; i < parts.length && performance.now() < end; i++) {
            document.write(parts[i]);
            const now = new Map(), moved = new Set(), what = [];
            let [area, farthest] = [0, 0];
            for (const e of document.querySelectorAll('body *:not(svg *, option, br)')) {
              if (i % (16 / tags) && met.has(e) && !before.has(e)) { continue; }
              met.add(e);
              const r = e.getBoundingClientRect(), [width, height] = shown(r), was = before.get(e);
              if (width * height === 0 || !e.checkVisibility({ visibilityProperty: true })) { continue; }
              now.set(e, r);
              const far = was ? Math.max(Math.abs(was.left - r.left), Math.abs(was.top - r.top)) : 0;
              if (far < 3) { continue; }
              farthest = Math.max(farthest, far);
              moved.add(e);
              if (moved.has(e.parentElement)) { continue; }
              const [widthBefore, heightBefore] = shown(was);
              area += Math.max(width * height, widthBefore * heightBefore);
              what.push(`${e.tagName.toLowerCase()}.${e.getAttribute('class')} ${Math.round(was.left)},${Math.round(was.top)} to ${Math.round(r.left)},${Math.round(r.top)}`);
            }
            const score = area / (innerWidth * innerHeight) * farthest / Math.max(innerWidth, innerHeight);
            sum += score;
            told.push([score, `${score.toFixed(4)} when ${parts[i].trim().slice(0, 40)} came: ${what.slice(0, 4).join('; ')}`]);
            before = now;
          }
          if (i < parts.length) { setTimeout(step, 0); } else { document.close(); done([sum, told.sort((a, b) => b[0] - a[0]).slice(0, 8).map((t) => t[1]).join('\n')]); }
        };
        const wait = () => [...document.querySelectorAll('link[rel=stylesheet]')].every((l) => l.sheet) ? Promise.all([...document.fonts].map((f) => f.load())).then(step) : setTimeout(wait, 20);
        fetch(view).then((r) => r.text()).then((text) => {
          const start = text.indexOf('<body');
          const single = text.slice(start).split(/(?=<[a-z])/);
          parts = Array.from({ length: Math.ceil(single.length / tags) }, (_, part) => single.slice(part * tags, (part + 1) * tags).join(''));
          document.open();
          document.write(text.slice(0, start));
          wait();
        });
        """;

    /// <summary>However late the rest of a page comes, what is there already stays: 0.03 of layout shift at the most, where 0.1 counts as good.</summary>
    [Theory]
    [InlineData(1280, 800)]
    [InlineData(390, 844)]
    [InlineData(844, 390)]
    public void Nothing_moves_while_a_page_comes_in_parts(int width, int height)
    {
        using var b = new Browser(site, width, height);
        var faults = new List<string>();
        foreach (var view in FeltSpeedTests.Main)
        {
            b.Open("/health/live");
            var moved = ((IEnumerable<object>)b.RunAsync(InParts, view, Site.Everything ? 1 : 8)!).ToArray();
            var sum = Convert.ToDouble(moved[0], System.Globalization.CultureInfo.InvariantCulture);
            if (sum > 0.03)
            {
                faults.Add(FormattableString.Invariant($"{view}: {sum:0.000}\n{moved[1]}"));
            }
        }

        Assert.True(faults.Count == 0, string.Join('\n', faults));
    }
}
