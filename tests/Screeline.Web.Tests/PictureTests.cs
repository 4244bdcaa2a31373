using System.IO.Compression;
using System.Net;

namespace Screeline.Web.Tests;

/// <summary>Pictures of a step: what is taken, what is refused, pins by taps.</summary>
public sealed class PictureTests(Site site)
{
    private static readonly byte[] Picture = MadeUpPicture.Make();

    [Fact]
    public async Task A_picture_is_kept_pinned_by_taps_and_laid_over_a_fresh_one()
    {
        using var b = new Browser(site);
        var file = Path.Combine(Path.GetTempPath(), $"screeline-{Guid.NewGuid():N}.png");
        await File.WriteAllBytesAsync(file, Picture);
        try
        {
            b.Open("/jobs/9/refit?step=heat-shield");
            b.Press("#keeps > summary", () => b.Script<bool>("return document.getElementById('keeps').open"));
            b.One("#keeps input[type=file]").SendKeys(file);
            b.Press("#keeps form[enctype] button");
            b.Until(() => b.All(".shots a").Count == 1, () => b.Text);
            b.Press(".shots a");
            b.Until(() => b.Script<bool>("return document.querySelector('.scripted .pin-picture') !== null && document.querySelector('.pin-tap').offsetHeight > 100"), "the picture does not come");
            b.ClickAt(".pin-tap", 0.25, 0.5);
            b.Until(() => b.All(".pin").Count == 1, "no pin");
            var place = b.Script<string>("const p = document.querySelector('.pin use').getBBox(); const v = document.querySelector('.pinned svg').viewBox.baseVal; return Math.round(100 * (p.x + p.width / 2) / v.width) + ' ' + Math.round(100 * (p.y + p.height / 2) / v.height);");
            Assert.Equal("25 50", place);
            b.Press(".choice:has([value=wire])", () => b.Script<bool>("return document.querySelector('[name=mark][value=wire]').checked"));
            foreach (var (x, y, points) in new[] { (0.1, 0.1, 1), (0.5, 0.2, 2), (0.9, 0.1, 3) })
            {
                b.ClickAt(".pin-tap", x, y);
                b.Until(() => b.Text.Contains($"2 Wire route, {points} points", StringComparison.Ordinal), () => b.Text);
            }

            b.Press(".actions form button");
            b.Until(() => b.Text.Contains("2 Wire route, 2 points", StringComparison.Ordinal), () => b.Text);
            b.Press("[data-main]");

            // The same place again: the pins lie over the fresh picture.
            b.One("#keeps input[type=file]").SendKeys(file);
            b.Press("#keeps form[enctype] button");
            b.Until(() => b.All(".shots li").Count == 2, () => b.Text);
            Assert.Equal(4, b.All(".shots .pin").Count);
            Assert.Empty(b.Complaints);
        }
        finally
        {
            File.Delete(file);
        }
    }

    public static TheoryData<string, byte[], string> BadPictures => new()
    {
        { "text.jpg", "no picture at all"u8.ToArray(), "This is no picture that can be read" },
        { "cut.png", Picture[..(Picture.Length / 2)], "cut short" },
        { "empty.png", [], "No picture was chosen" },
        { "drawing.svg", "<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>"u8.ToArray(), "This is no picture that can be read" },
        { "large.jpg", new byte[12_300_000], "at most 12 are taken" },
    };

    [Theory]
    [MemberData(nameof(BadPictures))]
    public async Task A_bad_picture_is_refused_and_the_step_stays(string name, byte[] content, string words)
    {
        using var b = new PlainBrowser(site);
        await b.OpenAsync("/jobs/5/take-apart?step=undertray");
        var before = await site.ScalarAsync<long>("select count(*) from documents where media_type like 'image/%'");
        await b.PostFileAsync("form[enctype]", "picture", name, content);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains(words, b.Text, StringComparison.Ordinal);
        Assert.Contains("Undertray off", b.Text, StringComparison.Ordinal);
        Assert.Equal(before, await site.ScalarAsync<long>("select count(*) from documents where media_type like 'image/%'"));
    }

    [Fact]
    public async Task Only_pictures_are_given_out_as_pictures()
    {
        using var b = new PlainBrowser(site);
        var map = await site.ScalarAsync<string>("select sha256 from documents where media_type = 'application/json' limit 1");
        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync($"/pictures/{map}.jpg")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await b.Client.GetAsync($"/pictures/{new string('0', 64)}.jpg")).StatusCode);
    }
}

/// <summary>A picture for tests.</summary>
internal static class MadeUpPicture
{
    // A made-up picture: 320 by 240 in four colours, written by hand so that the test needs no package for it.
    public static byte[] Make()
    {
        const int width = 320, height = 240;
        using var raw = new MemoryStream();
        using (var zlib = new ZLibStream(raw, CompressionLevel.NoCompression, leaveOpen: true))
        {
            for (var y = 0; y < height; y++)
            {
                zlib.WriteByte(0);
                for (var x = 0; x < width; x++)
                {
                    zlib.Write([(byte)(x < 160 ? 60 : 200), (byte)(y < 120 ? 70 : 180), (byte)((x * y) & 255)]);
                }
            }
        }

        using var png = new MemoryStream();
        png.Write([137, 80, 78, 71, 13, 10, 26, 10]);
        void Chunk(string type, byte[] data)
        {
            byte[] body = [.. System.Text.Encoding.ASCII.GetBytes(type), .. data];
            png.Write([(byte)(data.Length >> 24), (byte)(data.Length >> 16), (byte)(data.Length >> 8), (byte)data.Length]);
            png.Write(body);
            var sum = Checksum(body);
            png.Write([(byte)(sum >> 24), (byte)(sum >> 16), (byte)(sum >> 8), (byte)sum]);
        }

        Chunk("IHDR", [0, 0, width >> 8, width & 255, 0, 0, 0, height, 8, 2, 0, 0, 0]);
        Chunk("IDAT", raw.ToArray());
        Chunk("IEND", []);
        return png.ToArray();
    }

    // The checksum of the PNG specification, annex D.
    private static uint Checksum(byte[] bytes)
    {
        var sum = 0xFFFFFFFFu;
        foreach (var b in bytes)
        {
            sum ^= b;
            for (var k = 0; k < 8; k++)
            {
                sum = (sum & 1) != 0 ? 0xEDB88320u ^ (sum >> 1) : sum >> 1;
            }
        }

        return ~sum;
    }
}
