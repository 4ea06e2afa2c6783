using System.Text;
using SkiaSharp;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Front;

public sealed class PlugPictureTests
{
    internal static byte[] Photo(SKEncodedImageFormat format, int width = 40, int height = 20)
    {
        using var bitmap = new SKBitmap(width, height);
        bitmap.Erase(SKColors.SandyBrown);
        using var data = bitmap.Encode(format, 90);
        return data.ToArray();
    }

    // A JPEG with a segment of the kind in which cameras write where they were.
    internal static byte[] WithPlace(byte[] jpeg, byte orientation = 1)
    {
        byte[] tiff = [0x4D, 0x4D, 0, 0x2A, 0, 0, 0, 8, 0, 1, 0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, orientation, 0, 0, 0, 0, 0, 0];
        byte[] body = [.. "Exif\0\0"u8, .. tiff, .. "GPS 62.01N 6.77W <script>alert(1)</script>"u8];
        return [0xFF, 0xD8, 0xFF, 0xE1, (byte)((body.Length + 2) >> 8), (byte)(body.Length + 2), .. body, .. jpeg[2..]];
    }

    [Theory]
    [InlineData(SKEncodedImageFormat.Jpeg)]
    [InlineData(SKEncodedImageFormat.Png)]
    [InlineData(SKEncodedImageFormat.Webp)]
    public void The_three_kinds_are_taken_and_kept_as_jpeg(SKEncodedImageFormat format)
    {
        var (picture, problem) = PlugPicture.Read(Photo(format));
        problem.ShouldBeNull();
        (picture!.Width, picture.Height).ShouldBe((40, 20));
        picture.Picture.AsSpan(0, 3).ToArray().ShouldBe([0xFF, 0xD8, 0xFF]);
    }

    [Fact]
    public void Where_it_was_taken_stays_behind_and_it_stands_as_it_was_seen()
    {
        var (picture, _) = PlugPicture.Read(WithPlace(Photo(SKEncodedImageFormat.Jpeg), orientation: 6));
        Encoding.Latin1.GetString(picture!.Picture).ShouldNotContain("GPS");
        Encoding.Latin1.GetString(picture.Thumbnail).ShouldNotContain("script");
        (picture.Width, picture.Height).ShouldBe((20, 40), "the phone was held upright");
    }

    [Fact]
    public void A_large_picture_is_made_smaller_and_anything_else_is_refused()
    {
        PlugPicture.Read(Photo(SKEncodedImageFormat.Png, 3200, 1600)).Picture!.Width.ShouldBe(1600);
        foreach (var file in new[] { Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>"), Encoding.UTF8.GetBytes("GIF89a<script>"), [], [0xFF, 0xD8, 0xFF, 0xE0, 1, 2, 3], Photo(SKEncodedImageFormat.Png)[..30] })
        {
            PlugPicture.Read(file).Problem.ShouldBe("That is no JPEG, PNG or WebP picture.");
        }
    }
}
