using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Zandrik.Web.Tests;

/// <summary>A client that is signed in with one of the demo's made-up accounts, as a browser without scripts would be.</summary>
public static class SignedIn
{
    public const string DemoPassword = "cold-plugs-4";

    // Thirty seconds, less what the machine took to come back.
    public const string Waits = @"Too many tries\. Wait (30|[12]\d) seconds";

    public static async Task<HttpClient> ClientAsync(string address, string login = "ostrel", string password = DemoPassword, bool raw = false)
    {
        var client = new HttpClient(new HttpClientHandler { AutomaticDecompression = raw ? DecompressionMethods.None : DecompressionMethods.All }) { BaseAddress = new Uri(address) };
        (await TryAsync(client, login, password)).RequestMessage!.RequestUri!.AbsolutePath.ShouldNotBe("/sign-in");
        return client;
    }

    /// <summary>Sends the sign-in form; a client that gets in keeps its cookie.</summary>
    public static async Task<HttpResponseMessage> TryAsync(HttpClient client, string login, string password, string back = "")
    {
        var cancel = TestContext.Current.CancellationToken;
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/sign-in", UriKind.Relative), cancel));
        var token = ((IHtmlInputElement)page.QuerySelector("form.stack input[name=__RequestVerificationToken]")!).Value;
        using var form = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["login"] = login, ["password"] = password, ["back"] = back, ["__RequestVerificationToken"] = token,
        });
        return await client.PostAsync(new Uri("/sign-in", UriKind.Relative), form, cancel);
    }

    /// <summary>Posts a form as a page would, with a form token of this session.</summary>
    public static async Task<HttpResponseMessage> PostFormAsync(this HttpClient client, string address, params (string Name, string Value)[] fields)
    {
        var cancel = TestContext.Current.CancellationToken;
        var page = new HtmlParser().ParseDocument(await client.GetStringAsync(new Uri("/account", UriKind.Relative), cancel));
        var token = page.QuerySelector("meta[name=zandrik-form]")!.GetAttribute("content")!;
        using var form = new FormUrlEncodedContent(fields.Append(("__RequestVerificationToken", token)).Select(f => KeyValuePair.Create(f.Item1, f.Item2)));
        return await client.PostAsync(new Uri(address, UriKind.Relative), form, cancel);
    }
}
