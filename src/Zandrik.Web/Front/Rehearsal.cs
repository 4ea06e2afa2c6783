using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>
/// After a start the first judgements cost ten times and more what they cost later, because their code is not compiled yet. The server goes through a made-up job a few times by itself, so that
/// nobody at an engine waits for that. Once in a process; nothing of it is kept.
/// </summary>
public sealed class Rehearsal : BackgroundService
{
    // The runtime compiles for speed what was called thirty times, a tenth of a second after it is quiet.
    private const int Rounds = 40;

    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(20);

    private static int begun;

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
        for (var round = 0; round < Rounds && !stoppingToken.IsCancellationRequested; round++)
        {
            EngineDiagnosis.Of(Job);
            await Task.Delay(Pause, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private static double Psi(int cylinder) => cylinder == 3 ? 131 : 188 + cylinder % 4;

    private static IEnumerable<T> Each<T>(Func<int, T> of) => Enumerable.Range(1, 8).Select(of);
}
