using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Threading.Channels;
using Zandrik.Core.Compression;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Running;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Instruments;

/// <summary>What is read.</summary>
public enum TakeKind
{
    /// <summary>Dry compression.</summary>
    Dry,

    /// <summary>Wet compression.</summary>
    Wet,

    /// <summary>Supply and held of a leak-down.</summary>
    LeakDown,

    /// <summary>Running compression at idle.</summary>
    Idle,

    /// <summary>The reading after a snap.</summary>
    Snap,

    /// <summary>A capture of starter current.</summary>
    Relative,
}

/// <summary>What happens while a reading is taken.</summary>
/// <param name="State">A word: <c>busy</c>, <c>connected</c>, <c>ready</c>, <c>needle</c>, <c>saved</c>, <c>refused</c>, <c>trouble</c>.</param>
/// <param name="Says">What is said of it; absent for a needle that moved.</param>
/// <param name="Pa">Where the needle stands, Pa.</param>
/// <param name="Count">Compressions so far.</param>
/// <param name="Go">The page to go on at.</param>
public sealed record TakeEvent(string State, string? Says = null, double? Pa = null, int? Count = null, string? Go = null);

/// <summary>What somebody wants read.</summary>
/// <param name="Job">The job.</param>
/// <param name="Kind">What.</param>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Instrument">The instrument.</param>
/// <param name="Compressions">How many compressions are wanted.</param>
/// <param name="Simulate">True to have a simulated instrument turn its engine.</param>
/// <param name="Key">Made once for each reading.</param>
public sealed record TakeWanted(int Job, TakeKind Kind, int Cylinder, int Instrument, int Compressions, bool Simulate, Guid Key);

/// <summary>
/// Takes readings from the shop's instruments: one person at a time for each, the needle passed on to everybody who watches
/// the job, and the figure kept by the same stores and guards as one that is typed.
/// </summary>
public sealed class TakeDesk(InstrumentStore instruments, WorkspaceStore workspaces, DryTestStore dry, ReadingDesk readings, CaptureStore captures, CaptureDesk captureDesk, TimeProvider clock)
{
    /// <summary>How often the needle is asked for.</summary>
    public static readonly TimeSpan Between = TimeSpan.FromMilliseconds(40);

    /// <summary>How long it is waited for the first compression, and for the last.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromSeconds(60);

    private const double RecordHz = 4000;

    // A needle that has stood this long is read.
    private static readonly TimeSpan Still = TimeSpan.FromMilliseconds(900);

    private readonly ConcurrentDictionary<Channel<TakeEvent>, (int Shop, int Job)> watchers = new();

    /// <summary>Asks an instrument what it is.</summary>
    /// <exception cref="LinkTroubleException">It cannot be asked.</exception>
    public async Task<string> IdentifyAsync(ShopPerson who, KeptInstrument instrument, CancellationToken cancel)
    {
        await using var line = await OpenAsync(instrument, cancel);
        return await IdentifyAsync(who, instrument, line, cancel);
    }

    /// <summary>What others read on a job, as it happens.</summary>
    public async IAsyncEnumerable<TakeEvent> WatchAsync(ShopPerson who, int job, [EnumeratorCancellation] CancellationToken cancel)
    {
        // A watcher that cannot keep up sees the latest.
        var channel = Channel.CreateBounded<TakeEvent>(new BoundedChannelOptions(16) { FullMode = BoundedChannelFullMode.DropOldest });
        watchers[channel] = (who.ShopId, job);
        try
        {
            yield return new TakeEvent("watching");
            await foreach (var happened in channel.Reader.ReadAllAsync(cancel))
            {
                yield return happened;
            }
        }
        finally
        {
            watchers.TryRemove(channel, out _);
        }
    }

    /// <summary>Takes a reading, and says what happens meanwhile. Whoever stops listening stops it, and nothing is kept.</summary>
    public async IAsyncEnumerable<TakeEvent> TakeAsync(ShopPerson who, TakeWanted wanted, [EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateUnbounded<TakeEvent>();
        var taking = TakeAsync(who, wanted, channel.Writer, cancel);
        await foreach (var happened in channel.Reader.ReadAllAsync(CancellationToken.None))
        {
            foreach (var (watcher, about) in watchers)
            {
                if (about == (who.ShopId, wanted.Job))
                {
                    watcher.Writer.TryWrite(happened with { Go = null });
                }
            }
            yield return happened;
        }
        await taking;
    }

    private async Task TakeAsync(ShopPerson who, TakeWanted wanted, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        var mine = false;
        try
        {
            if ((await instruments.ListAsync(who, cancel)).FirstOrDefault(i => i.Id == wanted.Instrument && i.RetiredAt is null) is not { } instrument || instrument.Is != KindOf(wanted.Kind))
            {
                await tell.WriteAsync(new("refused", "This instrument is not there any more. Choose another, or type the reading."), cancel);
                return;
            }
            if (await workspaces.FindAsync(who, wanted.Job, null, cancel) is not { } found)
            {
                await tell.WriteAsync(new("refused", "This job is not there any more."), cancel);
                return;
            }
            if (Refuses(found, wanted) is { } why)
            {
                await tell.WriteAsync(new("refused", why), cancel);
                return;
            }
            if (await instruments.TakeAsync(who, instrument.Id, clock.GetUtcNow(), cancel) is { } other)
            {
                throw new LinkTroubleException(LinkState.Busy, other);
            }
            mine = true;
            await using var line = await OpenAsync(instrument, cancel);
            var identity = await IdentifyAsync(who, instrument, line, cancel);
            await tell.WriteAsync(new("connected", $"{instrument.Name}: {Short(identity)}."), cancel);
            var (says, go) = await ReadAsync(who, wanted, found, instrument, line, wanted.Simulate && IsSimulated(identity), tell, cancel);
            await tell.WriteAsync(go is null ? new("refused", says) : new("saved", says, Go: go), cancel);
        }
        catch (LinkTroubleException trouble)
        {
            tell.TryWrite(new("trouble", trouble.Says));
        }
        catch (OperationCanceledException) when (cancel.IsCancellationRequested)
        {
            tell.TryWrite(new("trouble", "Stopped. Check whether a reading was saved before you take it again."));
        }
        finally
        {
            if (mine)
            {
                await instruments.GiveBackAsync(who, wanted.Instrument, CancellationToken.None);
            }
            tell.TryComplete();
        }
    }

    /// <summary>The kind of instrument that reads something.</summary>
    public static InstrumentKind KindOf(TakeKind kind) => kind switch { TakeKind.LeakDown => InstrumentKind.LeakDown, TakeKind.Relative => InstrumentKind.Recorder, _ => InstrumentKind.Gauge };

    /// <summary>The step at which something is read, as it stands in addresses.</summary>
    public static string StepOf(TakeKind kind) => kind switch { TakeKind.LeakDown => "leak-down", TakeKind.Relative => "relative-compression", TakeKind.Idle or TakeKind.Snap => "running", _ => RecordWords.Of(kind) };

    /// <summary>Why nothing is read now, as the guards of the job stand; absent where it may be. The store asks them again when it is kept.</summary>
    public static string? Refuses(Workspace found, TakeWanted wanted)
    {
        var (safety, engine) = (found.Assessment.Safety, found.Job.Record.Engine);
        return wanted.Cylinder < 1 || wanted.Cylinder > engine.Cylinders ? $"This engine has {engine.Cylinders} cylinders."
            : wanted.Kind switch
            {
                TakeKind.LeakDown => safety.ForbidsWriting ?? found.JobState.Crank.RefusesReading(wanted.Cylinder),
                TakeKind.Wet => safety.ForbidsCranking ?? found.JobState.Oil.RefusesReading(wanted.Cylinder),
                TakeKind.Idle or TakeKind.Snap => RunningEntry.Refuses(found.Job.Record, safety, found.Assessment.Tests.Dry, wanted.Cylinder, found.JobState.Ticked(StepStore.Running).ContainsKey, found.Assessment.Tests.LeakDown),
                _ => safety.ForbidsCranking,
            };
    }

    private static Task<InstrumentLine> OpenAsync(KeptInstrument instrument, CancellationToken cancel) =>
        // Read again where it is used: a row that came another way is held to the same.
        InstrumentAddress.Read(instrument.Address) is { Address: { } address } ? InstrumentLine.OpenAsync(address, cancel) : throw new LinkTroubleException(LinkState.NotFound, instrument.Address);

    private async Task<string> IdentifyAsync(ShopPerson who, KeptInstrument instrument, InstrumentLine line, CancellationToken cancel)
    {
        var identity = await line.AskAsync("*IDN?", cancel);
        if (identity.Length is 0 or > 200)
        {
            throw new LinkTroubleException(LinkState.Garbage, "after *IDN?");
        }
        await instruments.SeenAsync(who, instrument.Id, identity, clock.GetUtcNow(), cancel);
        return identity;
    }

    /// <summary>True for an instrument of the demo, whose engine is turned by it as well.</summary>
    /// <param name="identity">What it answered to *IDN?; absent for one that never did.</param>
    public static bool IsSimulated(string? identity) => identity?.Split(',') is [_, var model, ..] && model.StartsWith("Simulated", StringComparison.Ordinal);

    private static string Short(string identity) => identity.Split(',') is [_, var model, ..] ? model : identity;

    private async Task<(string Says, string? Go)> ReadAsync(ShopPerson who, TakeWanted wanted, Workspace found, KeptInstrument instrument, InstrumentLine line, bool simulate, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        var unit = found.Job.Unit;
        string Page(string step) => string.Create(CultureInfo.InvariantCulture, $"/jobs/{wanted.Job}/{step}?cylinder={wanted.Cylinder}");
        string Said(GaugePressure p) => $"Cylinder {wanted.Cylinder}: {p.Text(unit)} {unit.Symbol()}, read by {instrument.Name}.";
        if (wanted.Kind == TakeKind.Relative)
        {
            return await RecordAsync(who, wanted, found, instrument, line, simulate, tell, cancel);
        }
        await line.DoAsync("UNIT:PRES PA", cancel);
        if (wanted.Kind == TakeKind.LeakDown)
        {
            await tell.WriteAsync(new("ready", "Raise the supply slowly; both gauges are read when they settle."), cancel);
            var (supply, held) = await StandStillAsync(who, wanted, line, simulate, tell, cancel);
            var (s, h) = (GaugePressure.ReadOff(supply, unit), GaugePressure.ReadOff(held, unit));
            var kept = await readings.LeakDownAsync(who, wanted.Job, wanted.Cylinder, new LeakFigures(s.Value, h.Value, null, unit), correct: false, wanted.Key, clock.GetUtcNow(), new ReadingSource(instrument.Name, default), cancel);
            return kept.Refused is { } no ? (no, null) : ($"Cylinder {wanted.Cylinder}: {s.Text(unit)} in, {h.Text(unit)} {unit.Symbol()} held. Now listen at every place.", Page("leak-down"));
        }
        if (wanted.Kind is TakeKind.Idle or TakeKind.Snap)
        {
            if (wanted.Kind == TakeKind.Idle)
            {
                if (simulate)
                {
                    await line.DoAsync(string.Create(CultureInfo.InvariantCulture, $"SIM:CYL {wanted.Cylinder};RUN IDLE"), cancel);
                }
                await line.DoAsync("PRES:REL", cancel);
            }
            else if (simulate)
            {
                await line.DoAsync("SIM:RUN SNAP", cancel);
            }
            await tell.WriteAsync(new("ready", wanted.Kind == TakeKind.Idle ? "Bled. Reading idle." : "Snap the throttle now: short, and let go."), cancel);
            var (peak, _) = await FollowAsync(who, wanted, line, 0, tell, cancel);
            var read = GaugePressure.ReadOff(peak, unit);
            var ran = new ReadingSource(instrument.Name, (await TraceAsync(line, cancel)).Pack());
            var kept = await readings.RunningAsync(who, wanted.Job, wanted.Cylinder, read, wanted.Kind == TakeKind.Snap ? RunningEntry.Snap : (before, value) => (RunningEntry.Idle(before, value), null), wanted.Key, clock.GetUtcNow(), ran, cancel);
            return kept.Refused is { } no ? (no, null) : (Said(read), Page("running"));
        }
        await line.DoAsync("PRES:REL", cancel);
        if (simulate)
        {
            await line.DoAsync(string.Create(CultureInfo.InvariantCulture, $"SIM:CYL {wanted.Cylinder};CRAN {wanted.Compressions}"), cancel);
        }
        await tell.WriteAsync(new("ready", $"Bled. Crank now, {wanted.Compressions} compressions."), cancel);
        var (final, _) = await FollowAsync(who, wanted, line, wanted.Compressions, tell, cancel);
        var pulses = (await line.AskAsync("FETC:PRES:PULS?", cancel)).Split(',').Select(p => double.TryParse(p, NumberStyles.Float, CultureInfo.InvariantCulture, out var x) ? x : throw new LinkTroubleException(LinkState.Garbage, "after FETC:PRES:PULS?")).ToList();
        var trace = await TraceAsync(line, cancel);
        var source = new ReadingSource(instrument.Name, trace.Pack());
        var pressure = GaugePressure.ReadOff(final, unit);
        if (wanted.Kind == TakeKind.Wet)
        {
            var kept = await readings.WetAsync(who, wanted.Job, wanted.Cylinder, pressure, correct: false, wanted.Key, clock.GetUtcNow(), source, cancel);
            return kept.Refused is { } no ? (no, null) : (Said(pressure), Page("wet"));
        }
        var measured = found.Assessment.Tests.DryTest?.Readings?.Any(r => r.Cylinder == wanted.Cylinder && r.Counts()) == true;
        var answer = await dry.EnterAsync(who, wanted.Job, null, new PadEntry(wanted.Cylinder, measured ? PadEntryKind.Repeat : PadEntryKind.Reading, pressure)
        {
            Details = new ReadingDetails { Pulses = pulses.Count, Seconds = Math.Round(trace.Seconds, 1), PumpUp = [.. pulses.Select(p => GaugePressure.ReadOff(p, unit))] },
        }, wanted.Key, clock.GetUtcNow(), null, source, cancel);
        return answer.Test is null ? (answer.Refused ?? "Not saved.", null) : (Said(pressure), Page("dry"));
    }

    // What the gauge held on the way to its figure.
    private static async Task<PressureTrace> TraceAsync(InstrumentLine line, CancellationToken cancel)
    {
        var hz = await line.FigureAsync("TRAC:RATE?", cancel);
        var trace = await line.BlockAsync("TRAC:PRES?", cancel);
        return hz is not (> 0 and < 1e6) || trace.Length is 0 or > PressureTrace.Longest
            ? throw new LinkTroubleException(LinkState.Garbage, "a trace that is none")
            : new(1 / hz, trace);
    }

    // Until the wanted compressions are there and the needle stands still, or it stands still after a few.
    private async Task<(double Pa, int Count)> FollowAsync(ShopPerson who, TakeWanted wanted, InstrumentLine line, int compressions, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        var (began, moved, renewed) = (clock.GetTimestamp(), clock.GetTimestamp(), clock.GetTimestamp());
        var (last, count) = (double.NaN, 0);
        while (true)
        {
            var pa = await line.FigureAsync("MEAS:PRES?", cancel);
            count = compressions > 0 ? (int)await line.FigureAsync("FETC:COUN?", cancel) : 0;
            await tell.WriteAsync(new("needle", null, pa, count), cancel);
            if (!(Math.Abs(pa - last) < Math.Max(500, 0.002 * Math.Abs(pa))))
            {
                (last, moved) = (pa, clock.GetTimestamp());
            }
            var still = clock.GetElapsedTime(moved) > Still;
            if (still && pa > 10_000 && (compressions == 0 || count >= compressions || (count >= 3 && clock.GetElapsedTime(moved) > 3 * Still)))
            {
                return (await line.FigureAsync("FETC:PRES:PEAK?", cancel), count);
            }
            if (clock.GetElapsedTime(began) > Longest)
            {
                throw new LinkTroubleException(LinkState.TimedOut, pa > 10_000 ? "the needle never settled" : "no compression within a minute");
            }
            if (clock.GetElapsedTime(renewed) > InstrumentStore.Lease / 2)
            {
                await instruments.TakeAsync(who, wanted.Instrument, clock.GetUtcNow(), cancel);
                renewed = clock.GetTimestamp();
            }
            await Task.Delay(Between, clock, cancel);
        }
    }

    private async Task<(double Supply, double Held)> StandStillAsync(ShopPerson who, TakeWanted wanted, InstrumentLine line, bool simulate, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        if (simulate)
        {
            await line.DoAsync(string.Create(CultureInfo.InvariantCulture, $"SIM:CYL {wanted.Cylinder};AIR ON"), cancel);
        }
        try
        {
            return await SettledAsync(who, wanted, line, tell, cancel);
        }
        finally
        {
            // Also where it was stopped meanwhile: an engine that stands under air is not cranked afterwards.
            if (simulate)
            {
                await line.TellAsync("SIM:AIR OFF", CancellationToken.None);
            }
        }
    }

    private async Task<(double Supply, double Held)> SettledAsync(ShopPerson who, TakeWanted wanted, InstrumentLine line, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        var (began, moved) = (clock.GetTimestamp(), clock.GetTimestamp());
        var (lastSupply, lastHeld) = (0.0, 0.0);
        while (true)
        {
            var (supply, held) = (await line.FigureAsync("MEAS:PRES:SUPP?", cancel), await line.FigureAsync("MEAS:PRES:HELD?", cancel));
            await tell.WriteAsync(new("needle", null, held), cancel);
            if (Math.Abs(supply - lastSupply) + Math.Abs(held - lastHeld) > 2000)
            {
                (lastSupply, lastHeld, moved) = (supply, held, clock.GetTimestamp());
            }
            if (supply > 50_000 && clock.GetElapsedTime(moved) > Still)
            {
                return (supply, held);
            }
            if (clock.GetElapsedTime(began) > Longest)
            {
                throw new LinkTroubleException(LinkState.TimedOut, supply > 50_000 ? "the gauges never settled" : "no supply within a minute");
            }
            await instruments.TakeAsync(who, wanted.Instrument, clock.GetUtcNow(), cancel);
            await Task.Delay(Between, clock, cancel);
        }
    }

    private async Task<(string Says, string? Go)> RecordAsync(ShopPerson who, TakeWanted wanted, Workspace found, KeptInstrument instrument, InstrumentLine line, bool simulate, ChannelWriter<TakeEvent> tell, CancellationToken cancel)
    {
        await line.DoAsync(string.Create(CultureInfo.InvariantCulture, $"ACQ:RATE {RecordHz:0}"), cancel);
        await line.DoAsync("ACQ:STAR", cancel);
        await tell.WriteAsync(new("ready", "Recording for seven seconds: crank now, four seconds at least."), cancel);
        if (simulate)
        {
            await Task.Delay(TimeSpan.FromMilliseconds(500), clock, cancel);
            await line.DoAsync("SIM:CRAN", cancel);
        }
        for (var s = 6; s >= 0; s--)
        {
            await Task.Delay(TimeSpan.FromSeconds(1), clock, cancel);
            await tell.WriteAsync(new("ready", s > 0 ? $"Recording: {s} s more." : "Fetching the trace."), cancel);
            await instruments.TakeAsync(who, wanted.Instrument, clock.GetUtcNow(), cancel);
        }
        await line.DoAsync("ACQ:STOP", cancel);
        var (amps, volts) = (await line.BlockAsync("TRAC:CURR?", cancel), await line.BlockAsync("TRAC:SYNC?", cancel));
        if (amps.Length < 100 || volts.Length != amps.Length)
        {
            throw new LinkTroubleException(LinkState.Garbage, "a trace that is none");
        }
        var text = new StringBuilder("Time (s),Current (A),Sync (V)\n", 32 * amps.Length);
        for (var i = 0; i < amps.Length; i++)
        {
            text.Append(CultureInfo.InvariantCulture, $"{i / RecordHz:0.00000},{amps[i]:0.00},{volts[i]:0.000}\n");
        }
        var file = Encoding.UTF8.GetBytes(text.ToString());
        var engine = found.Job.Record.Engine;
        var name = string.Create(CultureInfo.InvariantCulture, $"{instrument.Name} {clock.GetUtcNow():yyyyMMdd-HHmmss}.csv");
        if (await captures.KeepAsync(who, wanted.Job, name, null, new MemoryStream(file), wanted.Key, clock.GetUtcNow(), cancel) is not { } id)
        {
            return ("This job is not there any more.", null);
        }
        var inspection = await CaptureFile.InspectAsync(new MemoryStream(file), cancel: cancel);
        var form = CaptureForm.Of(inspection, inspection.Layout, null, engine, null);
        form.Sync = RecordWords.Of(SyncKind.EveryCycle);
        var fields = new TypedFields();
        var (layout, question) = form.Read(inspection, engine, CaptureQuestion.LimitOf(found.Job.Record.JudgeBy), fields);
        var page = string.Create(CultureInfo.InvariantCulture, $"/jobs/{wanted.Job}/relative-compression?capture={id}");
        if (fields.Problems.Count == 0)
        {
            await captures.AnswerAsync(who, wanted.Job, id, await captureDesk.JudgeAsync(new MemoryStream(file), inspection.Shape, layout, question, cancel), null, clock.GetUtcNow(), cancel);
        }
        return ("The capture is kept.", page);
    }
}
