using System.Globalization;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Microsoft.Extensions.Options;
using Zandrik.Storage;
using Zandrik.Web.Api;
using Zandrik.Web.Backups;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;
using Zandrik.Web.Imports;
using Zandrik.Web.Instruments;
using Zandrik.Web.Network;
using Zandrik.Web.Practice;
using Zandrik.Web.Readings;
using Zandrik.Web.Watching;

// Figures are written and read alike on every machine, whatever its language.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.DefaultThreadCurrentUICulture = CultureInfo.InvariantCulture;

// "prepare" brings the database to the current schema and makes the first shop; it runs with the owner's
// rights and ends. Everything else is the server, which has the rights of the plain role only.
if (args is ["prepare", ..])
{
    return await Preparation.RunAsync(args[1..]);
}

if (args is ["backup" or "restore" or "verify", ..])
{
    return await BackupCommand.RunAsync(args);
}

if (args is ["first-foreman" or "token" or "forget-code", ..])
{
    return await HandCommands.RunAsync(args);
}

var builder = WebApplication.CreateBuilder(args);
var connection = builder.Configuration["ZANDRIK_DB"]
    ?? throw new InvalidOperationException("ZANDRIK_DB, the connection string of the database, is not set. Use ./start, which sets it.");

NetworkSettings network;
try
{
    network = NetworkSettings.Read(builder.Configuration);
    Watch.Add(builder);
    if (builder.Configuration["ZANDRIK_KEY_FILE"] is { Length: > 0 } keyFile)
    {
        builder.Services.AddSingleton(KeySeal.FromFile(keyFile));
    }
}
catch (Exception wrong) when (wrong is InvalidOperationException or KeySealException)
{
    await Console.Error.WriteLineAsync(wrong.Message);
    return 2;
}
ShopNetwork.Add(builder, network);
builder.Services.AddSingleton(_ => new ShopDatabase(connection));
builder.Services.AddSingleton<SignInStore>();
builder.Services.AddSingleton<JobStore>();
builder.Services.AddSingleton<DryTestStore>();
builder.Services.AddSingleton<WorkspaceStore>();
builder.Services.AddSingleton<PeopleStore>();
builder.Services.AddSingleton<SecondFactorStore>();
builder.Services.AddSingleton<AuditStore>();
builder.Services.AddSingleton<TesterStore>();
builder.Services.AddSingleton<SheetStore>();
builder.Services.AddSingleton<TickStore>();
builder.Services.AddSingleton<PlugStore>();
builder.Services.AddSingleton<StepStore>();
builder.Services.AddSingleton<CaptureStore>();
builder.Services.AddSingleton<CaptureDesk>();
builder.Services.AddSingleton<RelativeDesk>();
builder.Services.AddSingleton<PhotoDesk>();
builder.Services.AddSingleton<ReadingDesk>();
builder.Services.AddSingleton<PracticeStore>();
builder.Services.AddSingleton<PracticeDesk>();
builder.Services.AddSingleton<InstrumentStore>();
builder.Services.AddSingleton<TakeDesk>();
builder.Services.AddSingleton<VerdictStore>();
builder.Services.AddSingleton<DecisionStore>();
builder.Services.AddSingleton<RepairStore>();
builder.Services.AddSingleton<LifeStore>();
builder.Services.AddSingleton<FleetStore>();
builder.Services.AddSingleton<SellingStore>();
builder.Services.AddSingleton<Zandrik.Storage.Archives.ArchiveStore>();
builder.Services.AddSingleton<ArchiveDesk>();
builder.Services.AddSingleton<VehicleStore>();
builder.Services.AddSingleton<EngineStore>();
builder.Services.AddSingleton<SearchStore>();
builder.Services.AddSingleton<ImportStore>();
builder.Services.AddSingleton<ImportDesk>();
builder.Services.AddSingleton<LiveChanges>();
builder.Services.AddSingleton<LiveJobs>();
builder.Services.AddHostedService(s => s.GetRequiredService<LiveJobs>());
builder.Services.AddHostedService<WarmUp>();
Authentication.AddTo(builder.Services);
builder.Services.AddSingleton(TimeProvider.System);
builder.Services.AddSingleton(s => new KeyRing(s.GetRequiredService<ShopDatabase>(), s.GetService<KeySeal>()));
builder.Services.AddSingleton<IConfigureOptions<KeyManagementOptions>>(services =>
    new ConfigureOptions<KeyManagementOptions>(o => o.XmlRepository = services.GetRequiredService<KeyRing>()));
builder.Services.AddDataProtection().SetApplicationName("Zandrik");
// Every page needs somebody who is signed in, but for those that say otherwise themselves.
builder.Services.AddRazorPages(o => o.Conventions.AuthorizeFolder("/"))
    .AddMvcOptions(o =>
    {
        o.Filters.Add<RequestGate>();
        o.Filters.Add<PracticeFilter>();
        o.Filters.Add<RoleFilter>();
    });
RateLimits.Add(builder.Services, builder.Configuration);
builder.Services.AddAntiforgery(o =>
{
    o.Cookie.Name = "zandrik.form";
    o.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
});
builder.Services.AddProblemDetails(o => o.CustomizeProblemDetails = ApiErrors.Say);
builder.Services.AddOpenApi("v1", OpenApiText.Describe);
builder.Services.AddHealthChecks().AddCheck<DatabaseCheck>("database", tags: ["ready"]).AddCheck("warm-up", () => WarmUp.IsDone ? HealthCheckResult.Healthy() : HealthCheckResult.Degraded("Still warming up."), tags: ["ready"]);
builder.Services.AddResponseCompression(o =>
{
    o.EnableForHttps = true;
    o.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "image/svg+xml", "application/problem+json", "application/vnd.zandrik.trace"];
});
builder.WebHost.ConfigureKestrel(o =>
{
    o.AddServerHeader = false;
    // What a page sends at most; captures and photos say themselves that they are larger.
    o.Limits.MaxRequestBodySize = 8 * 1024 * 1024;
});

var app = builder.Build();

try
{
    // With other keys everybody would be signed out and no code of a phone be right: better not to start.
    var ring = app.Services.GetRequiredService<KeyRing>();
    await ring.SealAsync();
    await ring.MakeFirstAsync(() => app.Services.GetRequiredService<IKeyManager>().CreateNewKey(DateTimeOffset.UtcNow, DateTimeOffset.UtcNow + app.Services.GetRequiredService<IOptions<KeyManagementOptions>>().Value.NewKeyLifetime));
    ring.GetAllElements();
}
catch (KeySealException wrong)
{
    await Console.Error.WriteLineAsync(wrong.Message);
    return 2;
}
catch (Npgsql.NpgsqlException)
{
    // The database is not there yet; what is sealed wrongly is refused when it is.
}

Watch.Use(app);
app.UseResponseCompression();
app.UseMiddleware<PageHeaders>();
ShopNetwork.Use(app);
app.UseWhen(c => !c.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal), pages =>
{
    if (!app.Environment.IsDevelopment())
    {
        pages.UseExceptionHandler(new ExceptionHandlerOptions { ExceptionHandlingPath = "/broken", StatusCodeSelector = ApiErrors.StatusOf, SuppressDiagnosticsCallback = ApiErrors.IsSaidAlready });
    }
    pages.UseStatusCodePagesWithReExecute("/missing", "?code={0}");
});
app.UseWhen(c => c.Request.Path.StartsWithSegments("/api", StringComparison.Ordinal), api =>
{
    api.UseExceptionHandler(new ExceptionHandlerOptions { StatusCodeSelector = ApiErrors.StatusOf, SuppressDiagnosticsCallback = ApiErrors.IsSaidAlready });
    api.UseStatusCodePages();
});
app.UseRouting();
app.UseMiddleware<KeysFirst>();
app.UseAuthentication();
app.UseRateLimiter();
app.UseMiddleware<SessionMiddleware>();
app.UseMiddleware<ExportAudit>();
app.UseMiddleware<EntryMeter>();
app.UseAuthorization();
app.MapStaticAssets();
app.MapRazorPages().WithStaticAssets();
app.MapHealth();
ShopNetwork.Map(app);
LiveJobs.Map(app);
RetestCalendar.Map(app);
app.MapJobApi();
app.MapRelativeApi();
app.MapDiagnosisApi();
app.MapOpenApi("/openapi/{documentName}.json");
ShopNetwork.Announce(app);
await app.RunAsync();
return 0;

/// <summary>The entry point, named so that tests can start the server in their own process.</summary>
public partial class Program;
