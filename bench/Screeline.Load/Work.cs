using System.Globalization;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Screeline.Load;

/// <summary>What a technician does: jobs of their own whose way in is taken, and ticks on them, through the same doors as anybody.</summary>
internal static class Work
{
    /// <summary>The way in that one of the demo's jobs took.</summary>
    public static async Task<JsonElement> RouteAsync(HttpClient client)
    {
        using var stream = JsonDocument.Parse(await client.GetStringAsync("/api/v1/jobs/10b00000-0000-4000-8000-000000000005/entries"));
        return stream.RootElement.GetProperty("entries").EnumerateArray().First(e => e.GetProperty("kind").GetString() == "route-taken@1").GetProperty("payload").Clone();
    }

    /// <summary>Its steps in order.</summary>
    public static IReadOnlyList<string> StepsOf(JsonElement route) => [.. route.GetProperty("removal").EnumerateArray().Select(s => s.GetString()!)];

    /// <summary>A step taken off.</summary>
    public static object Tick(int basedOn, string step) => Entry(basedOn, "step-done@1", new { phase = "apart", step, cell = (int?)null, fasteners = Array.Empty<object>() });

    /// <summary>Opens a job and takes the way in; tells its id and where its pages are.</summary>
    public static async Task<(string Job, string Address, int Head)> PreparedAsync(HttpClient client, JsonElement route)
    {
        var form = await client.GetStringAsync("/jobs/new");
        string Field(string name) => Regex.Match(form, $"name=\"{name}\"[^>]*value=\"([^\"]*)\"").Groups[1].Value;
        using var opened = await client.PostAsync("/jobs/new", new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["form-token"] = Field("form-token"), ["entry"] = Field("entry"), ["vehicle"] = "7e1c0000-0000-4000-8000-000000000001", ["family"] = "starting", ["words"] = "It only clicks (load)",
        }));
        opened.EnsureSuccessStatusCode();
        // The job's id follows from the form's (Pages/Jobs/New).
        var job = new Guid(SHA256.HashData(Guid.Parse(Field("entry")).ToByteArray()).AsSpan(0, 16)).ToString();
        var address = Regex.Match(opened.RequestMessage!.RequestUri!.AbsolutePath, "^/jobs/[0-9]+").Value;
        var head = 1;
        foreach (var (kind, payload) in new (string, object)[]
        {
            ("complaint-noted@1", new { words = "It only clicks", behaviours = new[] { "one-clunk" }, when = "always", tried = 5, failed = 5, lately = (string?)null }),
            ("decision-made@1", new { act = "guess", repair = "starter replaced", why = "load", repair_id = "starter" }),
            ("route-taken@1", route),
        })
        {
            using var answer = await client.PostAsJsonAsync($"/api/v1/jobs/{job}/entries", Entry(head, kind, payload));
            if (!answer.IsSuccessStatusCode)
            {
                throw new InvalidOperationException(await answer.Content.ReadAsStringAsync());
            }

            head++;
        }

        return (job, address, head);
    }

    private static object Entry(int basedOn, string kind, object payload) => new { id = Guid.NewGuid(), based_on = basedOn, occurred_at = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ss.fffffff", CultureInfo.InvariantCulture) + "Z", kind, payload };
}
