namespace Screeline.Web.Infrastructure;

/// <summary>Headers that keep a page to itself: nothing inline, nothing from elsewhere, nobody's frame.</summary>
public sealed class SafetyHeaders(RequestDelegate next)
{
    /// <summary>The policy of every answer.</summary>
    public const string Policy =
        "default-src 'none'; script-src 'self'; worker-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    /// <summary>Adds the headers.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(), microphone=(), geolocation=()";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        if (!Path.HasExtension(context.Request.Path.Value))
        {
            headers.CacheControl = "no-store";
        }

        return next(context);
    }
}
