using Zandrik.Core.Assessment;
using Zandrik.Core.Checks;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Readings;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Life;

/// <summary>One test of an engine as its life sees it: one figure a cylinder and what makes it comparable, or the sentence of a small check.</summary>
public sealed record LifeTest
{
    /// <summary>The row it is kept in.</summary>
    public required long Id { get; init; }

    /// <summary>The job.</summary>
    public required int Job { get; init; }

    /// <summary>What kind of test.</summary>
    public required TestKind Kind { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>The step at which such a test is done.</summary>
    public StepKind Step { get; init; }

    /// <summary>Who did it; absent where nobody said.</summary>
    public string? By { get; init; }

    /// <summary>What the shop calls the gauge; absent where nobody said.</summary>
    public string? Gauge { get; init; }

    /// <summary>True where the gauge was checked against a reference: its figures are by that check, or it was found right; then it has no offset of its own.</summary>
    public bool IsByCheck { get; init; }

    /// <summary>Warm or cold; absent where nobody said.</summary>
    public EngineTemperature? Temperature { get; init; }

    /// <summary>Compression: Pa gauge, by the gauge's check and at sea level where those are known. Running: Pa gauge at idle. Leak-down: what is lost, percent. Relative: percent of the best cylinder. Empty for a small check.</summary>
    public required IReadOnlyDictionary<int, double> Values { get; init; }

    /// <summary>What a small check says; absent for a test of cylinders.</summary>
    public string? Says { get; init; }

    /// <summary>Why the trend leaves it out; absent where it takes it.</summary>
    public string? LeftOut { get; init; }

    /// <summary>True for a pressure, false for percent and for a small check.</summary>
    public bool IsPressure => Kind is TestKind.Dry or TestKind.Wet or TestKind.Running;

    /// <summary>True where two such tests can be held side by side.</summary>
    public bool IsCompared => Kind is TestKind.Dry or TestKind.Wet or TestKind.LeakDown;

    /// <summary>The lowest pressure or share, or the largest loss, with its cylinder; absent where nothing was read, and for running readings, where high and low both mean something.</summary>
    public (int Cylinder, double Value)? Worst => Values.Count == 0 || Kind == TestKind.Running ? null : Kind != TestKind.LeakDown ? Values.Select(v => (v.Key, v.Value)).MinBy(v => v.Value) : Values.Select(v => (v.Key, v.Value)).MaxBy(v => v.Value);

    /// <summary>A test of a record.</summary>
    /// <param name="id">The row it is kept in.</param>
    /// <param name="job">The job.</param>
    /// <param name="opened">When the job was opened: for a test that says no time.</param>
    /// <param name="test">The test.</param>
    /// <param name="engine">The engine, as the job knows it.</param>
    /// <returns>The test; absent for one that says nothing, and for plugs, which are looked at one by one.</returns>
    public static LifeTest? Of(long id, int job, DateTimeOffset opened, TestEntry test, EngineSheet engine)
    {
        var values = new Dictionary<int, double>();
        var (leftOut, says) = (default(string), default(string));
        var (byCheck, gauge, temperature) = (false, test.Tester?.Label, test.Conditions?.EngineTemperature);
        switch (test)
        {
            case DryCompressionTest dry:
                var readings = DryReading.Of(dry, engine);
                foreach (var reading in readings)
                {
                    values[reading.Cylinder] = reading.PressurePa;
                }
                if (readings.Count > 0)
                {
                    byCheck = IsChecked(test.Tester ?? dry.Readings!.Select(r => r.Tester).FirstOrDefault(t => t is not null));
                    gauge ??= readings[0].TesterLabel;
                    temperature ??= readings[0].Conditions.EngineTemperature;
                    leftOut = dry.Role is not null ? "a gauge check"
                        : readings.Any(r => r.Conditions.Throttle == ThrottlePlate.Closed) ? "throttle shut"
                        : readings.Any(r => r.IsOverOil) ? "over oil"
                        : readings.Any(r => r.PressurePa > JudgingRules.For(engine).HighestPossiblePa) ? "a figure no engine reads"
                        : readings.Any(r => r.Conditions.Battery == BatteryState.Weak) ? "weak battery" : null;
                }
                break;
            case WetCompressionTest wet:
                // Judged as a dry one is, so that both stand in the same figures.
                foreach (var reading in DryReading.Of(new DryCompressionTest { Unit = wet.Unit, Tester = wet.Tester, Conditions = wet.Conditions, Readings = wet.Readings }, engine))
                {
                    values[reading.Cylinder] = reading.PressurePa;
                }
                byCheck = IsChecked(test.Tester);
                leftOut = "with oil";
                break;
            case LeakDownTest leak:
                foreach (var reading in leak.Readings ?? [])
                {
                    if (reading is { SupersededBy: null, NotUsed: null } && LeakDownEntry.LostPercent(reading, leak) is { } lost)
                    {
                        values[reading.Cylinder] = lost;
                    }
                }
                leftOut = "a leak-down";
                break;
            case RunningCompressionTest running:
                foreach (var reading in running.Readings ?? [])
                {
                    if (reading is { SupersededBy: null, Idle: { } idle })
                    {
                        values[reading.Cylinder] = new GaugePressure(idle, RecordRules.UnitOf(running.Unit, engine)).Pascals;
                    }
                }
                leftOut = "running";
                break;
            case RelativeCompressionTest relative:
                foreach (var reading in relative.Readings ?? [])
                {
                    if (reading is { SupersededBy: null, RelativePercent: { } percent })
                    {
                        values[reading.Cylinder] = percent;
                    }
                }
                leftOut = "against the best cylinder";
                break;
            default:
                says = CheckFinding.Of(test, engine)?.Says;
                leftOut = "a small check";
                break;
        }
        return values.Count == 0 && says is null ? null : new LifeTest
        {
            Id = id, Job = job, Kind = test.Kind, Step = StepProgress.KindOf(test), Says = says, At = test.At ?? opened, By = test.By, Gauge = gauge, IsByCheck = byCheck, Temperature = temperature, Values = values, LeftOut = leftOut,
        };

        static bool IsChecked(Tester? tester) => tester is { LastChecked: not null } || GaugeCorrection.Of(tester) is not null;
    }
}

/// <summary>Work that was done on an engine.</summary>
/// <param name="Job">The job it was done on.</param>
/// <param name="At">When.</param>
/// <param name="What">What was done, in words.</param>
/// <param name="Cylinders">The cylinders it touched; empty for all.</param>
public sealed record LifeRepair(int Job, DateTimeOffset At, string What, IReadOnlyList<int> Cylinders)
{
    /// <summary>True where it touched a cylinder.</summary>
    /// <returns>True for every cylinder where it touched all.</returns>
    public bool Touches(int cylinder) => Cylinders.Count == 0 || Cylinders.Contains(cylinder);
}
