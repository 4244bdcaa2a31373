using System.Net;
using System.Text;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;
using Screeline.Core.People;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Tests;

/// <summary>
/// Every endpoint of the application, as it tells them itself, against every role: a new page or call without a rule fails here, and so
/// does one whose rule is not held.
/// </summary>
public sealed class RoleTests(Site site)
{
    /// <summary>One endpoint: its path with values in place of parameters, the methods it takes, its rule (null: open to all).</summary>
    private sealed record Way(string Pattern, string Path, bool Get, bool Post, AllowAttribute? Rule, bool Anyone);

    private static readonly Lazy<IReadOnlyList<Way>> Ways = new(All);

    public static TheoryData<string> Patterns => [.. Ways.Value.Select(w => w.Pattern)];

    [Fact]
    public void Every_endpoint_has_a_rule()
    {
        Assert.InRange(Ways.Value.Count, 55, 200);
        var without = Ways.Value.Where(w => w.Rule is null && !w.Anyone).Select(w => w.Pattern).ToList();
        Assert.True(without.Count == 0, $"without a rule: {string.Join(", ", without)}");
        // Open to all is a short list that somebody has looked at.
        Assert.Equal(["error/{code:int}", "health/live", "health/ready", "setup", "sign-in"], Ways.Value.Where(w => w.Anyone).Select(w => w.Pattern.Trim('/')).Order(StringComparer.Ordinal));
        // Nobody changes anything with a lesser role than they look with, and only a foreman gets to people, tokens and the trail.
        Assert.All(Ways.Value.Where(w => w.Rule is not null), w => Assert.True(w.Rule!.Write >= w.Rule.Read, w.Pattern));
        Assert.All(Ways.Value.Where(w => w.Pattern.Contains("admin", StringComparison.Ordinal)), w => Assert.True(w.Rule is { Read: Role.Foreman, Write: Role.Foreman, OwnSignIn: true }, w.Pattern));
    }

    [Theory]
    [MemberData(nameof(Patterns))]
    public async Task Each_role_opens_and_sends_what_it_may_and_nothing_else(string pattern)
    {
        var way = Ways.Value.Single(w => w.Pattern == pattern);
        foreach (var (who, role) in new (string?, Role?)[] { (null, null), ("viewer", Role.Viewer), (Site.Nell, Role.Apprentice), (Site.Bram, Role.Technician), (Site.Orrin, Role.Foreman) })
        {
            using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = site.Address };
            if (who is not null)
            {
                client.DefaultRequestHeaders.Add("Cookie", $"{SignInSetup.Cookie}={(who == "viewer" ? await site.ViewerAsync() : site.CookieOf(who))}");
            }

            if (way.Get)
            {
                using var answer = await client.GetAsync(way.Path, HttpCompletionOption.ResponseHeadersRead);
                Hold(answer, way, role, way.Rule?.Read, $"GET {way.Path} as {role?.ToString() ?? "nobody"}");
            }

            if (way.Post)
            {
                using var body = way.Path.StartsWith("/api", StringComparison.Ordinal) ? new StringContent("{}", Encoding.UTF8, "application/json") : new StringContent("", Encoding.UTF8, "application/x-www-form-urlencoded");
                using var answer = await client.PostAsync(way.Path, body);
                Hold(answer, way, role, way.Rule?.Write, $"POST {way.Path} as {role?.ToString() ?? "nobody"}");
            }
        }
    }

    /// <summary>Somebody who was switched to by a PIN gets nowhere near what a foreman guards.</summary>
    [Fact]
    public async Task A_pin_opens_no_administration()
    {
        using var b = new PlainBrowser(site, Site.Bram);
        await b.OpenAsync("/who?back=/jobs/7/find");
        await b.SubmitAsync($"form.switch-form:has(input[value='{Site.Orrin}'])", ("pin", "0000"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, b.Status);
        Assert.Contains("That PIN is not right", b.Text, StringComparison.Ordinal);
        await b.SubmitAsync($"form.switch-form:has(input[value='{Site.Orrin}'])", ("pin", "7416"));
        Assert.Equal("/jobs/7/find", b.At.AbsolutePath);
        await b.OpenAsync("/who");
        Assert.Contains("Signed in: Bram Quillow", b.Text, StringComparison.Ordinal);
        foreach (var path in new[] { "/admin/people", "/admin/tokens", "/admin/trail" })
        {
            await b.OpenAsync(path);
            Assert.Equal(HttpStatusCode.Forbidden, b.Status);
        }
    }

    // Refused means: to the sign-in, or told so. Let in means anything else that is not a fault of the server.
    private static void Hold(HttpResponseMessage answer, Way way, Role? role, Role? least, string told)
    {
        var refused = answer.StatusCode is HttpStatusCode.Forbidden or HttpStatusCode.Unauthorized
            || (answer.StatusCode == HttpStatusCode.Redirect && answer.Headers.Location!.ToString().StartsWith("/sign-in?back=", StringComparison.Ordinal));
        var may = way.Anyone || (role is { } r && r >= least);
        Assert.True((int)answer.StatusCode < 500, $"{told}: {answer.StatusCode}");
        Assert.True(refused != may, $"{told}: {answer.StatusCode}, {(may ? "should be let in" : "should be refused")}");
    }

    private static List<Way> All()
    {
        var app = WebSetup.Build([], new Settings("Host=127.0.0.1;Port=1;Database=none;Username=none;Password=none", "Host=127.0.0.1", null, 0, true, null, false, 200, false, false, null));
        var loader = app.Services.GetRequiredService<PageLoader>();
        var ways = new List<Way>();
        foreach (var endpoint in ((IEndpointRouteBuilder)app).DataSources.SelectMany(d => d.Endpoints).OfType<RouteEndpoint>())
        {
            var page = endpoint.Metadata.GetMetadata<PageActionDescriptor>();
            var metadata = page is null ? endpoint.Metadata : Compiled(loader.LoadAsync(page, endpoint.Metadata).GetAwaiter().GetResult());
            var methods = metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods;
            var pattern = endpoint.RoutePattern.RawText!;
            ways.Add(new Way(
                $"{(methods is null ? "" : string.Join(' ', methods) + " ")}{pattern}".Replace("GET ", "", StringComparison.Ordinal), "/" + Filled(pattern.TrimStart('/')),
                methods?.Contains("GET") ?? true, methods?.Contains("POST") ?? true, metadata.GetMetadata<AllowAttribute>(), metadata.GetMetadata<IAllowAnonymous>() is not null));
        }

        return [.. ways.DistinctBy(w => w.Pattern).OrderBy(w => w.Pattern, StringComparer.Ordinal)];
    }

    // Of a page only its compiled model knows the rule.
    private static EndpointMetadataCollection Compiled(CompiledPageActionDescriptor page) => page.Endpoint?.Metadata ?? new EndpointMetadataCollection(page.EndpointMetadata ?? []);

    private static string Filled(string pattern) => System.Text.RegularExpressions.Regex.Replace(pattern, @"\{([a-zA-Z]+)[^{}]*(\{[^}]*\}[^{}]*|\([^)]*\))*\}", match => match.Groups[1].Value switch
    {
        "number" => "5",
        "code" => "404",
        "sha256" => new string('a', 64),
        "documentName" => "v1",
        "format" => "json",
        "kind" => match.Value.Contains("setting", StringComparison.Ordinal) ? "park" : "wiper-park",
        _ => match.Value.Contains("guid", StringComparison.Ordinal) ? "10b00000-0000-4000-8000-000000000005" : "starting",
    });
}
