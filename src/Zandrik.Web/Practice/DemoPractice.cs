using Zandrik.Core.Compression;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Physics;
using Zandrik.Core.Practice;
using Zandrik.Core.Preparation;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;
using Zandrik.Web.Readings;

namespace Zandrik.Web.Practice;

/// <summary>The practice bench of the demo data: what the foreman set, three exercises half done and one that was called, each done through the same desk as anybody's.</summary>
public sealed class DemoPractice(ShopDatabase database, TimeProvider clock) : IDisposable
{
    private readonly PracticeStore runs = new(database);
    private readonly StepStore steps = new(database);
    private readonly WorkspaceStore workspaces = new(database);
    private readonly CaptureDesk captures = new();

    private PracticeDesk Desk => new(runs, workspaces, new DryTestStore(database), steps, new CaptureStore(database), captures, new ReadingDesk(steps), clock);

    /// <summary>Loads it where nothing was practised yet.</summary>
    /// <param name="who">The foreman.</param>
    public async Task LoadAsync(ShopPerson who)
    {
        if ((await runs.ListAsync(who, null, 1)).Count > 0)
        {
            return;
        }
        // What ./start brings along, at the ports it takes unless told otherwise.
        var instruments = new InstrumentStore(database);
        await instruments.AddAsync(who, "Simulated gauge", InstrumentKind.Gauge, "127.0.0.1:5151");
        await instruments.AddAsync(who, "Simulated leak tester", InstrumentKind.LeakDown, "127.0.0.1:5152");
        await instruments.AddAsync(who, "Simulated clamp", InstrumentKind.Recorder, "127.0.0.1:5153");
        var people = await new PeopleStore(database).ListAsync(who, clock.GetUtcNow());
        ShopPerson Person(string name) => people.FirstOrDefault(p => p.Name == name) is { } found ? who with { PersonId = found.Id, Person = found.Name, Role = found.Role } : who;
        var (hallan, skarre) = (Person("T. Hallan"), Person("B. Skarre"));
        await runs.SetAsync(who, 11, hallan.PersonId, DateOnly.FromDateTime(clock.GetUtcNow().Date).AddDays(9), "Prove the stroke before you open the air.", clock.GetUtcNow());
        await runs.SetAsync(who, 6, null, null, null, clock.GetUtcNow());

        await MeasuredAsync(who);

        // The foreman's own: everything prepared, read dry, and the crank set for the leak-down.
        var own = await BeginAsync(who, 15, [PreparationItem.Labelled]);
        await DryAsync(who, own, 4);
        await steps.DoAsync(who with { Purpose = JobPurpose.Practice }, own, StepStore.Crank, CrankGuard.Turned, "1", true, Guid.NewGuid(), clock.GetUtcNow(), _ => null);
        // A throttle that nobody opened.
        await DryAsync(hallan, await BeginAsync(hallan, 10, [PreparationItem.Throttle]), 2);
        await BeginAsync(skarre, 16, [PreparationItem.Battery, PreparationItem.Adapter, PreparationItem.GaugeAtZero]);

        var called = await BeginAsync(who, 1, []);
        await DryAsync(who, called, 4);
        var now = (await Desk.FindAsync(who, called, default))!;
        var call = new PracticeCall([new(2, Fault.Rings)], [Repair.BottomEnd]);
        var good = PracticeWay.Of(now.Exercise)!.Minutes;
        await runs.CallAsync(who, called, done =>
        {
            var minutes = PracticeClock.Minutes(now.Exercise.Cylinders, now.Prepared, done);
            return new(call, PracticeScore.Of(now.Exercise, call, minutes, good, 0), minutes, good, 0);
        }, clock.GetUtcNow());
    }

    // A job of work whose readings came from the simulated gauge, with their traces; done in spring, and closed.
    private async Task MeasuredAsync(ShopPerson who)
    {
        var engine = PracticeEngines.Petrol[1];
        var model = PracticeEngines.ModelOf(engine);
        var broken = new EngineUnderTest(model, new Dictionary<int, CylinderCondition>
        {
            [1] = new() { RingFactor = 1.3, VolumeM3 = 0.4e-6 }, [2] = new() { RingFactor = 0.9 }, [3] = SimulatedFault.Of(model, Fault.IntakeValve, 0.9), [4] = new() { RingFactor = 1.6, VolumeM3 = -0.3e-6 },
        });
        var at = new DateTimeOffset(2026, 4, 21, 9, 40, 0, TimeSpan.Zero);
        var record = new TestRecord { Vehicle = new Vehicle { Label = "Pilot dory 4", Odometer = new Odometer { Value = 88_400, Unit = DistanceUnit.Km } }, Engine = engine, Complaint = "Spits back through the intake when it is cold." };
        var job = await new JobStore(database).CreateAsync(who, record, at, PressureUnit.Psi);
        for (var c = 1; c <= engine.Cylinders; c++)
        {
            var run = GaugeRun.Of(broken, new GaugeTest { Cylinder = c, Pulses = 7, KeepCourse = true });
            var trace = new PressureTrace(0.01, [.. Enumerable.Range(0, 1 + (int)(run.Seconds * 100)).Select(i => (float)run.Course.Last(m => m.TimeS <= Math.Max(0.01 * i, run.Course[0].TimeS)).HeldPa)]);
            await new DryTestStore(database).EnterAsync(who, job, null, new PadEntry(c, PadEntryKind.Reading, GaugePressure.ReadOff(run.FinalPa, PressureUnit.Psi))
            {
                Details = new ReadingDetails { Pulses = run.PulsesPa.Count, Seconds = Math.Round(run.Seconds, 1), PumpUp = [.. run.PulsesPa.Select(p => GaugePressure.ReadOff(p, PressureUnit.Psi))] },
            }, EntryKey.Of($"demo instrument {c}"), at.AddMinutes(3 * c), null, new ReadingSource("Simulated gauge", trace.Pack()));
        }
        await new JobStore(database).CloseAsync(who, job, at.AddHours(2));
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        workspaces.Dispose();
        captures.Dispose();
    }

    private async Task<int> BeginAsync(ShopPerson who, int exercise, IReadOnlyCollection<PreparationItem> undone)
    {
        var picked = PracticeCases.Find(exercise)!;
        var number = await runs.BeginAsync(who, picked, null, clock.GetUtcNow());
        foreach (var line in PreparationList.For(picked.Intake.Engine).Where(l => !undone.Contains(l.Item)))
        {
            await steps.DoAsync(who with { Purpose = JobPurpose.Practice }, number, TickStore.Prepare, RecordWords.Of(line.Item), line.Ways.Count > 0 ? line.Ways[0].Word : null, true, Guid.NewGuid(), clock.GetUtcNow(), _ => null);
        }
        return number;
    }

    private async Task DryAsync(ShopPerson who, int number, int cylinders)
    {
        for (var c = 1; c <= cylinders; c++)
        {
            await Desk.DoAsync(who with { Purpose = JobPurpose.Practice }, number, new PracticeWanted("dry", c, null, null, null, EntryKey.Of($"demo practice {number} {c}")), default);
        }
    }
}
