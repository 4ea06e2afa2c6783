using SkiaSharp;

namespace Zandrik.Web.Front;

/// <summary>
/// A photo as it is kept: drawn anew from the pixels that were sent, so that where it was taken, and anything
/// else that rode along in the file, stays behind.
/// </summary>
/// <param name="Picture">The picture, JPEG.</param>
/// <param name="Thumbnail">A small one, JPEG.</param>
/// <param name="Width">Width, pixels.</param>
/// <param name="Height">Height, pixels.</param>
public sealed record PlugPicture(byte[] Picture, byte[] Thumbnail, int Width, int Height)
{
    /// <summary>Largest file taken, bytes.</summary>
    public const int LargestFile = 12 * 1024 * 1024;

    // A small file can unpack to a picture that fills the memory. What can be made smaller while it is unpacked may be
    // large; what has to be unpacked whole may not.
    private const long MostPixels = 60_000_000, MostPixelsWhole = 16_000_000;
    private const int LongestSide = 1600, ThumbnailSide = 220;

    /// <summary>Reads a file by its content, whatever it is called.</summary>
    /// <returns>The picture, or what is wrong with the file: exactly one of the two.</returns>
    public static (PlugPicture? Picture, string? Problem) Read(byte[] file)
    {
        const string none = "That is no JPEG, PNG or WebP picture.";
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is null || codec.EncodedFormat is not (SKEncodedImageFormat.Jpeg or SKEncodedImageFormat.Png or SKEncodedImageFormat.Webp))
        {
            return (null, none);
        }
        if ((long)codec.Info.Width * codec.Info.Height > MostPixels)
        {
            return (null, "The picture has over 60 megapixels: take a smaller one.");
        }
        var read = Decode(codec, out var tooLarge);
        if (read is null)
        {
            return (null, tooLarge ? $"A picture of this kind may have {MostPixelsWhole / 1_000_000} megapixels: take a smaller one, or save it as JPEG." : none);
        }
        // Made small before it is turned: two of full size would be in memory else.
        using var fit = Within(read, LongestSide);
        read.Dispose();
        using var picture = Upright(fit, codec.EncodedOrigin);
        using var small = Within(picture, ThumbnailSide);
        return (new PlugPicture(Jpeg(picture, 82), Jpeg(small, 78), picture.Width, picture.Height), null);
    }

    /// <summary>How many points a picture has, by its header; 0 for what is no picture.</summary>
    /// <param name="file">The file.</param>
    public static long Points(byte[] file)
    {
        using var codec = SKCodec.Create(new MemoryStream(file));
        return codec is null ? 0 : (long)codec.Info.Width * codec.Info.Height;
    }

    // Unpacked no larger than it is kept, as far as its format allows that.
    private static SKBitmap? Decode(SKCodec codec, out bool tooLarge)
    {
        var (width, height) = (codec.Info.Width, codec.Info.Height);
        var scale = Math.Min(1.0, (double)LongestSide / Math.Max(width, height));
        tooLarge = false;
        if (codec.EncodedFormat == SKEncodedImageFormat.Jpeg)
        {
            // A JPEG unpacks to eighths of its size: the next one that is large enough.
            var size = codec.GetScaledDimensions((float)(Math.Ceiling(scale * 8) / 8));
            return SKBitmap.Decode(codec, Info(size.Width, size.Height));
        }
        // The other two unpack whole or not at all.
        tooLarge = (long)width * height > MostPixelsWhole;
        return tooLarge ? null : SKBitmap.Decode(codec, Info(width, height));
    }

    private static SKImageInfo Info(int width, int height) => new(width, height, SKColorType.Rgba8888, SKAlphaType.Premul);

    // A phone stores which way it was held; drawn anew, the picture has to stand as it was seen.
    private static SKBitmap Upright(SKBitmap read, SKEncodedOrigin origin)
    {
        var turned = origin is SKEncodedOrigin.RightTop or SKEncodedOrigin.LeftBottom or SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightBottom;
        var upright = new SKBitmap(turned ? read.Height : read.Width, turned ? read.Width : read.Height);
        using var canvas = new SKCanvas(upright);
        // Transparent places become white: a JPEG has none.
        canvas.Clear(SKColors.White);
        canvas.Translate(upright.Width / 2f, upright.Height / 2f);
        canvas.RotateDegrees(origin switch
        {
            SKEncodedOrigin.RightTop or SKEncodedOrigin.LeftTop => 90,
            SKEncodedOrigin.BottomRight or SKEncodedOrigin.BottomLeft => 180,
            SKEncodedOrigin.LeftBottom or SKEncodedOrigin.RightBottom => 270,
            _ => 0,
        });
        if (origin is SKEncodedOrigin.TopRight or SKEncodedOrigin.BottomLeft or SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightBottom)
        {
            canvas.Scale(-1, 1);
        }
        canvas.DrawBitmap(read, -read.Width / 2f, -read.Height / 2f);
        return upright;
    }

    private static SKBitmap Within(SKBitmap picture, int side)
    {
        var scale = Math.Min(1.0, (double)side / Math.Max(picture.Width, picture.Height));
        return picture.Resize(
            new SKImageInfo(Math.Max(1, (int)(picture.Width * scale)), Math.Max(1, (int)(picture.Height * scale))), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
    }

    private static byte[] Jpeg(SKBitmap picture, int quality)
    {
        using var data = picture.Encode(SKEncodedImageFormat.Jpeg, quality);
        return data.ToArray();
    }
}
