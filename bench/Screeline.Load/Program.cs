// A small load run against a Screeline that already serves the demo: how long each page takes from request to last byte on
// loopback, and how long until an entry is stored. Bounded: it sends a fixed number of requests and ends.
//   dotnet run -c Release --project bench/Screeline.Load -- [address] [requests a page] [writers]
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;

var address = new Uri(args.ElementAtOrDefault(0) ?? "http://127.0.0.1:5080");
var requests = int.Parse(args.ElementAtOrDefault(1) ?? "200", CultureInfo.InvariantCulture);
var writers = int.Parse(args.ElementAtOrDefault(2) ?? "20", CultureInfo.InvariantCulture);
if (!address.IsLoopback || requests is < 1 or > 5000 || writers is < 0 or > 50)
{
    Console.Error.WriteLine("Only loopback, at most 5000 requests a page and 50 writers.");
    return 2;
}

HttpClient Client(bool compressed = true)
{
    var cookies = new CookieContainer();
    cookies.Add(address, new Cookie("screeline-person", "5c0a0000-0000-4000-8000-000000000001"));
    return new HttpClient(new SocketsHttpHandler { CookieContainer = cookies, AutomaticDecompression = DecompressionMethods.None, UseCookies = true }) { BaseAddress = address, DefaultRequestHeaders = { { "Accept-Encoding", compressed ? "br" : "identity" } } };
}

using var client = Client();
Console.WriteLine("| page | median ms | p95 ms | bytes over the wire |");
Console.WriteLine("| --- | ---: | ---: | ---: |");
foreach (var page in new[] { "/", "/?show=closed", "/jobs/8/complaint", "/jobs/7/find", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/6/refit", "/jobs/6/prove", "/jobs/6/hand-back", "/jobs/1/sheet", "/jobs/1/history", "/library", "/more" })
{
    var (times, bytes) = (new List<double>(), 0);
    for (var i = -20; i < requests; i++)
    {
        var clock = Stopwatch.StartNew();
        using var answer = await client.GetAsync(page);
        bytes = (await answer.Content.ReadAsByteArrayAsync()).Length;
        answer.EnsureSuccessStatusCode();
        if (i >= 0)
        {
            times.Add(clock.Elapsed.TotalMilliseconds);
        }
    }

    Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {page} | {At(times, 0.5):0.0} | {At(times, 0.95):0.0} | {bytes} |"));
}

if (writers > 0)
{
    // Each writer works on a job of its own among the demo's open ones, as technicians do; four or five share one.
    string[] jobs = ["10b00000-0000-4000-8000-000000000004", "10b00000-0000-4000-8000-000000000005", "10b00000-0000-4000-8000-000000000006", "10b00000-0000-4000-8000-000000000007", "10b00000-0000-4000-8000-000000000008"];
    var all = new List<double>();
    var clashes = 0;
    await Task.WhenAll(Enumerable.Range(0, writers).Select(async w =>
    {
        using var own = Client(compressed: false);
        var head = 0;
        for (var i = 0; i < 20; i++)
        {
            while (true)
            {
                var entry = new { id = Guid.NewGuid(), based_on = head, occurred_at = DateTimeOffset.UtcNow.ToString("yyyy-MM-ddTHH:mm:ssK", CultureInfo.InvariantCulture).Replace("+00:00", "Z", StringComparison.Ordinal), kind = "proof-taken@1", payload = new { check = "charging-idle", value = new { value = 14.1, unit = "V" }, choice = (string?)null } };
                var clock = Stopwatch.StartNew();
                using var answer = await own.PostAsJsonAsync($"/api/v1/jobs/{jobs[w % jobs.Length]}/entries", entry);
                var time = clock.Elapsed.TotalMilliseconds;
                using var told = JsonDocument.Parse(await answer.Content.ReadAsStringAsync());
                if (answer.StatusCode == HttpStatusCode.Conflict)
                {
                    Interlocked.Increment(ref clashes);
                    head = told.RootElement.GetProperty("head").GetInt32();
                    continue;
                }

                answer.EnsureSuccessStatusCode();
                head = told.RootElement.GetProperty("position").GetInt32();
                lock (all)
                {
                    all.Add(time);
                }

                break;
            }
        }
    }));
    Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"\n{writers} writers on five jobs, {all.Count} entries stored: median {At(all, 0.5):0.0} ms, p95 {At(all, 0.95):0.0} ms; {clashes} times somebody else came first."));
}

return 0;

static double At(List<double> times, double share)
{
    var sorted = times.Order().ToList();
    return sorted[Math.Min(sorted.Count - 1, (int)(share * sorted.Count))];
}
