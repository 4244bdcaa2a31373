using System.Net;
using Screeline.Web.SignIn;

namespace Screeline.Web.Tests;

/// <summary>Coming in, staying in, and being out. On a site of its own: it locks accounts and changes passwords.</summary>
public sealed class AccountTests : IAsyncLifetime
{
    private readonly Site _site = new();

    public ValueTask InitializeAsync() => _site.InitializeAsync();

    public ValueTask DisposeAsync() => _site.DisposeAsync();

    [Theory]
    [InlineData(true, "https", true)]
    [InlineData(true, "http", false)]
    // Without a proxy of our own nobody is believed.
    [InlineData(false, "https", false)]
    public async Task Behind_a_proxy_that_speaks_TLS_every_cookie_is_for_TLS_alone(bool behindProxy, string scheme, bool secure)
    {
        await using var own = new Site { BehindProxy = behindProxy };
        await own.InitializeAsync();
        using var client = new HttpClient(new HttpClientHandler { UseCookies = false, AllowAutoRedirect = false }) { BaseAddress = own.Address };
        async Task<HttpResponseMessage> AskAsync(HttpMethod method, string cookies, HttpContent? content)
        {
            using var request = new HttpRequestMessage(method, "/sign-in") { Content = content, Headers = { Host = "shop.invalid" } };
            request.Headers.Add("X-Forwarded-Proto", scheme);
            request.Headers.Add("X-Forwarded-For", "192.0.2.7");
            request.Headers.TryAddWithoutValidation("Cookie", cookies);
            return await client.SendAsync(request);
        }

        using var form = await AskAsync(HttpMethod.Get, "", null);
        Assert.Equal(secure, form.Headers.Contains("Strict-Transport-Security"));
        var token = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await form.Content.ReadAsStringAsync()).QuerySelector("#sign-in input[name=form-token]")!.GetAttribute("value")!;
        var formCookie = form.Headers.GetValues("Set-Cookie").Single(c => c.StartsWith("screeline-form=", StringComparison.Ordinal));
        using var signedIn = await AskAsync(HttpMethod.Post, formCookie.Split(';')[0], new FormUrlEncodedContent(new Dictionary<string, string> { ["form-token"] = token, ["login"] = "ansa", ["password"] = SignIn.DemoAccounts.Password }));
        Assert.Equal(System.Net.HttpStatusCode.Redirect, signedIn.StatusCode);
        List<string> cookies = [formCookie, .. signedIn.Headers.GetValues("Set-Cookie")];
        Assert.Contains(cookies, c => c.StartsWith(SignIn.SignInSetup.Cookie + "=", StringComparison.Ordinal));
        Assert.All(cookies, c =>
        {
            Assert.Equal(secure, c.Contains("; secure", StringComparison.OrdinalIgnoreCase));
            Assert.Contains("; httponly", c, StringComparison.OrdinalIgnoreCase);
            Assert.Contains("; samesite=", c, StringComparison.OrdinalIgnoreCase);
        });
    }

    [Fact]
    public async Task Wrong_tries_lock_the_account_for_a_while_and_the_right_password_does_not_open_it_then()
    {
        using var b = new PlainBrowser(_site, person: null);
        await b.OpenAsync("/jobs/7/find");
        Assert.Equal("/sign-in", b.At.AbsolutePath);
        for (var i = 0; i < 5; i++)
        {
            // The same words for a name that is not there: they tell nothing.
            await b.SubmitAsync("#sign-in", ("login", i == 0 ? "nobody" : "Bram"), ("password", "high water at noon"));
            Assert.Contains("Name or password is not right.", b.Text, StringComparison.Ordinal);
        }

        await b.SubmitAsync("#sign-in", ("login", "bram"), ("password", "high water at noon"));
        await b.SubmitAsync("#sign-in", ("login", "bram"), ("password", DemoAccounts.Password));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("Too many tries. Again at", b.Text, StringComparison.Ordinal);
        // Somebody else comes in from the same place, back to where they wanted to.
        await b.SubmitAsync("#sign-in", ("login", "ANSA"), ("password", DemoAccounts.Password));
        Assert.Equal("/jobs/7/find", b.At.AbsolutePath);
        using var away = new PlainBrowser(_site, person: null);
        await away.OpenAsync("/sign-in?back=https://elsewhere.example/");
        await away.SubmitAsync("#sign-in", ("login", "ansa"), ("password", DemoAccounts.Password));
        Assert.Equal(new Uri(_site.Address, "/"), away.At);
    }

    [Fact]
    public async Task Another_password_ends_other_sign_ins_and_a_pin_keeps_its_rules()
    {
        using var one = new PlainBrowser(_site, Site.Nell);
        using var other = new PlainBrowser(_site, person: null);
        await other.OpenAsync("/sign-in");
        await other.SubmitAsync("#sign-in", ("login", "nell"), ("password", DemoAccounts.Password));
        await one.OpenAsync("/account");
        await one.SubmitAsync("form[action*='handler=Password']", ("old", "wrong wrong wrong"), ("password", "spring tide at eight"));
        Assert.Contains("not right", one.Page.QuerySelector("#old-fault")!.TextContent, StringComparison.Ordinal);
        foreach (var (password, fault) in new[] { ("short", "At least 12"), ("xxxxxxxxxxxxxxx", "Too few"), ("this is nell's own", "name in it"), (new string('x', 129), "At most 128") })
        {
            await one.SubmitAsync("form[action*='handler=Password']", ("old", DemoAccounts.Password), ("password", password));
            Assert.Contains(fault, one.Page.QuerySelector("#password-fault")!.TextContent, StringComparison.Ordinal);
        }

        await one.SubmitAsync("form[action*='handler=Password']", ("old", DemoAccounts.Password), ("password", "spring tide at eight"));
        Assert.Contains("The password is changed", one.Text, StringComparison.Ordinal);
        await one.OpenAsync("/jobs/7/find");
        Assert.Equal("/jobs/7/find", one.At.AbsolutePath);
        await other.OpenAsync("/jobs/7/find");
        Assert.Equal("/sign-in", other.At.AbsolutePath);
        await one.OpenAsync("/account");
        foreach (var (pin, fault) in new[] { ("123", "4 to 8"), ("1111", "Too easy"), ("2345", "Too easy"), ("12a4", "4 to 8") })
        {
            await one.SubmitAsync("form[action*='handler=Pin']", ("old", "spring tide at eight"), ("pin", pin));
            Assert.Contains(fault, one.Page.QuerySelector("#pin-fault")!.TextContent, StringComparison.Ordinal);
        }

        await one.SubmitAsync("form[action*='handler=Everywhere']");
        await one.OpenAsync("/");
        Assert.Equal("/sign-in", one.At.AbsolutePath);
    }

    [Fact]
    public async Task A_foreman_lets_people_in_and_out_and_stays_the_last_one()
    {
        using var b = new PlainBrowser(_site, Site.Orrin);
        await b.OpenAsync("/admin/people");
        await b.SubmitAsync("#add", ("name", "Wenna Strake"), ("login", "Ansa"), ("role", "technician"));
        Assert.Contains("Somebody signs in with that already", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("#add", ("login", "wenna"));
        var password = System.Text.RegularExpressions.Regex.Match(b.Text, "shown only now: ([a-z0-9-]+)").Groups[1].Value;
        Assert.Equal(19, password.Length);
        using var wenna = new PlainBrowser(_site, person: null);
        await wenna.OpenAsync("/sign-in");
        await wenna.SubmitAsync("#sign-in", ("login", "wenna"), ("password", password));
        Assert.Equal("/", wenna.At.AbsolutePath);
        var person = await _site.ScalarAsync<Guid>("select person_id from accounts where login = 'wenna'");
        await b.SubmitAsync($".account-acts:has(input[value='{person}'])", ("role", "viewer"), ("handler", "Role"));
        await b.OpenAsync("/admin/people");
        await b.PostAsync("/admin/people?handler=Disable", PlainBrowser.Fields(b.Form($".account-acts:has(input[value='{person}'])")));
        Assert.Contains("comes in no longer", b.Text, StringComparison.Ordinal);
        await wenna.OpenAsync("/");
        Assert.Equal("/sign-in", wenna.At.AbsolutePath);
        await b.PostAsync("/admin/people?handler=Disable", PlainBrowser.Fields(b.Form($".account-acts:has(input[value='{Site.Orrin}'])")));
        Assert.Contains("The last foreman stays one", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_cookie_keeps_to_itself_and_a_forged_one_opens_nothing()
    {
        using var client = new HttpClient(new HttpClientHandler { UseCookies = false, AllowAutoRedirect = false }) { BaseAddress = _site.Address };
        var cookie = _site.CookieOf(Site.Ansa);
        foreach (var (sent, status) in new[] { (cookie, HttpStatusCode.OK), (cookie[..^4] + "AAAA", HttpStatusCode.Redirect), ("x", HttpStatusCode.Redirect) })
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/jobs/7/find") { Headers = { { "Cookie", $"{SignInSetup.Cookie}={sent}" } } };
            Assert.Equal(status, (await client.SendAsync(request)).StatusCode);
        }

        using var page = await client.GetAsync("/sign-in");
        var token = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await page.Content.ReadAsStringAsync()).QuerySelector("#sign-in input[name=form-token]")!.GetAttribute("value")!;
        using var enter = new HttpRequestMessage(HttpMethod.Post, "/sign-in")
        {
            Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["form-token"] = token, ["login"] = "orrin", ["password"] = DemoAccounts.Password }),
            Headers = { { "Cookie", page.Headers.GetValues("Set-Cookie").First().Split(';')[0] } },
        };
        var set = (await client.SendAsync(enter)).Headers.GetValues("Set-Cookie").Single(c => c.StartsWith(SignInSetup.Cookie, StringComparison.Ordinal));
        Assert.Contains("httponly", set, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("samesite=lax", set, StringComparison.OrdinalIgnoreCase);
        Assert.DoesNotContain(Site.Orrin, set, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_trail_is_checked_on_its_page_and_a_printed_head_is_found()
    {
        using var b = new PlainBrowser(_site, Site.Orrin);
        await b.OpenAsync("/jobs/1/sheet");
        var head = await _site.ScalarAsync<string>("select encode(head_hash, 'hex') from jobs where number = 1");
        Assert.Contains(head![..16], b.Text.Replace(" ", "", StringComparison.Ordinal), StringComparison.Ordinal);
        await b.OpenAsync("/admin/trail");
        Assert.Contains("printed", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync("form[action*='handler=Check']");
        Assert.Contains("every one follows from the one before", b.Text, StringComparison.Ordinal);
        await b.OpenAsync($"/admin/trail?head={head[..12]}");
        Assert.Contains("Job 1, entry", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/admin/trail?head=0000000000");
        Assert.Contains("Not in this record.", b.Text, StringComparison.Ordinal);
        await b.OpenAsync("/admin/trail?head=xyz");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
    }
}
