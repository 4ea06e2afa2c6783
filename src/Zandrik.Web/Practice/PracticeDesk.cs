using System.Globalization;
using Zandrik.Core.Checks;
using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Running;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Practice;

/// <summary>
/// What is done at the practice bench: each act is simulated with the engine as it really stands, kept the way a reading of
/// work is kept, and noted with its minutes. What would hurt somebody is refused by the guards of work, and counted.
/// </summary>
public sealed class PracticeDesk(PracticeStore runs, WorkspaceStore workspaces, DryTestStore dry, StepStore steps, CaptureStore captures, CaptureDesk captureDesk, ReadingDesk readings, TimeProvider clock)
{
    /// <summary>What the readings of the bench are said to come from.</summary>
    public const string Instrument = "Practice bench";

    /// <summary>How a run stands; absent where there is none.</summary>
    public async Task<PracticeNow?> FindAsync(ShopPerson who, int number, CancellationToken cancel) =>
        await runs.FindAsync(who, number, cancel) is { } run && PracticeCases.Find(run.Case) is { } exercise && await workspaces.FindAsync(who with { Purpose = JobPurpose.Practice }, number, null, cancel) is { } workspace
            ? new PracticeNow(run, exercise, workspace, await runs.ActsAsync(who, number, cancel)) : null;

    /// <summary>Notes that a guard refused something that would have hurt somebody.</summary>
    public Task HazardAsync(ShopPerson who, int number, string why, CancellationToken cancel) => runs.NoteAsync(who, number, new(PracticeAct.Hazard, null, why), Guid.NewGuid(), clock.GetUtcNow(), cancel);

    /// <summary>Does something.</summary>
    /// <param name="who">The trainee.</param>
    /// <param name="number">The job of the run.</param>
    /// <param name="wanted">What.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task<PracticeAnswer> DoAsync(ShopPerson who, int number, PracticeWanted wanted, CancellationToken cancel)
    {
        if (await FindAsync(who, number, cancel) is not { } now)
        {
            return PracticeAnswer.Missing;
        }
        if (now.Run.Result is not null)
        {
            return PracticeAnswer.Refuse("This exercise was called: what was hidden is shown, and nothing more is measured.");
        }
        var engine = now.Exercise.Intake.Engine;
        if (wanted.Cylinder is { } c && (c < 1 || c > engine.Cylinders))
        {
            return PracticeAnswer.Refuse($"This engine has {engine.Cylinders} cylinders.");
        }
        var at = new At(who, number, now, wanted.Cylinder ?? 1, wanted.Key, clock.GetUtcNow(), cancel);
        return wanted.Act switch
        {
            "dry" => await CrankAsync(at, wanted, wet: false),
            "wet" => await CrankAsync(at, wanted, wet: true),
            "look-over" => await NoteAsync(at, new(PracticeAct.LookOver, null, PracticeBench.LookOver(now.Exercise, now.Stand))),
            "second-gauge" => now.Stand.SecondGauge ? PracticeAnswer.Refuse("The second gauge is in use already.") : await NoteAsync(at, new(PracticeAct.SecondGauge, null, "The second gauge is on. Read every cylinder with it: figures of two gauges are not mixed.")),
            "feel" => await FeelAsync(at),
            "turn-round" => await TurnRoundAsync(at),
            "leak-down" => await LeakAsync(at),
            "listen" => await ListenAsync(at, wanted.Place),
            "idle" => await RunAsync(at, snap: false),
            "snap" => await RunAsync(at, snap: true),
            "record" => await RecordAsync(at),
            "check" => await CheckAsync(at, wanted.Check),
            _ => PracticeAnswer.Missing,
        };
    }

    private sealed record At(ShopPerson Who, int Number, PracticeNow Now, int Cylinder, Guid Key, DateTimeOffset Time, CancellationToken Cancel)
    {
        public PracticeCase Exercise => Now.Exercise;

        public PracticeStand Stand => Now.Stand;

        public JobState State => Now.Workspace.JobState;

        public PressureUnit Unit => Now.Workspace.Job.Unit;

        public string Page(string step) => string.Create(CultureInfo.InvariantCulture, $"/jobs/{Number}/{step}");
    }

    private async Task<PracticeAnswer> HazardAsync(At at, string why)
    {
        await runs.NoteAsync(at.Who, at.Number, new(PracticeAct.Hazard, at.Cylinder, why), at.Key, at.Time, at.Cancel);
        return PracticeAnswer.Refuse("Refused, and counted: " + why);
    }

    private async Task<PracticeAnswer> NoteAsync(At at, PracticeDone done) =>
        await runs.NoteAsync(at.Who, at.Number, done, at.Key, at.Time, at.Cancel) is { Refused: { } why } ? PracticeAnswer.Refuse(why) : new(done.Says ?? "Done.");

    private async Task<PracticeAnswer> CrankAsync(At at, PracticeWanted wanted, bool wet)
    {
        if ((at.State.Safety.ForbidsCranking ?? at.Stand.RefusesCranking ?? (wet ? at.State.Oil.RefusesReading(at.Cylinder) : null)) is { } why)
        {
            return await HazardAsync(at, why);
        }
        if (wanted.Compressions is < 1 or > 40)
        {
            return PracticeAnswer.Refuse("Crank for 1 to 40 compressions.");
        }
        var act = wet ? PracticeAct.Wet : PracticeAct.Dry;
        var record = at.Now.Workspace.Job.Record;
        var held = (record.Tests ?? []).OfType<TestEntry>().SelectMany(t => t.CylinderReadings.OfType<CompressionReading>().Select(r => (r.At, Pa: r.PressurePa(RecordRules.UnitOf(t.GaugeUnit, record.Engine)) ?? 0))).OrderBy(r => r.At).Select(r => r.Pa).LastOrDefault();
        var read = PracticeBench.Crank(at.Exercise, at.Stand, at.Cylinder, wanted.Compressions ?? PracticeBench.UsualCompressions, at.Now.Count(act, at.Cylinder), at.State.Oil.Ml(at.Cylinder), held);
        var pressure = GaugePressure.ReadOff(read.FinalPa, at.Unit);
        var source = new ReadingSource(Instrument, read.Trace.Pack());
        var refused = wet ? (await readings.WetAsync(at.Who, at.Number, at.Cylinder, pressure, correct: false, at.Key, at.Time, source, at.Cancel)).Refused
            : (await dry.EnterAsync(at.Who, at.Number, null, new PadEntry(at.Cylinder, at.Now.Count(PracticeAct.Dry, at.Cylinder) > 0 ? PadEntryKind.Repeat : PadEntryKind.Reading, pressure)
            {
                Details = new ReadingDetails { Pulses = read.PulsesPa.Count, Seconds = Math.Round(read.Seconds, 1), PumpUp = [.. read.PulsesPa.Select(p => GaugePressure.ReadOff(p, at.Unit))] },
            }, at.Key, at.Time, null, source, at.Cancel)).Refused;
        if (refused is not null)
        {
            return PracticeAnswer.Refuse(refused);
        }
        await NoteAsync(at, new(act, at.Cylinder));
        var measured = at.Now.Done.Where(d => d.Act == act).Select(d => d.Cylinder).Append(at.Cylinder).ToHashSet();
        var next = wet ? null : Enumerable.Range(1, at.Exercise.Cylinders).Select(c => (int?)c).FirstOrDefault(c => !measured.Contains(c));
        return new($"Cylinder {at.Cylinder}: {pressure.Text(at.Unit)} {at.Unit.Symbol()} after {read.PulsesPa.Count} compressions, {read.Rpm:0} rpm.")
        {
            Gauge = read, Go = $"{at.Page(wet ? "wet" : "dry")}?cylinder={next ?? at.Cylinder}",
        };
    }

    private async Task<PracticeAnswer> FeelAsync(At at)
    {
        if (at.State.Safety.ForbidsUnderAir is { } air)
        {
            return await HazardAsync(at, air);
        }
        if (at.State.Crank.Cylinder is not { } set)
        {
            return PracticeAnswer.Refuse("First set which cylinder is at TDC.");
        }
        return at.Stand.RefusesFeeling is { } shut ? PracticeAnswer.Refuse(shut)
            : await NoteAsync(at, new(PracticeAct.FeelStroke, set, at.Now.IsOnWrongStroke
                ? $"Cylinder {set}: nothing pushes at the plug hole on the way up to the mark. That is the exhaust stroke: turn the crank once round, then it is compression."
                : $"Cylinder {set}: pressure pushes your finger off the plug hole on the way up to the mark. That is the compression stroke."));
    }

    private async Task<PracticeAnswer> TurnRoundAsync(At at)
    {
        var crank = at.State.Crank;
        if (crank.Cylinder is not { } set)
        {
            return PracticeAnswer.Refuse("First set which cylinder is at TDC.");
        }
        return crank.Refuses(new CrankEvent(CrankGuard.Turned, set.ToString(CultureInfo.InvariantCulture), true)) is { } why ? await HazardAsync(at, why)
            : await NoteAsync(at, new(PracticeAct.TurnRound, set, "Turned once round, by hand, in its direction. It stands at the same mark, on the other stroke."));
    }

    private async Task<PracticeAnswer> LeakAsync(At at)
    {
        if (at.State.Crank.RefusesReading(at.Cylinder) is { } why)
        {
            return PracticeAnswer.Refuse(why);
        }
        var leak = LeakOf(at, at.Now.Count(PracticeAct.LeakDown));
        var (supply, held) = (GaugePressure.ReadOff(leak.SupplyPa, at.Unit), GaugePressure.ReadOff(leak.HeldPa, at.Unit));
        var answer = await readings.LeakDownAsync(at.Who, at.Number, at.Cylinder, new LeakFigures(supply.Value, held.Value, null, at.Unit), correct: false, at.Key, at.Time, new ReadingSource(Instrument, default), at.Cancel);
        if (answer.Refused is { } refused)
        {
            return PracticeAnswer.Refuse(refused);
        }
        await NoteAsync(at, new(PracticeAct.LeakDown, at.Cylinder));
        return new($"Cylinder {at.Cylinder}: {supply.Text(at.Unit)} in, {held.Text(at.Unit)} {at.Unit.Symbol()} held. Now listen at every place.");
    }

    private static PracticeLeak LeakOf(At at, int attempt) =>
        PracticeBench.LeakDown(at.Exercise, at.Stand, at.Cylinder, attempt, at.Now.IsOnWrongStroke, at.State.Oil.Ml(at.Cylinder));

    private async Task<PracticeAnswer> ListenAsync(At at, string? where)
    {
        var parts = (where ?? "").Split(':');
        if (!RecordWords.TryParse<ListeningPlace>(parts[0], out var place) || place == ListeningPlace.Nowhere)
        {
            return PracticeAnswer.Missing;
        }
        int? hole = parts.Length == 2 && int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var c) ? c : null;
        if (at.State.Crank.RefusesReading(at.Cylinder) is { } why)
        {
            return PracticeAnswer.Refuse("Nothing can be heard without air. " + why);
        }
        var sound = PracticeBench.Listen(at.Exercise, at.Stand, at.Cylinder, LeakOf(at, Math.Max(0, at.Now.Count(PracticeAct.LeakDown) - 1)), place, hole, [.. ReadingDesk.NotOpened(at.State)]);
        var answer = await readings.ListenAsync(at.Who, at.Number, at.Cylinder, (before, _) => LeakDownEntry.Heard(before, place, hole, sound.Strength), at.Key, at.Time, at.Cancel);
        return answer.Refused is { } refused ? PracticeAnswer.Refuse(refused) : new($"{char.ToUpperInvariant(Name(place, hole)[0])}{Name(place, hole)[1..]}: {char.ToLowerInvariant(sound.Says[0])}{sound.Says[1..]}") { Sound = sound };
    }

    private static string Name(ListeningPlace place, int? hole) => new AirPlace(place, HeardStrength.Clear, hole).Name;

    private async Task<PracticeAnswer> RunAsync(At at, bool snap)
    {
        var record = at.Now.Workspace.Job.Record;
        if (RunningRules.Forbids(record) is { } never)
        {
            return PracticeAnswer.Refuse(never);
        }
        var safe = at.State.Ticked(StepStore.Running);
        var missing = RunningLine.All.FirstOrDefault(l => !safe.ContainsKey(l.ItemOf(at.Cylinder)))?.Says;
        if ((at.State.Safety.ForbidsStart ?? (missing is null ? null : $"The engine is not started yet. First: {char.ToLowerInvariant(missing[0])}{missing[1..]}.")) is { } why)
        {
            return await HazardAsync(at, why);
        }
        var pa = PracticeBench.Running(at.Exercise, at.Stand, at.Cylinder, at.Now.Count(PracticeAct.Running, at.Cylinder), snap);
        var pressure = GaugePressure.ReadOff(pa, at.Unit);
        var answer = await readings.RunningAsync(at.Who, at.Number, at.Cylinder, pressure, snap ? RunningEntry.Snap : (before, value) => (RunningEntry.Idle(before, value), null), at.Key, at.Time, new ReadingSource(Instrument, default), at.Cancel);
        if (answer.Refused is { } refused)
        {
            return PracticeAnswer.Refuse(refused);
        }
        await NoteAsync(at, new(PracticeAct.Running, at.Cylinder));
        return new($"Cylinder {at.Cylinder}, {(snap ? "snap" : "idle")}: {pressure.Text(at.Unit)} {at.Unit.Symbol()}.");
    }

    private async Task<PracticeAnswer> RecordAsync(At at)
    {
        if ((at.State.Safety.ForbidsCranking ?? at.Stand.RefusesCranking) is { } why)
        {
            return await HazardAsync(at, why);
        }
        if (at.Stand.RefusesRecording is { } humps)
        {
            return PracticeAnswer.Refuse(humps);
        }
        var engine = at.Exercise.Intake.Engine;
        var file = PracticeBench.Capture(at.Exercise, at.Stand);
        var name = string.Create(CultureInfo.InvariantCulture, $"practice-{at.Now.Run.Place}-{at.Now.Count(PracticeAct.Relative) + 1}.csv");
        if (await captures.KeepAsync(at.Who, at.Number, name, null, new MemoryStream(file), at.Key, at.Time, at.Cancel) is not { } id)
        {
            return PracticeAnswer.Missing;
        }
        var found = await CaptureFile.InspectAsync(new MemoryStream(file), cancel: at.Cancel);
        var form = CaptureForm.Of(found, found.Layout, null, engine, 1);
        form.Sync = RecordWords.Of(SyncKind.EveryCycle);
        var (layout, question) = form.Read(found, engine, CaptureQuestion.UsualLimitPercent, new TypedFields());
        await captures.AnswerAsync(at.Who, at.Number, id, await captureDesk.JudgeAsync(new MemoryStream(file), found.Shape, layout, question, at.Cancel), null, at.Time, at.Cancel);
        await NoteAsync(at, new(PracticeAct.Relative));
        return new("Cranked for four seconds; the capture is kept and judged.") { Go = at.Page("relative-compression") };
    }

    private async Task<PracticeAnswer> CheckAsync(At at, string? word)
    {
        if (!RecordWords.TryParse<StepKind>(word, out var kind) || PracticeBench.Check(at.Exercise, kind) is not { } test)
        {
            return PracticeAnswer.Refuse("This check is not on the practice bench.");
        }
        if (SupportingCheck.Locked(kind, at.State.Safety) is { } why)
        {
            return await HazardAsync(at, why);
        }
        var before = (at.Now.Workspace.Job.Record.Tests ?? []).Zip(at.Now.Workspace.Job.TestIds).Where(t => SupportingCheck.KindOf(t.First) == kind).Select(t => (long?)t.Second).LastOrDefault();
        if ((await steps.AddTestAsync(at.Who, at.Number, test, before, at.Key, at.Time, s => SupportingCheck.Locked(kind, s.Safety), at.Cancel)).Refused is { } refused)
        {
            return PracticeAnswer.Refuse(refused);
        }
        await NoteAsync(at, new(PracticeAct.Check, null, null, word));
        return new($"{SupportingCheck.Of(kind)!.Name}: {CheckFinding.Of(test, engine: at.Exercise.Intake.Engine)?.Says ?? "done."}");
    }
}

/// <summary>What a trainee wants to do.</summary>
/// <param name="Act">Its word.</param>
/// <param name="Cylinder">The cylinder.</param>
/// <param name="Compressions">How many compressions.</param>
/// <param name="Place">Where to listen.</param>
/// <param name="Check">Which small check.</param>
/// <param name="Key">Made once for each act.</param>
public sealed record PracticeWanted(string Act, int? Cylinder, int? Compressions, string? Place, string? Check, Guid Key);
