using Microsoft.AspNetCore.Http.Features;

namespace Screeline.Web.Infrastructure;

/// <summary>Turns away what cannot be read: broken forms, and zero characters that no text and no database can hold.</summary>
public sealed class ReadableRequests(RequestDelegate next)
{
    private const long LargestUpload = 4L * Photographs.LargestUpload;

    /// <summary>Looks at address and form.</summary>
    public async Task InvokeAsync(HttpContext context)
    {
        var request = context.Request;
        if (HasZero(request.Path.Value) || request.Query.Any(q => HasZero(q.Key) || q.Value.Any(HasZero)) || !await FormReadsAsync(request))
        {
            context.Response.StatusCode = StatusCodes.Status400BadRequest;
            return;
        }

        await next(context);
    }

    private static async Task<bool> FormReadsAsync(HttpRequest request)
    {
        // Calls are no forms; and the page that tells of an error comes again under what was sent.
        if (!HttpMethods.IsPost(request.Method) || request.Path.StartsWithSegments("/api") || request.Path.StartsWithSegments("/error"))
        {
            return true;
        }

        if (!request.HasFormContentType)
        {
            return false;
        }

        // Only a form that brings a picture may be larger than any other; what is larger than pictures are taken is still read so that its field can say so.
        if (request.Query["handler"] == "Picture" && request.HttpContext.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
        {
            limit.MaxRequestBodySize = LargestUpload;
        }

        if (request.Path == "/jobs/import" && request.HttpContext.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } whole)
        {
            whole.MaxRequestBodySize = Core.Jobs.JobFile.MostBytes + 64 * 1024;
        }

        try
        {
            var form = await request.ReadFormAsync();
            return !form.Any(f => HasZero(f.Key) || f.Value.Any(HasZero));
        }
        catch (Exception e) when (e is InvalidDataException or IOException and not BadHttpRequestException)
        {
            return false;
        }
    }

    private static bool HasZero(string? text) => text?.Contains('\0') == true;
}
