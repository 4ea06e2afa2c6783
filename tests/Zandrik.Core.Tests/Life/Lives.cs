using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Life;

/// <summary>Invented lives of invented engines.</summary>
internal static class Lives
{
    public const double Psi = 6894.757293168361;

    public static readonly EngineSheet Four = new() { Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Psi, Minimum = 120, Nominal = 170 } };

    public static DateTimeOffset Day(int year, int month = 1, int day = 1) => new(year, month, day, 9, 0, 0, TimeSpan.Zero);

    public static Visit Visit(int job, DateTimeOffset at, double? odometer, DistanceUnit unit = DistanceUnit.Km, int vehicle = 1, bool replaced = false) =>
        new(job, at, vehicle, odometer is { } value ? new Odometer { Value = value, Unit = unit } : null, replaced);

    public static LifeTest Dry(int job, DateTimeOffset at, string? gauge, params double[] psi) => Test(job, at, TestKind.Dry, gauge, EngineTemperature.Warm, [.. psi.Select(p => p * Psi)]);

    public static LifeTest Test(int job, DateTimeOffset at, TestKind kind, string? gauge, EngineTemperature? temperature, double[] values) => new()
    {
        Id = job * 10 + (int)kind, Job = job, Kind = kind, At = at, Gauge = gauge, Temperature = temperature, Values = values.Select((v, i) => (Cylinder: i + 1, Value: v)).ToDictionary(v => v.Cylinder, v => v.Value),
    };

    /// <summary>A life that is drawn by lot from what the trend believes, with the distance at which it truly meets the minimum, km from the last test; absent where it never does.</summary>
    public static (EngineLife Life, double? Meets) Drawn(int seed, int tests = 4, double kmBetween = 30_000, double day = WearTrend.DaySpread)
    {
        var draw = new SeededDraw(seed);
        var levels = Enumerable.Range(0, 4).Select(_ => Math.Log(165 * Psi) + 0.03 * draw.Normal()).ToArray();
        var slopes = Enumerable.Range(0, 4).Select(_ => WearTrend.UsualPerStep + WearTrend.UsualSpread * draw.Normal()).ToArray();
        var gauge = WearTrend.GaugeSpread * draw.Normal();
        var (visits, read) = (new List<Visit>(), new List<LifeTest>());
        for (var t = 0; t < tests; t++)
        {
            var (at, km) = (Day(2020).AddDays(365 * t), 50_000 + kmBetween * t);
            visits.Add(Visit(t + 1, at, km));
            var today = day * draw.Normal();
            read.Add(Dry(t + 1, at, "yard gauge", [.. levels.Select((l, i) => Math.Exp(l + slopes[i] * kmBetween * t / 1000 + gauge + today + WearTrend.ReadingSpread * draw.Normal()) / Psi)]));
        }
        var (floor, now) = (Math.Log(120 * Psi), kmBetween * (tests - 1) / 1000);
        var meets = levels.Select((l, i) => l + slopes[i] * now <= floor ? 0 : slopes[i] < 0 ? (l + slopes[i] * now - floor) / -slopes[i] * 1000 : double.PositiveInfinity).Min();
        return (EngineLife.Of(Four, visits, read, []), double.IsInfinity(meets) ? null : meets);
    }
}
