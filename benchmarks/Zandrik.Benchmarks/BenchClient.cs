using System.Globalization;
using System.Text.RegularExpressions;
using OpenQA.Selenium.Chrome;

namespace Zandrik.Benchmarks;

/// <summary>What a browser does in a measurement: signs in, takes the token of its forms from a page, posts a reading.</summary>
internal static partial class BenchClient
{
    /// <summary>Signs in as one of the demo's made-up people.</summary>
    internal static async Task SignInAsync(HttpClient client, string login = "ostrel")
    {
        using var form = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["login"] = login, ["password"] = "cold-plugs-4", ["__RequestVerificationToken"] = await TokenAsync(client, "/sign-in"),
        });
        (await client.PostAsync(new Uri("/sign-in", UriKind.Relative), form)).EnsureSuccessStatusCode();
    }

    /// <summary>Starts a headless Chromium.</summary>
    internal static ChromeDriver Browser(params string[] arguments)
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(["--headless=new", "--disable-gpu", "--no-first-run", .. arguments]);
        if (Environment.UserName == "root")
        {
            options.AddArgument("--no-sandbox");
        }
        return new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver"), options);
    }

    /// <summary>The token of the forms of a page.</summary>
    internal static async Task<string> TokenAsync(HttpClient client, string page) =>
        Token().Match(await client.GetStringAsync(new Uri(page, UriKind.Relative))).Groups[1].Value;

    /// <summary>Posts a reading as htmx does.</summary>
    /// <returns>The size of the answer, in bytes before compression.</returns>
    internal static async Task<long> PostReadingAsync(HttpClient client, int job, string token, int cylinder, int psi)
    {
        using var content = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["cylinder"] = cylinder.ToString(CultureInfo.InvariantCulture), ["value"] = psi.ToString(CultureInfo.InvariantCulture),
            ["kind"] = "Reading", ["unit"] = "psi", ["entry"] = Guid.NewGuid().ToString("N"), ["__RequestVerificationToken"] = token,
        });
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/jobs/{job}/dry?handler=Enter") { Content = content, Headers = { { "HX-Request", "true" } } };
        using var answer = await client.SendAsync(request);
        if (!answer.IsSuccessStatusCode)
        {
            throw new HttpRequestException($"{(int)answer.StatusCode}: {Problem().Match(await answer.Content.ReadAsStringAsync()).Groups[1].Value.Trim()}");
        }
        return (await answer.Content.ReadAsByteArrayAsync()).LongLength;
    }

    [GeneratedRegex("(?:field-problem|soft)[^>]*>([^<]+)<")]
    private static partial Regex Problem();

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Token();
}
