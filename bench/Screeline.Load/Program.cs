// A small load run against a Screeline that already serves the demo: how long each page takes from request to last byte on
// loopback, and how long until an entry is stored. Bounded: it sends a fixed number of requests and ends.
//   dotnet run -c Release --project bench/Screeline.Load -- [address] [requests a page] [writers]
// Reading and ticking at a set rate over several processes, with the demo's accounts:
//   dotnet run -c Release --project bench/Screeline.Load -- mixed SECONDS RATE ADDRESS [ADDRESS …]
// The first form comes in with the token in SCREELINE_API_TOKEN; start the server with the same one, and with SCREELINE_RATE=5000.
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Screeline.Load;

if (args is ["mixed", var forSeconds, var atRate, .. var several])
{
    List<Uri> addresses = [.. several.Select(a => new Uri(a))];
    if (addresses.Count is < 1 or > 4 || addresses.Any(a => !a.IsLoopback) || !int.TryParse(forSeconds, out var s) || s is < 1 or > 300 || !int.TryParse(atRate, out var r) || r is < 1 or > 1000)
    {
        Console.Error.WriteLine("Only loopback, at most 300 seconds and 1000 requests a second.");
        return 2;
    }

    return await Mixed.RunAsync(addresses, s, r);
}

var bearer = Environment.GetEnvironmentVariable("SCREELINE_API_TOKEN");
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
    return new HttpClient(new SocketsHttpHandler { AutomaticDecompression = DecompressionMethods.None }) { BaseAddress = address, DefaultRequestHeaders = { { "Accept-Encoding", compressed ? "br" : "identity" }, { "Authorization", $"Bearer {bearer}" } } };
}

using var client = Client();
Console.WriteLine("| page | median ms | p95 ms | bytes over the wire |");
Console.WriteLine("| --- | ---: | ---: | ---: |");
foreach (var page in new[] { "/", "/?show=closed", "/jobs/8/complaint", "/jobs/7/find", "/jobs/4/way-in", "/jobs/5/take-apart", "/jobs/5/take-apart?step=undertray", "/jobs/5/prepare", "/jobs/9/refit", "/jobs/9/refit?step=undertray", "/jobs/9/old-and-new", "/bench/torque?value=8%20N%C2%B7m&thread=M8", "/jobs/6/refit", "/jobs/6/prove", "/jobs/6/hand-back", "/jobs/1/sheet", "/jobs/1/history", "/library", "/more" })
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

if (writers > 0)
{
    // Technicians ticking: each on a job of its own, opened and planned here, as fast as the answers come and then once a second.
    using var opener = Client(compressed: false);
    var route = await Work.RouteAsync(opener);
    var steps = Work.StepsOf(route);
    foreach (var (pause, name) in new[] { (0, "without a pause"), (1000, "once a second") })
    {
        var times = new List<double>();
        var ready = new List<(HttpClient Own, string Job, int Head)>();
        for (var w = 0; w < writers; w++)
        {
            var own = Client(compressed: false);
            var (job, _, head) = await Work.PreparedAsync(own, route);
            ready.Add((own, job, head));
        }

        await Task.WhenAll(ready.Select(async (r, w) =>
        {
            var head = r.Head;
            foreach (var step in steps)
            {
                await Task.Delay(pause == 0 ? 0 : pause / 2 + (w * 97 + head * 31) % pause);
                var clock = Stopwatch.StartNew();
                using var answer = await r.Own.PostAsJsonAsync($"/api/v1/jobs/{r.Job}/entries", Work.Tick(head, step));
                var time = clock.Elapsed.TotalMilliseconds;
                answer.EnsureSuccessStatusCode();
                using var told = JsonDocument.Parse(await answer.Content.ReadAsStringAsync());
                head = told.RootElement.GetProperty("position").GetInt32();
                lock (times)
                {
                    times.Add(time);
                }
            }

            r.Own.Dispose();
        }));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{writers} technicians ticking {name}, {times.Count} ticks: median {At(times, 0.5):0.0} ms, p95 {At(times, 0.95):0.0} ms."));
    }
}

return 0;

static double At(List<double> times, double share)
{
    var sorted = times.Order().ToList();
    return sorted[Math.Min(sorted.Count - 1, (int)(share * sorted.Count))];
}
