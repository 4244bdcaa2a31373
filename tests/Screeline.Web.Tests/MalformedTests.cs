using System.Net;
using System.Text;
using Screeline.Web.SignIn;

namespace Screeline.Web.Tests;

/// <summary>A thousand requests, five thousand with ./test --all, that nobody's hand makes: no fault of the server, no hang, nothing changed.</summary>
public sealed class MalformedTests
{
    private static readonly string[] Nasty =
    [
        "", " ", "\0", "\u0001\u0002", "\uFFFE", "\uD800", "'", "''; drop table entries; --", "\" onmouseover=\"x", "<script>alert(1)</script>", "{{7*7}}", "${7*7}", "%s%n%x", "../../../../etc/passwd", "..\\..\\x", "C:\\x", "\r\nSet-Cookie: a=b", "\u202Eabc", "💥", "a\u0301",
        "NaN", "Infinity", "-Infinity", "1e309", "-1", "0", "-0", "00", "99999999999999999999", "2147483648", "-2147483649", "9223372036854775808", "0x10", "1,5", "1.5.5", "١٢", "null", "true", "[]", "{}", "[[[[[[[[[[[[[[[[", "00000000-0000-0000-0000-000000000000", "not-a-uuid", "2036-13-40T99:99:99Z",
        new string('A', 300), new string('9', 400), new string('a', 5000), new string('{', 2000), "12 V\u00002", "12 Ω", "1e-400 V", "hex-", "M8x", "raised", "main-nut", "Ansa", "=cmd|' /C calc'!A0", "http://127.0.0.1/", "javascript:alert(1)", "//elsewhere.example", "%00", "%ff", "%",
    ];

    private static readonly string[] Paths =
    [
        "/api/v1/diagnosis", "/api/v1/plan", "/api/v1/torque", "/api/v1/linkage", "/api/v1/balance", "/api/v1/settings/wiper-park", "/api/v1/jobs", "/api/v1/jobs/10b00000-0000-4000-8000-000000000005/entries", "/api/v1/jobs/10b00000-0000-4000-8000-000000000007/entries",
    ];

    private const string State = """
        select md5(string_agg(x, '')) from (
          select coalesce(string_agg(encode(hash, 'hex'), '' order by link), '') x from chain union all select count(*)::text from entry_collisions union all select count(*)::text from people union all select count(*)::text from accounts
          union all select coalesce(string_agg(name, '' order by name), '') from vehicles union all select coalesce(string_agg(tool, '' order by tool), '') from tools_owned union all select count(*)::text from documents union all select count(*)::text from api_tokens
          union all select coalesce(string_agg(name || value, '' order by name), '') from shop_figures) s
        """;

    private static readonly int Requests = Site.Everything ? 5000 : 1000;

    [Fact]
    public async Task Malformed_requests_break_and_change_nothing()
    {
        await using var site = new Site();
        await site.InitializeAsync();
        var before = await site.ScalarAsync<string>(State);
        var random = new Random(20361204);
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = site.Address, Timeout = TimeSpan.FromSeconds(20) };
        client.DefaultRequestHeaders.Add("Cookie", $"{SignInSetup.Cookie}={site.CookieOf(Site.Ansa)}");
        var forms = await FormsAsync(site);
        Assert.InRange(forms.Count, 40, 500);
        var statuses = new Dictionary<HttpStatusCode, int>();
        for (var i = 0; i < Requests; i++)
        {
            using var request = (i % 5) switch
            {
                0 => Json(random),
                1 or 2 => Form(random, forms),
                3 => new HttpRequestMessage(HttpMethod.Get, Address(random)),
                _ => Bytes(random, forms),
            };
            var told = $"{i}: {request.Method} {request.RequestUri} {(request.Content is null ? "" : Short(Encoding.Latin1.GetString(await request.Content.ReadAsByteArrayAsync())))}";
            try
            {
                using var answer = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
                // Held back for its number is no answer to what was sent: slower, and again.
                if (answer.StatusCode == HttpStatusCode.TooManyRequests)
                {
                    await Task.Delay(1000);
                    continue;
                }

                Assert.True((int)answer.StatusCode < 500, $"{told}: {answer.StatusCode}");
                statuses[answer.StatusCode] = statuses.GetValueOrDefault(answer.StatusCode) + 1;
            }
            catch (TaskCanceledException)
            {
                Assert.Fail($"{told}: no answer in 20 s");
            }
        }

        TestContext.Current.TestOutputHelper?.WriteLine(string.Join(", ", statuses.OrderBy(s => s.Key).Select(s => $"{s.Value} × {(int)s.Key}")));
        Assert.InRange(statuses.Where(s => (int)s.Key is >= 400 and < 500).Sum(s => s.Value), Requests / 2, Requests);
        Assert.Equal(before, await site.ScalarAsync<string>(State));
    }

    private static HttpRequestMessage Json(Random random)
    {
        string Value(int depth) => random.Next(depth > 4 ? 4 : 7) switch
        {
            0 => System.Text.Json.JsonSerializer.Serialize(Pick(random)),
            1 => random.Next(-1000, 1000).ToString(System.Globalization.CultureInfo.InvariantCulture),
            2 => random.Next(2) == 0 ? "null" : "true",
            3 => "1e999",
            4 => $"[{string.Join(',', Enumerable.Range(0, random.Next(4)).Select(_ => Value(depth + 1)))}]",
            _ => $"{{{string.Join(',', Enumerable.Range(0, random.Next(5)).Select(_ => $"\"{new[] { "id", "kind", "payload", "based_on", "occurred_at", "format", "system", "readings", "map", "value", "unit", "test", "step", "readings", "nominal_volts" }[random.Next(15)]}\":{Value(depth + 1)}"))}}}",
        };
        var text = Value(0);
        text = random.Next(4) == 0 ? text[..random.Next(text.Length + 1)] : text;
        return new HttpRequestMessage(HttpMethod.Post, Paths[random.Next(Paths.Length)]) { Content = new StringContent(text, Encoding.UTF8, "application/json") };
    }

    // A real form with its real token, one or two of its fields broken, most often the one that names its entry or its job's head.
    private static HttpRequestMessage Form(Random random, List<(string Action, List<KeyValuePair<string, string>> Fields)> forms)
    {
        var (action, given) = forms[random.Next(forms.Count)];
        var fields = given.ToList();
        // Whatever else is wrong: without an id nothing is kept, and without a token nothing is read.
        fields.RemoveAll(f => f.Key == (fields.Any(x => x.Key == "entry") && random.Next(2) == 0 ? "entry" : "form-token"));
        for (var i = random.Next(1, 4); i > 0 && fields.Count > 0; i--)
        {
            var at = random.Next(fields.Count);
            fields[at] = new(random.Next(8) == 0 ? Pick(random) : fields[at].Key, Pick(random));
        }

        return new HttpRequestMessage(HttpMethod.Post, action) { Content = new FormUrlEncodedContent(fields) };
    }

    private static HttpRequestMessage Bytes(Random random, List<(string Action, List<KeyValuePair<string, string>> Fields)> forms)
    {
        var bytes = new byte[random.Next(2000)];
        random.NextBytes(bytes);
        var content = new ByteArrayContent(bytes);
        content.Headers.TryAddWithoutValidation("Content-Type", new[] { "application/json", "application/x-www-form-urlencoded", "multipart/form-data", "multipart/form-data; boundary=x", "text/plain", "x", "application/json; charset=utf-7" }[random.Next(7)]);
        return new HttpRequestMessage(random.Next(6) == 0 ? HttpMethod.Put : HttpMethod.Post, random.Next(2) == 0 ? Paths[random.Next(Paths.Length)] : forms[random.Next(forms.Count)].Action) { Content = content };
    }

    private static string Address(Random random)
    {
        var value = Uri.EscapeDataString(Pick(random) is var v && v.Any(char.IsSurrogate) ? "x" : v);
        return new[]
        {
            $"/?q={value}", $"/?show={value}&skip={value}", $"/jobs/{value}/find", $"/jobs/7/find?test={value}", $"/jobs/7/find?at={value}", $"/jobs/5/take-apart?step={value}", $"/jobs/5/take-apart?as_if={value}", $"/jobs/9/refit?as_if={value}", $"/jobs/4/way-in?plan={value}&block={value}", $"/library/maps/{value}",
            $"/library/maps/tideway-starter?step={value}", $"/bench/torque?value={value}&wrench={value}", $"/bench/wiper?park0={value}&park1={value}", $"/bench/wiper.{value}", $"/vehicles/{value}", $"/insight?from={value}", $"/pictures/{value}.jpg", $"/jobs.csv?q={value}", $"/api/v1/jobs/{value}", $"/api/v1/systems/{value}",
            $"/jobs/1/set/{value}", $"/jobs/5/prepare?x={value}", $"/sign-in?back={value}", $"/who?back={value}", $"/more?back={value}", $"/{value}", $"/jobs/new?vehicle={value}&family={value}", $"/library/words?q={value}", $"/bench/socket?drive={value}", $"/bench/wire?length={value}&section={value}", $"/bench/thread?thread={value}", $"/bench/convert?value={value}",
        }[random.Next(32)];
    }

    private static string Pick(Random random) => Nasty[random.Next(Nasty.Length)];

    private static string Short(string text) => text.Length > 300 ? text[..300] : text;

    private static async Task<List<(string Action, List<KeyValuePair<string, string>> Fields)>> FormsAsync(Site site)
    {
        using var b = new PlainBrowser(site);
        var forms = new List<(string, List<KeyValuePair<string, string>>)>();
        foreach (var page in new[] { "/jobs/7/find", "/jobs/5/take-apart", "/jobs/9/refit", "/jobs/6/prove", "/jobs/6/hand-back", "/jobs/8/complaint", "/jobs/4/way-in", "/jobs/new", "/vehicles/new", "/library", "/more", "/who", "/account", "/jobs/4/waits", "/jobs/5/old-and-new", "/library/maps/tideway-starter" })
        {
            await b.OpenAsync(page);
            Assert.Equal(HttpStatusCode.OK, b.Status);
            forms.AddRange(b.Page.Forms.Where(f => f.Method == "post").Select(f => (f.Action.StartsWith("about:", StringComparison.Ordinal) ? page : f.Action, PlainBrowser.Fields(f))));
        }

        return forms;
    }
}
