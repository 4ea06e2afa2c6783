using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Serialization;
using Zandrik.Core.Deciding;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;
using Zandrik.Storage;

namespace Zandrik.Web.Front;

/// <summary>Demo engines with several years behind them, as demo/lives.json tells: tested, repaired, signed, decided on, sold, each through the same stores as anybody's.</summary>
public sealed class DemoLives(ShopDatabase database)
{
    private static readonly JsonSerializerOptions Reading = new(TestRecordJson.Options) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.KebabCaseLower) } };

    private readonly JobStore jobs = new(database);
    private readonly StepStore steps = new(database);

    /// <summary>Loads those that are not there yet.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="folder">The folder of the demo data.</param>
    public async Task LoadAsync(ShopPerson who, string folder)
    {
        using var lives = new LifeStore(database);
        var gauges = (await new TesterStore(database).ListAsync(who)).ToDictionary(t => t.Tester.Label, t => t.Tester.ForRecord());
        foreach (var life in JsonSerializer.Deserialize<DemoLife[]>(await File.ReadAllTextAsync(Path.Combine(folder, "lives.json")), Reading)!)
        {
            var engine = TestRecordJson.Read(await File.ReadAllBytesAsync(Path.Combine(folder, "records", life.EngineOf))).Record!.Engine with { Serial = life.Serial };
            foreach (var test in life.Tests)
            {
                var key = $"demo life {life.Vehicle} {test.At:O}";
                var number = (await jobs.CreateOnceAsync(who, key, SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(key)), life.RecordOf(test, engine, gauges), test.At)).Number;
                if ((await jobs.FindAsync(who, number))!.ClosedAt is not null)
                {
                    // Closed last: all of it is there, and what somebody changed since stays.
                    continue;
                }
                await AfterwardsAsync(who, number, test);
                if (ReferenceEquals(test, life.Tests[^1]) && life.Gone is { } gone)
                {
                    await lives.SayGoneAsync(who, (await jobs.FindAsync(who, number))!.EngineId, gone.Why, gone.At);
                }
                await jobs.CloseAsync(who, number, test.At.AddHours(3));
            }
        }
    }

    private async Task AfterwardsAsync(ShopPerson who, int number, DemoTest test)
    {
        var verdicts = new VerdictStore(database);
        if ((test.Sign || test.Choose is not null) && (await verdicts.ListAsync(who, number)).Count == 0)
        {
            await verdicts.SignAsync(who, number, new SignOff(true, null, [], VerdictStore.Fingerprint(VerdictSnapshot.Of((await steps.StateAsync(who, number))!.Assessment))), EntryKey.Of($"demo life verdict {number}"), test.At.AddHours(1));
        }
        var decisions = new DecisionStore(database);
        if (test.Choose is { } word && (await decisions.ListAsync(who, number)).Count == 0)
        {
            var best = DecisionSheet.Of((await steps.StateAsync(who, number))!.Assessment).Options.First(o => o.IsBest).Word;
            await decisions.ChooseAsync(who, number, word, best == word ? null : "The valve was loud, and the head comes off once.", 0, EntryKey.Of($"demo life decision {number}"), test.At.AddHours(2));
        }
        if (test.Done is { } done)
        {
            await new RepairStore(database).NoteAsync(who, number, new RepairDone { Option = done.Option, Cylinders = done.Cylinders, Minutes = done.Minutes, WasRight = done.WasRight, Says = done.Says }, done.At, null, EntryKey.Of($"demo life repair {number}"), done.At);
        }
    }

    private sealed record DemoLife(string Vehicle, DistanceUnit Unit, string Serial, string EngineOf, IReadOnlyList<DemoTest> Tests, PressureUnit GaugeUnit = PressureUnit.Psi, DemoGone? Gone = null)
    {
        public TestRecord RecordOf(DemoTest test, EngineSheet engine, Dictionary<string, Tester> gauges)
        {
            var isDiesel = engine.Fuel == Fuel.Diesel;
            var conditions = new TestConditions
            {
                EngineTemperature = test.Temperature, Throttle = isDiesel || engine.Throttle == ThrottleControl.None ? null : ThrottlePlate.Open, Plugs = PlugsRemoved.AllOut, Fuel = Supply.Off, Ignition = isDiesel ? null : Supply.Off,
                Battery = BatteryState.Charger, NeedleAtZero = true,
            };
            var tester = gauges.GetValueOrDefault(test.Gauge) ?? new Tester { Label = test.Gauge };
            // Nobody knew on the day of the test what a later check would find.
            tester = tester.LastChecked > DateOnly.FromDateTime(test.At.DateTime) ? new Tester { Label = tester.Label, CheckValve = tester.CheckValve } : tester;
            var tests = new List<TestEntry>
            {
                new DryCompressionTest
                {
                    At = test.At, By = "T. Hallan", Unit = GaugeUnit, Tester = tester, Conditions = conditions, Count = 7,
                    Readings = [.. test.Dry.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v, Order = i + 1 })],
                },
            };
            if (test.Leak is { } leak)
            {
                tests.Add(new LeakDownTest { At = test.At.AddMinutes(40), By = "T. Hallan", Unit = PressureUnit.Psi, Supply = 100, Tester = new Tester { Label = "Leak tester", RestrictionMm = 1 }, Readings = leak });
            }
            return new TestRecord { Vehicle = new() { Label = Vehicle, Odometer = new Odometer { Value = test.Odometer, Unit = Unit } }, Engine = engine, Complaint = test.Complaint ?? "yearly health check", Tests = tests };
        }
    }

    private sealed record DemoTest(
        DateTimeOffset At, double Odometer, string Gauge, EngineTemperature Temperature, IReadOnlyList<double> Dry, IReadOnlyList<LeakDownReading>? Leak = null, string? Complaint = null, bool Sign = false, string? Choose = null, DemoDone? Done = null);

    private sealed record DemoDone(string Option, IReadOnlyList<int> Cylinders, double Minutes, bool WasRight, string Says, DateTimeOffset At);

    private sealed record DemoGone(EngineGone Why, DateTimeOffset At);
}
