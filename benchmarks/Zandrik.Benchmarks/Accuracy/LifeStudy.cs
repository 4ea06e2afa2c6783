using System.Globalization;
using System.Text;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;

namespace Zandrik.Benchmarks.Accuracy;

/// <summary>Lives of engines drawn by lot, their tests read as a workshop would, and the forecast held against what truly came. In the world of the trend, and in worlds that differ from what it believes.</summary>
internal static class LifeStudy
{
    private const double Psi = 6894.757293168361, MinimumPa = 120 * Psi;

    private static readonly EngineSheet Six = new() { Cylinders = 6, Spec = new EngineSpec { Unit = Core.Units.PressureUnit.Psi, Minimum = 120 } };

    /// <summary>A world.</summary>
    /// <param name="Name">What it is like.</param>
    /// <param name="Fall">Mean fall in 1000 km, share.</param>
    /// <param name="Spread">Standard deviation of it between cylinders.</param>
    /// <param name="Together">Standard deviation that an engine's cylinders share.</param>
    /// <param name="Day">What a day does.</param>
    /// <param name="Reading">What a reading repeats to.</param>
    /// <param name="Faster">How much faster wear gets in 100 000 km, share of itself.</param>
    /// <param name="Slips">Share of odometers nobody noted.</param>
    private sealed record World(string Name, double Fall, double Spread, double Together, double Day, double Reading, double Faster, double Slips);

    private static readonly World[] Worlds =
    [
        new("as the trend believes", 0.001, 0.0015, 0, WearTrend.DaySpread, WearTrend.ReadingSpread, 0, 0),
        new("wear twice as fast, cylinders alike", 0.002, 0.0004, 0.0008, WearTrend.DaySpread, WearTrend.ReadingSpread, 0, 0),
        new("days twice as rough, readings half again", 0.001, 0.0015, 0, 2 * WearTrend.DaySpread, 1.5 * WearTrend.ReadingSpread, 0, 0),
        new("wear gets faster, a half in 100 000 km", 0.001, 0.0010, 0.0004, WearTrend.DaySpread, WearTrend.ReadingSpread, 0.5, 0),
        new("every third odometer not noted", 0.001, 0.0015, 0, WearTrend.DaySpread, WearTrend.ReadingSpread, 0, 1.0 / 3),
    ];

    internal static void Run(int lives, int seed, string page)
    {
        var text = new StringBuilder($"""
            # Forecasts held against drawn lives

            Made by `benchmarks/lives-accuracy {lives.ToString(CultureInfo.InvariantCulture)} {seed.ToString(CultureInfo.InvariantCulture)}`: six cylinders, a test every year or two (two to six of them) with one of two gauges that nobody checked, the true distance at which the lowest
            meets the minimum beside the forecast ([engine-life.md](engine-life.md)). *Inside*: the truth lies in the interval of four fifths (wanted 75 to 85 %); where many truths are one figure (under already, never)
            its place in the distribution is drawn by lot. *Under, called*: how often an engine that was said to be under with 5 to 15 % was under. *Late*: retests by the forecast's 10 % that came after the minimum was met (10 wanted).

            | world | tests | lives | inside | median off, of those within 5 years | under, called 5–15 % | late |
            | --- | --- | --- | --- | --- | --- | --- |

            """.ReplaceLineEndings("\n"));
        foreach (var world in Worlds)
        {
            foreach (var tests in new[] { 2, 3, 6 })
            {
                text.Append(Line(world, tests, lives, seed));
            }
        }
        File.WriteAllText(page, text.ToString());
        Console.WriteLine(text);
    }

    private static string Line(World world, int tests, int lives, int seed)
    {
        var (inside, called, under, late, due) = (0, 0, 0, 0, 0);
        var off = new List<double>();
        for (var l = 0; l < lives; l++)
        {
            var draw = new SeededDraw(seed * 1_000_003 + l * 31 + tests);
            var (life, meets) = Drawn(world, tests, draw);
            if (life.Forecast is not { } forecast)
            {
                continue;
            }
            var place = meets switch
            {
                0 => draw.Even(0, forecast.Under(0)),
                double.PositiveInfinity => draw.Even(forecast.Under(double.MaxValue), 1),
                var at => forecast.Under(at),
            };
            inside += place is >= 0.1 and <= 0.9 ? 1 : 0;
            if (forecast.Under(0) is > 0.05 and < 0.15)
            {
                called++;
                under += meets == 0 ? 1 : 0;
            }
            if (meets > 0 && forecast.Until(0.1) is > 0 and var soon)
            {
                due++;
                late += meets < soon ? 1 : 0;
            }
            if (meets is > 0 and < 100_000 && forecast.Until(0.5) is { } median)
            {
                off.Add(Math.Abs(median - meets) / meets);
            }
        }
        off.Sort();
        return string.Create(CultureInfo.InvariantCulture, $"| {world.Name} | {tests} | {lives} | {100.0 * inside / lives:0} % | {(off.Count == 0 ? double.NaN : 100 * off[off.Count / 2]):0} % | {(called == 0 ? double.NaN : 100.0 * under / called):0} % of {called} | {(due == 0 ? double.NaN : 100.0 * late / due):0} % |\n");
    }

    private static (EngineLife Life, double Meets) Drawn(World world, int tests, SeededDraw draw)
    {
        const int Cylinders = 6;
        var start = new DateTimeOffset(2015, 3, 1, 9, 0, 0, TimeSpan.Zero);
        var level = Math.Log(150 * Psi) + 0.06 * draw.Normal();
        var together = world.Together * draw.Normal();
        var levels = Enumerable.Range(0, Cylinders).Select(_ => level + 0.02 * draw.Normal()).ToArray();
        var falls = Enumerable.Range(0, Cylinders).Select(_ => world.Fall + together + world.Spread * draw.Normal()).ToArray();
        var gauges = new[] { WearTrend.GaugeSpread * draw.Normal(), WearTrend.GaugeSpread * draw.Normal() };
        double Ln(int c, double km) => levels[c] - falls[c] * (km / 1000) * (1 + world.Faster * km / 200_000);
        var (km, day) = (0.0, 0.0);
        var (visits, read) = (new List<Visit>(), new List<LifeTest>());
        for (var t = 0; t < tests; t++)
        {
            var at = start.AddDays(day);
            visits.Add(new(t + 1, at, 1, draw.Even() < world.Slips ? null : new Odometer { Value = Math.Round(40_000 + km), Unit = DistanceUnit.Km }));
            var (gauge, today) = (draw.Even() < 0.5 ? 0 : 1, world.Day * draw.Normal());
            read.Add(new LifeTest
            {
                Id = t + 1, Job = t + 1, Kind = TestKind.Dry, At = at, Gauge = gauge == 0 ? "one gauge" : "another", Temperature = EngineTemperature.Warm,
                Values = Enumerable.Range(0, Cylinders).ToDictionary(c => c + 1, c => Math.Round(Math.Exp(Ln(c, km) + gauges[gauge] + today + world.Reading * draw.Normal()) / Psi) * Psi),
            });
            if (t < tests - 1)
            {
                var days = draw.Even(300, 800);
                (day, km) = (day + days, km + days * draw.Even(30, 60));
            }
        }
        var meets = double.PositiveInfinity;
        for (var c = 0; c < Cylinders; c++)
        {
            // Found by going ahead a hundred kilometres at a time: wear need not be a straight line.
            for (var ahead = 0.0; ahead < 2_000_000 && ahead < meets; ahead += 100)
            {
                if (Ln(c, km + ahead) <= Math.Log(MinimumPa))
                {
                    meets = ahead;
                    break;
                }
            }
        }
        return (EngineLife.Of(Six, visits, read, []), meets);
    }
}
