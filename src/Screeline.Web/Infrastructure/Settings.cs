using Npgsql;

namespace Screeline.Web.Infrastructure;

/// <summary>What the environment says.</summary>
/// <param name="Connection">Connection string of the application's login (SCREELINE_DB).</param>
/// <param name="Owner">Connection string of the role that owns the tables (SCREELINE_DB_OWNER, else SCREELINE_DB).</param>
/// <param name="AsRole">The role to work as, when the login could do more than the application needs.</param>
/// <param name="Port">Port to serve on (SCREELINE_PORT, default 5080).</param>
/// <param name="Demo">Whether made-up data are served (SCREELINE_DEMO=yes): then the page of all parts is shown too.</param>
/// <param name="ApiToken">A token that programs may come in with (SCREELINE_API_TOKEN), or null.</param>
/// <param name="BehindProxy">Whether a proxy in front tells where requests come from and speaks TLS (SCREELINE_PROXY=yes).</param>
/// <param name="Rate">How many requests a second a person may send in the long run (SCREELINE_RATE, default 200); five times as many at once.</param>
/// <param name="JsonLog">Whether each line of the log is a JSON object (SCREELINE_LOG=json).</param>
/// <param name="WarmUp">Whether the open jobs are judged before "ready" is said (SCREELINE_WARM_UP=no: not).</param>
/// <param name="Fault">What is wrong with the settings, or null.</param>
public sealed record Settings(string Connection, string Owner, string? AsRole, int Port, bool Demo, string? ApiToken, bool BehindProxy, int Rate, bool JsonLog, bool WarmUp, string? Fault)
{
    /// <summary>The port served on when nothing else is said.</summary>
    public const int DefaultPort = 5080;

    private const int ShortestToken = 32, DefaultRate = 200;

    /// <summary>Reads the environment.</summary>
    public static Settings FromEnvironment()
    {
        var connection = Environment.GetEnvironmentVariable("SCREELINE_DB") ?? "";
        var owner = Environment.GetEnvironmentVariable("SCREELINE_DB_OWNER");
        var portText = Environment.GetEnvironmentVariable("SCREELINE_PORT");
        var token = Environment.GetEnvironmentVariable("SCREELINE_API_TOKEN") is { Length: > 0 } given ? given : null;
        var rateText = Environment.GetEnvironmentVariable("SCREELINE_RATE");
        var rate = DefaultRate;
        var port = DefaultPort;
        var fault = string.IsNullOrWhiteSpace(connection) ? "SCREELINE_DB is not set. Start with ./run, or set it to a PostgreSQL connection string."
            : !Readable(connection) || (owner is not null && !Readable(owner)) ? "SCREELINE_DB is not a connection string. Example: Host=127.0.0.1;Port=5432;Database=screeline;Username=screeline;Password=…"
            : !string.IsNullOrEmpty(portText) && (!int.TryParse(portText, out port) || port is < 1 or > 65535) ? $"SCREELINE_PORT is “{portText}”; a port from 1 to 65535 is wanted."
            : !string.IsNullOrEmpty(rateText) && (!int.TryParse(rateText, out rate) || rate is < 1 or > 100_000) ? $"SCREELINE_RATE is “{rateText}”; requests a second for each person, 1 to 100000, are wanted."
            : token is { Length: < ShortestToken } ? $"SCREELINE_API_TOKEN is too short: at least {ShortestToken} random characters, for example from openssl rand -hex 24."
            : null;

        // One login for everything: it steps down to the role that may only append.
        return new Settings(connection, owner ?? connection, owner is null ? "screeline_app" : null, port, Environment.GetEnvironmentVariable("SCREELINE_DEMO") == "yes", token, Environment.GetEnvironmentVariable("SCREELINE_PROXY") == "yes", rate, Environment.GetEnvironmentVariable("SCREELINE_LOG") == "json", Environment.GetEnvironmentVariable("SCREELINE_WARM_UP") != "no", fault);
    }

    private static bool Readable(string connection)
    {
        try
        {
            return new NpgsqlConnectionStringBuilder(connection).Host is { Length: > 0 };
        }
        catch (ArgumentException)
        {
            return false;
        }
    }
}
