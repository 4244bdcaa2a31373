using System.Text;
using System.Text.Encodings.Web;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>
/// Answers while the database is away: a page that says so and tries again by itself. What was being sent was not kept, and
/// the page says that too and holds it, so that one press sends it again.
/// </summary>
public sealed class DatabaseAway(RequestDelegate next, ILogger<DatabaseAway> log)
{
    private const int SecondsToNextTry = 3;

    /// <summary>Catches what a database that is away throws.</summary>
    public async Task InvokeAsync(HttpContext context, Database database)
    {
        try
        {
            await next(context);
        }
        catch (Exception e) when (Database.IsAway(e) && !context.Response.HasStarted)
        {
            database.ForgetConnections();
            log.LogWarning("The database is away: {Reason}", e.Message);
            context.Response.Clear();
            context.Response.StatusCode = StatusCodes.Status503ServiceUnavailable;
            context.Response.Headers.ContentSecurityPolicy = SafetyHeaders.Policy;
            context.Response.Headers.XContentTypeOptions = "nosniff";
            context.Response.Headers.CacheControl = "no-store";
            context.Response.Headers.RetryAfter = SecondsToNextTry.ToString(System.Globalization.CultureInfo.InvariantCulture);
            if (context.Request.Path.StartsWithSegments("/api"))
            {
                await context.Response.WriteAsJsonAsync(new { error = "The database is away. Nothing was kept; send it again." });
                return;
            }

            context.Response.ContentType = "text/html; charset=utf-8";
            await context.Response.WriteAsync(HttpMethods.IsPost(context.Request.Method) ? await NotKeptAsync(context) : Waiting());
        }
    }

    private static string Waiting() => Page(
        "The database is away",
        $"<p>What was kept is safe. This page tries again by itself every {SecondsToNextTry} seconds.</p><p><a class=\"button main\" href=\"\">Try now</a></p>",
        $"<meta http-equiv=\"refresh\" content=\"{SecondsToNextTry}\">");

    private static async Task<string> NotKeptAsync(HttpContext context)
    {
        var fields = new StringBuilder();
        if (context.Request.HasFormContentType)
        {
            foreach (var (name, values) in await context.Request.ReadFormAsync())
            {
                foreach (var value in values)
                {
                    fields.Append("<input type=\"hidden\" name=\"").Append(HtmlEncoder.Default.Encode(name)).Append("\" value=\"").Append(HtmlEncoder.Default.Encode(value ?? "")).Append("\">");
                }
            }
        }

        return Page(
            "Not kept: the database is away",
            $"<p>What you sent was not kept. It is held in this page. Wait a moment, then send it again; it is stored once, however often you send it.</p><form method=\"post\" action=\"{HtmlEncoder.Default.Encode(context.Request.PathBase + context.Request.Path + context.Request.QueryString)}\">{fields}<button class=\"button main\">Send it again</button></form>",
            "");
    }

    private static string Page(string title, string body, string head) =>
        $"""
        <!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
        <title>{title} - Screeline</title>{head}<link rel="stylesheet" href="/css/tokens.css"><link rel="stylesheet" href="/css/site.css"></head>
        <body><main class="plain" id="away"><h1>{title}</h1>{body}</main></body></html>
        """;
}
