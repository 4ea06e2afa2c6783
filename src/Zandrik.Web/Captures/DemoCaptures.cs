using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;
using Zandrik.Core.Testers;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Captures;

/// <summary>The captures of the demo jobs: simulated as demo/captures.json says, brought and judged like anybody's.</summary>
public sealed class DemoCaptures(ShopDatabase database, TimeProvider clock)
{
    private static readonly JsonSerializerOptions Reading = new(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower) } };

    // They come out alike every time: one process makes each once.
    private static readonly ConcurrentDictionary<string, Lazy<byte[]>> Files = [];
    private static readonly ConcurrentDictionary<string, Lazy<Task<JudgedCapture>>> Judged = [];

    /// <summary>Loads those that are not there yet.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="folder">The folder of the demo data.</param>
    /// <param name="jobs">The job of each record, by the name of its file.</param>
    public async Task LoadAsync(ShopPerson who, string folder, IReadOnlyDictionary<string, int> jobs)
    {
        var store = new CaptureStore(database);
        var clamp = (await new TesterStore(database).ListAsync(who)).FirstOrDefault(t => t.Tester.Kind == TesterKind.Clamp);
        using var desk = new CaptureDesk();
        foreach (var demo in JsonSerializer.Deserialize<DemoCapture[]>(await File.ReadAllTextAsync(Path.Combine(folder, "captures.json")), Reading)!)
        {
            var job = jobs[demo.Record];
            if ((await store.ListAsync(who, job)).Any(c => c.Judged))
            {
                continue;
            }
            var file = Files.GetOrAdd(demo.File, _ => new(demo.Write)).Value;
            var id = await store.KeepAsync(who, job, demo.File, clamp?.Id, new MemoryStream(file), EntryKey.Of($"demo {demo.File}"), clock.GetUtcNow());
            var engine = (await new JobStore(database).FindAsync(who, job))!.Record.Engine;
            var judged = await Judged.GetOrAdd(demo.File, _ => new(() => demo.JudgeAsync(desk, file, engine, clamp?.Tester.MilliVoltsPerAmp))).Value;
            await store.AnswerAsync(who, job, id!.Value, judged, clamp?.Tester.ForRecord(), clock.GetUtcNow());
        }
    }

    private sealed record DemoCapture(string Record, string File, string Engine, double Seconds, IReadOnlyDictionary<int, CylinderCondition> Cylinders, CaptureRecipe Recipe, bool Battery)
    {
        internal byte[] Write()
        {
            var engine = SimulatedEngine.All.Single(e => e.Name == Engine);
            using var memory = new MemoryStream();
            using (var text = new StreamWriter(memory, new UTF8Encoding(false), leaveOpen: true))
            {
                SimulatedCapture.Of(engine, CrankingRun.Of(engine, Cylinders, new Cranking { Seconds = Seconds }), Recipe).WriteCsv(text, batteryToo: Battery);
            }
            return memory.ToArray();
        }

        internal async Task<JudgedCapture> JudgeAsync(CaptureDesk desk, byte[] file, EngineSheet engine, double? clampScale)
        {
            var found = await CaptureFile.InspectAsync(new MemoryStream(file));
            var form = CaptureForm.Of(found, found.Layout, null, engine, clampScale);
            if (Recipe.Sync == SyncSignal.EveryCycle)
            {
                form.Sync = RecordWords.Of(SyncKind.EveryCycle);
            }
            var (layout, question) = form.Read(found, engine, CaptureQuestion.UsualLimitPercent, new TypedFields());
            return await desk.JudgeAsync(new MemoryStream(file), found.Shape, layout, question, default);
        }
    }
}
