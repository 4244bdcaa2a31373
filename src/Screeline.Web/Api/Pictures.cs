using Screeline.Data;

namespace Screeline.Web.Api;

/// <summary>Pictures by the hash of their bytes.</summary>
public static class Pictures
{
    /// <summary>Maps /pictures/{sha256}.jpg; only what was kept as a picture is given out.</summary>
    public static void MapPictures(this IEndpointRouteBuilder app) => app.MapGet("/pictures/{sha256:length(64)}.jpg", async (string sha256, HttpContext context, DocumentStore documents) =>
    {
        if (await documents.FindAsync(sha256, context.RequestAborted) is not { MediaType: "image/jpeg" } found)
        {
            return Results.NotFound();
        }

        // The name is the content: it never changes.
        context.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return Results.Bytes(found.Content, "image/jpeg");
    }).ExcludeFromDescription();
}
