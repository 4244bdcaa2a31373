namespace Screeline.Web.Tests;

/// <summary>Labels of the drawings: readable, and clear of each other, of shapes and of lines.</summary>
public sealed class DrawingTests(Site site)
{
    // Bounding boxes as the browser lays them out. A text may stand inside a shape that holds its middle; a halo keeps a text
    // readable over a line, never over another text.
    private const string Collisions = """
        const found = [];
        const meet = (a, b, by) => Math.min(a.right, b.right) - Math.max(a.left, b.left) > by && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > by;
        for (const svg of document.querySelectorAll('svg.drawn')) {
          if (!svg.getBoundingClientRect().width) { continue; }
          const name = svg.querySelector('title')?.textContent ?? svg.getAttribute('aria-label');
          const texts = [...svg.querySelectorAll('text')].filter(t => t.textContent.trim() && t.getBoundingClientRect().width).map(t => {
            // The line box is higher than the letters: leave its lead out.
            const r = t.getBoundingClientRect(), lead = r.height * 0.2;
            return { t, words: t.textContent.trim(), left: r.left, right: r.right, top: r.top + lead, bottom: r.bottom - lead, halo: t.classList.contains('d-halo') };
          });
          texts.forEach((a, i) => texts.slice(i + 1).forEach(b => { if (meet(a, b, 1)) { found.push(`${name}: “${a.words}” lies on “${b.words}”`); } }));
          const box = svg.getBoundingClientRect();
          texts.forEach(a => { if (a.left < box.left - 1 || a.right > box.right + 1 || a.top < box.top - 1 || a.bottom > box.bottom + 1) { found.push(`${name}: “${a.words}” runs out of the drawing`); } });
          const shapes = [...svg.querySelectorAll('circle, rect, path')].filter(s => !s.classList.contains('d-ghost') && !s.classList.contains('d-cover'));
          // What is filled and drawn later hides the line under it.
          const fills = shapes.map((s, i) => ({ s, i, fill: getComputedStyle(s).fill })).filter(f => f.fill !== 'none' && f.fill !== 'rgba(0, 0, 0, 0)');
          const covers = [...svg.querySelectorAll('.d-cover')];
          const hidden = (i, x, y) => fills.some(f => f.i > i && inside(f.s, x, y)) || covers.some(c => c.compareDocumentPosition(shapes[i]) & Node.DOCUMENT_POSITION_PRECEDING && inside(c, x, y));
          const inside = (s, x, y) => { const p = svg.createSVGPoint(), m = s.getScreenCTM().inverse(); p.x = x; p.y = y; return s.isPointInFill(p.matrixTransform(m)); };
          for (const [i, s] of shapes.entries()) {
            const r = s.getBoundingClientRect();
            const closed = s.tagName !== 'path' || /z\s*$/i.test(s.getAttribute('d'));
            if (closed && s.tagName !== 'path') {
              for (const a of texts) {
                const x = (a.left + a.right) / 2, y = (a.top + a.bottom) / 2;
                const holds = x > r.left && x < r.right && y > r.top && y < r.bottom && a.right - a.left <= r.width;
                if (!holds && meet(a, r, 1)) { found.push(`${name}: “${a.words}” lies on a ${s.tagName}`); }
              }
              continue;
            }
            const m = s.getScreenCTM(), length = s.getTotalLength(), width = parseFloat(getComputedStyle(s).strokeWidth) * m.a / 2;
            for (const a of texts) {
              if (a.halo || !meet(a, { left: r.left - width, right: r.right + width, top: r.top - width, bottom: r.bottom + width }, 0)) { continue; }
              for (let at = 0; at <= length; at += 2) {
                const p = s.getPointAtLength(at), x = p.x * m.a + m.e, y = p.y * m.d + m.f;
                if (x > a.left - width + 1 && x < a.right + width - 1 && y > a.top - width + 1 && y < a.bottom + width - 1 && !hidden(i, x, y)) { found.push(`${name}: “${a.words}” lies on a line`); break; }
              }
            }
          }
        }
        return [...new Set(found)].join('\n');
        """;

    // Every view with a drawing; each family's circuit, each sketch.
    private static readonly string[] Views =
    [
        "/jobs/7/find", "/library/systems/starting", "/library/systems/charging", "/library/systems/blower", "/library/systems/wiper", "/library/systems/window", "/library/systems/fan", "/library/systems/actuator",
        "/jobs/5/way-in", "/library/maps/tideway-starter", "/jobs/5/take-apart", "/jobs/5/take-apart?step=undertray", "/jobs/9/refit?step=heat-shield", "/jobs/9/refit?step=wheel-off", "/library/words", "/about/parts",
        "/bench/torque?value=24%20N%C2%B7m&thread=M8&offset=45&angle=30",
        "/bench/wiper?park0=22&park1=19", "/bench/wiper?linkage=carrier-front", "/bench/park?s1=10&s2=22&s3=11&s4=21&s5=10&s6=22", "/bench/window?ups=5.2&up=6+5+4.9+5+6.9+5.3+7&downs=3.6&down=3+3+3+3+4+3+4",
        "/bench/actuator?low=12&high=1060", "/bench/belt?span=300&drive=150&driven=50", "/bench/battery?rest=12.4", "/bench/lengths?find-crank=yes&lo0=4.2&hi0=91.9", "/bench/balance?a0=3.4&grams=2&a1=1.8&a2=5.58&a3=4.18",
    ];

    [Theory]
    [InlineData(1280, 800)]
    [InlineData(390, 844)]
    public void No_label_lies_on_another_on_a_shape_or_on_a_line(int width, int height)
    {
        using var b = new Browser(site, width, height);
        var found = new List<string>();
        foreach (var view in Views)
        {
            b.OpenInItsOwnLetters(view);
            b.Script<object?>("document.querySelectorAll('details').forEach(d => { d.removeAttribute('name'); d.open = true; }); return null");
            Assert.True(b.Script<long>("return [...document.querySelectorAll('svg.drawn')].filter(s => s.getBoundingClientRect().width > 0).length") > 0, $"{view} draws nothing");
            found.AddRange(b.Script<string>(Collisions).Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(f => $"{view}: {f}"));
        }

        Assert.True(found.Count == 0, string.Join('\n', found));
    }

    [Fact]
    public void The_measure_sees_a_label_that_is_put_on_another_on_a_line_and_on_a_shape()
    {
        using var b = new Browser(site);
        b.Open("/jobs/7/find");
        b.Script<object?>("""
            const svg = document.querySelector('.circuit svg.drawn'), label = (words, x, y) => { const t = document.createElementNS(svg.namespaceURI, 'text'); t.setAttribute('class', 'd-text'); t.setAttribute('x', x); t.setAttribute('y', y); t.textContent = words; svg.append(t); };
            label('on a label', 8, 200); label('on it', 20, 204); const r = svg.viewBox.baseVal; label('far out', r.width - 10, 20);
            const p = svg.querySelector('circle.d-sheet'); label('on a ring', +p.getAttribute('cx') + 10, +p.getAttribute('cy'));
            return null
            """);
        var found = b.Script<string>(Collisions);
        Assert.Contains("“on a label” lies on “on it”", found, StringComparison.Ordinal);
        Assert.Contains("“far out” runs out", found, StringComparison.Ordinal);
        Assert.Contains("“on a ring” lies on a circle", found, StringComparison.Ordinal);
    }
}
