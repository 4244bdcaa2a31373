using System.Diagnostics.Metrics;
using OpenTelemetry.Metrics;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// What is counted while it runs, told over OpenTelemetry when OTEL_EXPORTER_OTLP_ENDPOINT says where to: besides the framework's own
/// (requests and their time, connections) and the database driver's.
/// </summary>
public sealed class Metrics : IDisposable
{
    /// <summary>The meter's name.</summary>
    public const string Name = "Screeline";

    private readonly Meter _meter = new(Name);
    private readonly Counter<long> _entries, _signIns;

    /// <summary>Begins to count.</summary>
    public Metrics(JobFeed feed)
    {
        _entries = _meter.CreateCounter<long>("screeline.entries", "{entry}", "Entries sent, by what came of them");
        _signIns = _meter.CreateCounter<long>("screeline.sign_ins", "{try}", "Tries to come in, by what came of them");
        _meter.CreateObservableGauge("screeline.listeners", () => feed.Listeners, "{page}", "Pages that look at a job now");
    }

    /// <summary>An entry was sent: "Kept", "Repeated", "Clashed", "OutOfOrder", "Malformed", "NotAllowed" or "IdTaken".</summary>
    public void Entry(string outcome) => _entries.Add(1, new KeyValuePair<string, object?>("outcome", outcome));

    /// <summary>Somebody tried to come in.</summary>
    public void SignIn(bool right) => _signIns.Add(1, new KeyValuePair<string, object?>("outcome", right ? "in" : "refused"));

    /// <inheritdoc/>
    public void Dispose() => _meter.Dispose();

    /// <summary>Tells the meters where the environment says.</summary>
    public static void Add(IServiceCollection services)
    {
        services.AddSingleton<Metrics>();
        if (Environment.GetEnvironmentVariable("OTEL_EXPORTER_OTLP_ENDPOINT") is { Length: > 0 })
        {
            services.AddOpenTelemetry().WithMetrics(metrics => metrics.AddMeter(Name, "Microsoft.AspNetCore.Hosting", "Microsoft.AspNetCore.Server.Kestrel", "Npgsql").AddOtlpExporter());
        }
    }
}
