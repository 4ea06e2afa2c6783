using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Zandrik.Core.Simulation;

namespace Zandrik.Web.Tests.Trust;

/// <summary>
/// Thousands of records, captures and forms that nobody should send: each is answered, and never with an error of the
/// program. ZANDRIK_CAMPAIGN sets how many of each; the seed is their number, so one that fails can be made again.
/// </summary>
public abstract class MutationTests
{
    private protected static readonly int Each = int.TryParse(Environment.GetEnvironmentVariable("ZANDRIK_CAMPAIGN"), CultureInfo.InvariantCulture, out var n) ? n : 1000;

    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    private protected static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private protected static Uri At(string address) => new(address, UriKind.Relative);

    private protected List<string> Wrong { get; } = [];

    // An answer within its time that is no error of the program; what is not is written down with what was sent.
    private protected async Task<HttpResponseMessage?> AskAsync(HttpClient client, string what, Func<HttpRequestMessage> request)
    {
        var clock = Stopwatch.StartNew();
        try
        {
            var answer = await client.SendAsync(request(), Cancel);
            if ((int)answer.StatusCode >= 500 || Patience.IsOver(clock.Elapsed, Longest))
            {
                Wrong.Add($"{what}: {(int)answer.StatusCode} after {clock.ElapsedMilliseconds} ms");
            }
            return answer;
        }
        catch (HttpRequestException broken)
        {
            Wrong.Add($"{what}: {broken.Message}");
            return null;
        }
    }

    private protected static HttpRequestMessage Json(string address, byte[] body)
    {
        var content = new ByteArrayContent(body);
        content.Headers.ContentType = new("application/json");
        return new HttpRequestMessage(HttpMethod.Post, At(address)) { Content = content };
    }
}

/// <summary>Records that nobody should send; those that are taken are looked at on every page.</summary>
public sealed partial class MutatedRecordsTests(Site site) : MutationTests, IClassFixture<Site>
{
    // The letters stand for a figure at the start of a word only: random tokens of forms hold every three letters in time.
    [GeneratedRegex(@"(?<![\w-])NaN")]
    private static partial Regex NoFigure();

    [Fact]
    public async Task Mutated_records_are_answered_and_those_that_are_taken_can_be_looked_at()
    {
        var records = Directory.GetFiles(Path.Combine(AppContext.BaseDirectory, "demo", "records"), "*.json").Order(StringComparer.Ordinal).Select(f => JsonNode.Parse(File.ReadAllBytes(f))!).ToList();
        using var client = await SignedIn.ClientAsync(site.Address);
        var taken = 0;
        for (var seed = 0; seed < Each; seed++)
        {
            var mutation = new Mutation(seed);
            var body = mutation.Document(mutation.Of(records));
            // Judged each time; kept and looked at on every page now and then.
            var keep = seed % 12 == 0;
            // Somebody's name may hold NaN; a figure may not.
            var named = Encoding.UTF8.GetString(body).Contains("NaN", StringComparison.Ordinal);
            var answer = await AskAsync(site.Api, $"record {seed}", () => Json(keep ? "/api/v1/jobs" : "/api/v1/diagnosis", body));
            if (answer is { StatusCode: HttpStatusCode.OK or HttpStatusCode.Created })
            {
                taken++;
                var text = await answer.Content.ReadAsStringAsync(Cancel);
                (named || !NoFigure().IsMatch(text)).ShouldBeTrue($"record {seed}: {text}");
                if (keep)
                {
                    var job = (int)JsonNode.Parse(text)!["id"]!;
                    foreach (var page in new[] { "dry", "leak-down", "wet", "running", "judgement", "verdict", "sheet", "plan", "intake" })
                    {
                        var html = await AskAsync(client, $"record {seed} {page}", () => new HttpRequestMessage(HttpMethod.Get, At($"/jobs/{job}/{page}")));
                        var shown = await html!.Content.ReadAsStringAsync(Cancel);
                        if (!named && NoFigure().Match(shown) is { Success: true, Index: var nan })
                        {
                            Wrong.Add($"record {seed} {page}: {shown[Math.Max(0, nan - 200)..Math.Min(shown.Length, nan + 60)]}");
                        }
                    }
                }
            }
        }
        Wrong.ShouldBeEmpty();
        taken.ShouldBeGreaterThan(Each / 50, "some of them are records still");
    }
}

/// <summary>Captures that nobody should send.</summary>
public sealed class MutatedCapturesTests(Site site) : MutationTests, IClassFixture<Site>
{
    [Fact]
    public async Task Mutated_captures_are_answered()
    {
        var captures = new List<byte[]>();
        foreach (var engine in new[] { SimulatedEngine.InlineFour, SimulatedEngine.All[^1] })
        {
            var text = new StringWriter(CultureInfo.InvariantCulture) { NewLine = "\n" };
            SimulatedCapture.Of(engine, CrankingRun.Of(engine), new CaptureRecipe { SampleRateHz = 1000, LeadS = 0.1, TailS = 0.1 }).WriteCsv(text);
            captures.Add(Encoding.UTF8.GetBytes(text.ToString()));
            // The head says seconds, the numbers are microseconds, and the other way round.
            foreach (var factor in new[] { 1e6, 1e-6 })
            {
                var lines = text.ToString().Split('\n');
                captures.Add(Encoding.UTF8.GetBytes(string.Join('\n', lines.Select(l => l.Split(',') is [var t, .. var rest] && double.TryParse(t, CultureInfo.InvariantCulture, out var at) ? string.Join(',', [(at * factor).ToString("R", CultureInfo.InvariantCulture), .. rest]) : l))));
            }
        }
        for (var seed = 0; seed < Each; seed++)
        {
            var mutation = new Mutation(seed);
            var raw = seed < captures.Count ? captures[seed] : mutation.Bytes(mutation.Of(captures));
            if (mutation.Next(5) == 0)
            {
                using var packed = new MemoryStream();
                using (var zip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
                {
                    zip.Write(raw);
                }
                raw = mutation.Next(2) == 0 ? packed.ToArray() : mutation.Bytes(packed.ToArray());
            }
            var fields = new Dictionary<string, string> { ["cylinders"] = "4", ["firingOrder"] = "1-3-4-2" };
            foreach (var name in new[] { "cylinders", "firingOrder", "fuel", "ampsPerVolt", "currentColumn", "syncColumn", "timeColumn", "sampleRateHz", "syncCylinder", "syncKind", "syncAngle", "firingAngles", "limit", "job", "compressionRatio" })
            {
                if (mutation.Next(14) == 0)
                {
                    fields[name] = mutation.Text();
                }
            }
            await AskAsync(site.Api, $"capture {seed}", () =>
            {
                var form = new MultipartFormDataContent { { new ByteArrayContent(raw), "capture", "c.csv" } };
                foreach (var (name, value) in fields)
                {
                    form.Add(new ByteArrayContent(Encoding.UTF8.GetBytes(value)), name);
                }
                return new HttpRequestMessage(HttpMethod.Post, At("/api/v1/relative-compression")) { Content = form };
            });
        }
        Wrong.ShouldBeEmpty();
    }
}

/// <summary>Forms that no page would send.</summary>
public sealed class MutatedFormsTests : MutationTests
{
    [Fact]
    public async Task Mutated_forms_are_answered()
    {
        // A shop of its own: a mutated form may revoke the token and change the settings the other campaigns stand on.
        await using var own = new Site();
        await own.InitializeAsync();
        using var client = await SignedIn.ClientAsync(own.Address);
        var forms = new List<(string Action, List<KeyValuePair<string, string>> Fields)>();
        foreach (var page in new[]
        {
            "/jobs/new", "/jobs/7/intake", "/jobs/7/dry", "/jobs/7/leak-down", "/jobs/7/wet", "/jobs/7/running", "/jobs/7/plugs", "/jobs/7/prepare", "/jobs/7/refit", "/jobs/7/type-in", "/jobs/7/verdict", "/jobs/7/liquid",
            "/jobs/7/checks/fluids", "/jobs/7/checks/oil-pressure", "/jobs/7/checks/valve-clearance", "/jobs/7/checks/manifold-vacuum", "/jobs/7/checks/oil-use", "/jobs/11/relative-compression", "/jobs/11/relative-compression?view=Preview",
            "/shop", "/shop/people", "/shop/tokens", "/testers/new", "/testers/1", "/engines/new", "/engines/1", "/import/sheets", "/import/vehicles", "/import/jobs", "/setup/units", "/setup/tester", "/setup/engine", "/setup/sample", "/vehicles/1", "/vehicles/engines/1", "/account",
        })
        {
            var html = new HtmlParser().ParseDocument(await client.GetStringAsync(At(page), Cancel));
            foreach (var form in html.QuerySelectorAll("form[method=post]").Cast<IHtmlFormElement>())
            {
                var action = form.GetAttribute("action") is { Length: > 0 } a ? a : page;
                var fields = form.QuerySelectorAll("input[name], select[name], textarea[name], button[name]").Select(e => KeyValuePair.Create(e.GetAttribute("name")!, (e as IHtmlInputElement)?.Value ?? (e as IHtmlSelectElement)?.Value ?? (e as IHtmlTextAreaElement)?.Value ?? (e as IHtmlButtonElement)?.Value ?? "")).ToList();
                // Nobody's sign-in is to end while this runs.
                if (!action.Contains("sign", StringComparison.OrdinalIgnoreCase) && !action.Contains("account", StringComparison.Ordinal) && !action.Contains("people", StringComparison.Ordinal))
                {
                    forms.Add((action, fields));
                }
            }
        }
        forms.Count.ShouldBeGreaterThan(60);
        string[] strange = ["Form", "Sources", "Form.Methods.Index", "Form.Methods[x].Good", "Form.Observations", "Rows[99999].Dry", "Rows.Index", "form.Rows[0].Rpm", "at", "entry", "sure", "Cylinder", "cylinder", "seen", "signs", "__Invariant"];
        var token = forms[0].Fields.First(f => f.Key == "__RequestVerificationToken");
        for (var seed = 0; seed < Each; seed++)
        {
            var mutation = new Mutation(seed);
            var (action, fields) = mutation.Of(forms);
            var sent = new List<KeyValuePair<string, string>> { token };
            foreach (var field in fields.Where(f => f.Key != token.Key))
            {
                switch (mutation.Next(6))
                {
                    case 0:
                        break;
                    case 1:
                        sent.Add(KeyValuePair.Create(field.Key, mutation.Text()));
                        break;
                    case 2:
                        sent.Add(KeyValuePair.Create(mutation.Of(strange), field.Value));
                        sent.Add(field);
                        break;
                    default:
                        sent.Add(field);
                        break;
                }
            }
            if (mutation.Next(3) == 0)
            {
                sent.Add(KeyValuePair.Create(mutation.Of(strange), mutation.Text()));
            }
            var address = mutation.Next(10) == 0 ? action + (action.Contains('?', StringComparison.Ordinal) ? "&" : "?") + $"cylinder={Uri.EscapeDataString(new string([.. mutation.Text().Where(c => !char.IsSurrogate(c)).Take(50)]))}" : action;
            await AskAsync(client, $"form {seed} {address} {string.Join('&', sent.Where(f => f.Key != token.Key).Select(f => $"{f.Key}={(f.Value.Length > 40 ? f.Value[..40] : f.Value)}"))}", () =>
            {
                // Written by hand, so that what is no text goes over the line as well.
                var body = string.Join('&', sent.Select(f => $"{Escaped(f.Key)}={Escaped(f.Value)}"));
                return new HttpRequestMessage(HttpMethod.Post, At(address)) { Content = new StringContent(mutation.Next(40) == 0 ? body + "&x=%FF%FE" : body, Encoding.ASCII, "application/x-www-form-urlencoded") };
            });
        }
        Wrong.ShouldBeEmpty();
    }

    private static string Escaped(string text) => string.Concat(Encoding.UTF8.GetBytes(text).Select(b => char.IsAsciiLetterOrDigit((char)b) ? $"{(char)b}" : $"%{b:X2}"));
}
