using Screeline.Data;
using SkiaSharp;

namespace Screeline.Web.Infrastructure;

/// <summary>A picture as it is kept.</summary>
/// <param name="Jpeg">Its bytes.</param>
/// <param name="Width">Pixels.</param>
/// <param name="Height">Pixels.</param>
public sealed record Photograph(byte[] Jpeg, int Width, int Height);

/// <summary>
/// Reads pictures that people send: the type is told by the content, not by the name; they are turned upright, made smaller and written anew, so that
/// nothing but the picture itself is kept.
/// </summary>
public static class Photographs
{
    /// <summary>Largest file taken, bytes.</summary>
    public const int LargestUpload = 12_000_000;

    /// <summary>Longest side that is kept, pixels.</summary>
    public const int LongestSide = 1600;

    private const long MostPixels = 60_000_000;

    /// <summary>Whether bytes are a whole picture of a size that is taken.</summary>
    public static bool CanBeRead(byte[] bytes)
    {
        using var data = SKData.CreateCopy(bytes);
        using var codec = SKCodec.Create(data);
        if (codec is null || (long)codec.Info.Width * codec.Info.Height > MostPixels)
        {
            return false;
        }

        using var bitmap = new SKBitmap(new SKImageInfo(codec.Info.Width, codec.Info.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        return codec.GetPixels(bitmap.Info, bitmap.GetPixels()) == SKCodecResult.Success;
    }

    /// <summary>Reads a picture that a form sent and keeps it; null with the reason when it is none or too large.</summary>
    public static async Task<((string Sha256, Photograph Picture)? Kept, string? Reason)> KeepAsync(IFormFile sent, DocumentStore documents, CancellationToken cancel)
    {
        if (sent.Length > LargestUpload)
        {
            return (null, $"The picture has {sent.Length / 1_000_000.0:0.0} MB; at most {LargestUpload / 1_000_000} are taken.");
        }

        await using var stream = sent.OpenReadStream();
        var (photograph, reason) = await ReadAsync(stream, cancel);
        return photograph is null ? (null, reason) : ((await documents.KeepAsync(photograph.Jpeg, "image/jpeg", cancel), photograph), null);
    }

    /// <summary>Reads a picture; null with the reason when it is none.</summary>
    public static async Task<(Photograph? Picture, string? Reason)> ReadAsync(Stream stream, CancellationToken cancel)
    {
        using var memory = new MemoryStream();
        await stream.CopyToAsync(memory, cancel);
        using var data = SKData.CreateCopy(memory.GetBuffer().AsSpan(0, (int)memory.Length));
        using var codec = SKCodec.Create(data);
        if (codec is null || codec.EncodedFormat is not (SKEncodedImageFormat.Jpeg or SKEncodedImageFormat.Png or SKEncodedImageFormat.Webp))
        {
            return (null, "This is no picture that can be read: JPEG, PNG and WebP are taken.");
        }

        var info = codec.Info;
        if ((long)info.Width * info.Height > MostPixels)
        {
            return (null, $"The picture has {info.Width} by {info.Height} points; at most {MostPixels / 1_000_000} million are taken.");
        }

        using var bitmap = new SKBitmap(new SKImageInfo(info.Width, info.Height, SKColorType.Rgba8888, SKAlphaType.Premul));
        if (codec.GetPixels(bitmap.Info, bitmap.GetPixels()) != SKCodecResult.Success)
        {
            return (null, "The picture is cut short: it did not arrive whole. Take or send it again.");
        }

        using var small = Smaller(bitmap, codec.EncodedOrigin);
        using var jpeg = small.Encode(SKEncodedImageFormat.Jpeg, 82);
        return (new Photograph(jpeg.ToArray(), small.Width, small.Height), null);
    }

    // Upright and at most the longest side, on white where it was transparent.
    private static SKImage Smaller(SKBitmap bitmap, SKEncodedOrigin origin)
    {
        var lies = origin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var (width, height) = lies ? (bitmap.Height, bitmap.Width) : (bitmap.Width, bitmap.Height);
        var scale = Math.Min(1f, LongestSide / (float)Math.Max(width, height));
        var target = new SKImageInfo(Math.Max(1, (int)(width * scale)), Math.Max(1, (int)(height * scale)), SKColorType.Rgba8888, SKAlphaType.Opaque);
        using var surface = SKSurface.Create(target);
        var canvas = surface.Canvas;
        canvas.Clear(SKColors.White);
        canvas.Scale(scale);
        var turn = origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, width, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, width, 0, -1, height, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, height, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, width, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, width, -1, 0, height, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, height, 0, 0, 1),
            _ => SKMatrix.Identity,
        };
        canvas.Concat(in turn);
        using var image = SKImage.FromBitmap(bitmap);
        canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        return surface.Snapshot();
    }
}
