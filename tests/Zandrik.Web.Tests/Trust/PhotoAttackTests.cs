using System.Diagnostics;
using SkiaSharp;
using Zandrik.Web.Front;
using Zandrik.Web.Tests.Front;

namespace Zandrik.Web.Tests.Trust;

/// <summary>Small files that unpack to pictures of 60 million points, many at once.</summary>
public sealed class PhotoAttackTests(StartedApp app) : IClassFixture<StartedApp>
{
    /// <summary>The largest that is refused by its header, and the largest that is unpacked whole.</summary>
    [Theory]
    [InlineData(7745, false)]
    [InlineData(4000, true)]
    public async Task Eight_large_pictures_at_once_stay_within_300_megabytes(int side, bool taken)
    {
        var cancel = TestContext.Current.CancellationToken;
        using var api = app.Api();
        var job = await StartedApp.JobAsync(api, cylinders: 8);
        using var client = await SignedIn.ClientAsync(app.Address);
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/account", UriKind.Relative), cancel));
        var token = page.QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!;
        var png = PlugPictureTests.Photo(SKEncodedImageFormat.Png, side, side);
        png.Length.ShouldBeLessThan(2_000_000);
        async Task<string> SendAsync(int cylinder, byte[] picture)
        {
            using var form = new MultipartFormDataContent { { new StringContent(token), "__RequestVerificationToken" }, { new ByteArrayContent(picture), "photo", "plug.png" } };
            using var answer = await client.PostAsync(new Uri($"/jobs/{job}/plugs?handler=Photo&cylinder={cylinder}", UriKind.Relative), form, cancel);
            return answer.IsSuccessStatusCode ? "" : await answer.Content.ReadAsStringAsync(cancel);
        }
        // An honest picture first: what any photo loads into the server is not the attack's.
        (await SendAsync(1, PlugPictureTests.Photo(SKEncodedImageFormat.Png, 1600, 1200))).ShouldBe("");
        // The server is a process of its own: what this one unpacks does not count.
        using var server = Process.GetProcessById(app.WebPid);
        var before = server.WorkingSet64;
        var highest = before;
        using var done = new CancellationTokenSource();
        var watch = Task.Run(async () =>
        {
            using var tick = new PeriodicTimer(TimeSpan.FromMilliseconds(10));
            while (!done.IsCancellationRequested)
            {
                await tick.WaitForNextTickAsync(cancel);
                server.Refresh();
                highest = Math.Max(highest, server.WorkingSet64);
            }
        }, cancel);
        var answers = await Task.WhenAll(Enumerable.Range(1, 8).Select(cylinder => SendAsync(cylinder, png)));
        await done.CancelAsync();
        await watch;
        answers.ShouldAllBe(refused => taken ? refused.Length == 0 : refused.Contains("may have 16 megapixels: take a smaller one, or save it as JPEG"));
        ((highest - before) / 1_000_000).ShouldBeLessThan(300, "one at a time");
    }

    [Fact]
    public void More_points_than_a_camera_has_are_refused_by_the_header() =>
        PlugPicture.Read(PlugPictureTests.Photo(SKEncodedImageFormat.Png, 8000, 8000)).Problem.ShouldBe("The picture has over 60 megapixels: take a smaller one.");
}
