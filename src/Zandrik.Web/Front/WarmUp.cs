using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.Mvc.Razor;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewFeatures;
using Microsoft.Extensions.Options;
using Zandrik.Core.Assessment;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Front;

/// <summary>
/// After a start the first answers cost ten times and more what they cost later, because their code is not compiled yet. The server goes through a made-up job by itself first: it asks itself for a
/// page, draws a bench and judges, and is not ready before that; then it judges a few times more, until that is compiled for speed. Nothing of it is kept.
/// </summary>
public sealed partial class WarmUp(IServer server, IHostApplicationLifetime life, IServiceScopeFactory scopes, IOptionsMonitor<CookieAuthenticationOptions> cookies, ILogger<WarmUp> log) : BackgroundService
{
    // The runtime compiles for speed what was called thirty times, a tenth of a second after it is quiet.
    private const int Rounds = 40;

    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(20);

    // What is compiled in a process is compiled for every server in it.
    private static int begun;

    /// <summary>True once the first answers are compiled, or could not be.</summary>
    public static bool IsDone { get; private set; }

    /// <summary>What kept it from going through; absent when nothing did. It stops nobody.</summary>
    public static Exception? Trouble { get; private set; }

    /// <summary>A V8 with a burnt valve and every kind of test on it: all that a judgement goes through.</summary>
    public static TestRecord Job { get; } = new()
    {
        Engine = new EngineSheet { Cylinders = 8, Fuel = Fuel.Petrol, Layout = CylinderArrangement.V, Throttle = ThrottleControl.Cable, DisplacementCc = 4000, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
        Observations = [Observation.Misfire, Observation.OilUse],
        Tests =
        [
            new RelativeCompressionTest { Readings = [.. Each(c => new RelativeReading { Cylinder = c, RelativePercent = c == 3 ? 70 : 100 - c % 3, StandardErrorPercent = 2 })] },
            new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Each(c => new CompressionReading { Cylinder = c, Value = Psi(c) })] },
            new LeakDownTest
            {
                Unit = PressureUnit.Psi, Supply = 100,
                Readings = [.. Each(c => new LeakDownReading { Cylinder = c, LeakPercent = c == 3 ? 85 : 9 + c % 3, Heard = [new HeardAir { At = c == 3 ? ListeningPlace.Exhaust : ListeningPlace.OilFiller, Strength = c == 3 ? HeardStrength.Strong : HeardStrength.Faint }] })],
            },
            new WetCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Each(c => new CompressionReading { Cylinder = c, Value = 1.045 * Psi(c) })] },
            new RunningCompressionTest { Unit = PressureUnit.Psi, Readings = [.. Each(c => new RunningReading { Cylinder = c, Idle = 100 + c % 3, Snap = 162 + c % 4, Purged = true })] },
            new CombustionGasTest { Result = CombustionGasResult.Positive },
        ],
    };

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (Interlocked.Exchange(ref begun, 1) == 1)
        {
            return;
        }
        try
        {
            var started = new TaskCompletionSource();
            using (life.ApplicationStarted.Register(started.SetResult))
            {
                await started.Task.WaitAsync(stoppingToken);
            }
            await Task.WhenAll(Task.Run(() => DrawAsync(stoppingToken), stoppingToken), Task.Run(() => AskAsync(stoppingToken), stoppingToken));
        }
        catch (Exception broken) when (broken is not OutOfMemoryException)
        {
            // The first one who asks waits a second longer; that is all.
            Trouble = broken;
            Failed(log, broken);
        }
        IsDone = true;
        for (var round = 0; round < Rounds && !stoppingToken.IsCancellationRequested; round++)
        {
            _ = JobAssessment.Of(Job).Headline;
            await Task.Delay(Pause, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    // The whole way of a request: a page for somebody who is signed in, asked for with the cookie of nobody, which is
    // looked up like any other and shown out to the signIn.
    private async Task AskAsync(CancellationToken cancel)
    {
        if (server.Features.Get<IServerAddressesFeature>()?.Addresses.FirstOrDefault(a => a.StartsWith("http:", StringComparison.Ordinal)) is not { } address)
        {
            return;
        }
        var cookie = cookies.Get(CookieAuthenticationDefaults.AuthenticationScheme);
        using var client = new HttpClient { BaseAddress = new Uri(address.Replace("[::]", "localhost", StringComparison.Ordinal).Replace("0.0.0.0", "localhost", StringComparison.Ordinal).Replace("+", "localhost", StringComparison.Ordinal)) };
        client.DefaultRequestHeaders.Add("Cookie", $"{cookie.Cookie.Name}={cookie.TicketDataFormat.Protect(Authentication.Ticket(new ShopPerson(), Guid.Empty, Guid.Empty))}");
        using var answer = await client.GetAsync(new Uri("/jobs/1/dry", UriKind.Relative), cancel);
    }

    // A bench drawn into nothing: of the latest job that is there, read and not touched, else of the made-up one.
    private async Task DrawAsync(CancellationToken cancel)
    {
        await using var scope = scopes.CreateAsyncScope();
        if (await scope.ServiceProvider.GetRequiredService<SignInStore>().FirstAsync(cancel) is { } first
            && await scope.ServiceProvider.GetRequiredService<JobStore>().LinesAsync(first, new JobFilter { Open = true }, 1, cancel) is { Lines: [var line] }
            && await scope.ServiceProvider.GetRequiredService<WorkspaceStore>().FindAsync(first, line.Number, cancel: cancel) is { } kept)
        {
            await DrawAsync(scope.ServiceProvider, first, kept);
        }
        var who = new ShopPerson { Role = ShopRole.Technician, TimeZone = "UTC", Unit = RecordWords.Of(PressureUnit.Psi) };
        var job = new Job { Number = 1, Record = Job, TestIds = [.. Enumerable.Range(1, Job.Tests!.Count).Select(i => (long)i)], Unit = PressureUnit.Psi, OpenedAt = DateTimeOffset.UnixEpoch, OpenedBy = "" };
        await DrawAsync(scope.ServiceProvider, who, new Workspace(job, null, [], [], RepairKnowledge.None, null, who.Settings));
    }

    private static async Task DrawAsync(IServiceProvider services, ShopPerson who, Workspace workspace)
    {
        var http = new DefaultHttpContext { RequestServices = services };
        var bench = Bench.Of(who, workspace.JobState, null, null)! with { Rail = Rail.Of(workspace, "dry") };
        // Its parts are found where those of the page are.
        var page = new RouteData { Values = { ["page"] = "/Jobs/Dry" } };
        var view = services.GetRequiredService<IRazorViewEngine>().GetView(null, "/Pages/Jobs/_Bench.cshtml", isMainPage: false).View ?? throw new InvalidOperationException("The bench has no view.");
        await view.RenderAsync(new ViewContext(
            new ActionContext(http, page, new PageActionDescriptor { ViewEnginePath = "/Jobs/Dry", RelativePath = "/Pages/Jobs/Dry.cshtml", RouteValues = { ["page"] = "/Jobs/Dry" } }), view, new ViewDataDictionary<Bench>(new EmptyModelMetadataProvider(), new ModelStateDictionary()) { Model = bench },
            new TempDataDictionary(http, services.GetRequiredService<ITempDataProvider>()), TextWriter.Null, new HtmlHelperOptions()));
    }

    [LoggerMessage(LogLevel.Warning, "The warm-up after the start did not go through; the first answers are slower.")]
    private static partial void Failed(ILogger log, Exception broken);

    private static double Psi(int cylinder) => cylinder == 3 ? 131 : 188 + cylinder % 4;

    private static IEnumerable<T> Each<T>(Func<int, T> of) => Enumerable.Range(1, 8).Select(of);
}
