using System.Text;
using System.Text.Json.Nodes;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Records;

public sealed class TestRecordJsonTests
{
    // Every field and every kind of test of the format, with unknown fields at every depth.
    private const string Whole = """
        { "format": "zandrik-test-record", "version": 1, "futureTop": { "a": [1, "x", null] },
          "vehicle": { "label": "Shore van 9", "odometer": { "value": 131200, "unit": "km" }, "colour": "green" },
          "engine": { "name": "2.0 inline four", "fuel": "petrol", "cylinders": 4, "layout": "inline", "banks": [[1, 2, 3, 4]],
            "firingOrder": [1, 3, 4, 2], "firingAngles": [0, 180, 360, 540], "rotation": "clockwise", "compressionRatio": 10.2,
            "boreMm": 84, "strokeMm": 90, "displacementCc": 1995, "throttle": "by-wire", "gearbox": "manual", "lifters": "hydraulic",
            "inclinationDeg": 0, "features": ["oil-cooler", "egr-cooler"],
            "spec": { "unit": "psi", "nominal": 205, "minimum": 150, "maxDifference": 25, "maxLeakPercent": 20, "wetAllowed": true, "page": 12 } },
          "complaint": "rough when warm", "observations": ["misfire-warm"], "ruledOut": [ { "what": "coils", "how": "swapped 2 and 4" } ],
          "tests": [
            { "kind": "compression-dry", "unit": "psi", "at": "2026-03-02T09:40:00Z", "by": "M. Ostrel",
              "tester": { "label": "Gauge 2", "checkValve": "hose-tip", "lastChecked": "2026-01-15" },
              "conditions": { "engineTemperature": "warm", "throttle": "open", "plugs": "all-out", "fuel": "off", "ignition": "off",
                "battery": "charger", "barometricKPa": 101.3, "countMode": "until-stopped", "needleAtZero": true, "oilBefore": false },
              "readings": [ { "cylinder": 1, "value": 205, "firstPulse": 108, "pulses": 7, "seconds": 4, "repeats": [203, { "value": 190, "pulses": 3, "seconds": 1.5, "struck": { "reason": "other", "says": "battery lead fell off" } }], "says": "steady", "order": 1, "batteryV": 10.9,
                "crankingRpm": 230, "pulseValues": [108, 160, 186, 198, 203, 205, 205], "smell": "fuel", "conditions": { "throttle": "closed" } } ] },
            { "unit": "psi", "oilMl": 10, "readings": [ { "cylinder": 3, "value": 171 } ], "kind": "compression-wet" },
            { "kind": "leak-down", "unit": "psi", "supply": 100, "tester": { "label": "Leak tester", "restrictionMm": 1.0 },
              "readings": [ { "cylinder": 2, "held": 55, "leakPercent": 45.5, "listened": ["intake", "exhaust"], "heard": [ { "at": "exhaust", "strength": "clear" }, { "at": "adjacent-plug-hole", "cylinder": 3, "strength": "faint" } ] } ] },
            { "kind": "compression-running", "unit": "psi", "readings": [ { "cylinder": 3, "idle": 104, "snap": 172, "purged": true } ] },
            { "kind": "relative-compression", "readings": [ { "cylinder": 3, "relativePercent": 81.5, "standardErrorPercent": 1.2 } ] },
            { "kind": "combustion-gas", "result": "negative" },
            { "kind": "plug-inspection", "readings": [ { "cylinder": 3, "signs": ["dry-soot"], "keep": true } ] },
            { "kind": "oil-pressure", "unit": "bar", "readings": [ { "rpm": 750, "oilTemperature": "hot", "value": 1.4, "minimum": 0.8 } ] },
            { "kind": "valve-clearance", "unit": "mm", "readings": [ { "cylinder": 2, "valve": "exhaust", "value": 0.12, "minimum": 0.25, "maximum": 0.35 } ] },
            { "kind": "manifold-vacuum", "unit": "kPa", "value": 62, "behaviour": "steady" },
            { "kind": "crank-sound", "result": "uneven" },
            { "kind": "oil-use", "litres": 1.2, "distance": { "value": 5000, "unit": "km" } },
            { "kind": "fluids", "findings": ["oil-in-coolant", "clean"] } ],
          "judgeBy": { "decidingSchool": "percent-of-highest", "limits": { "percent-of-highest": [10, 20], "lowest-to-highest": [90, 70] }, "leakDownSchool": "workshop", "altitudeM": 420 },
          "found": [ { "cylinder": 2, "fault": "exhaust-valve", "says": "burnt at the edge", "at": "2026-03-04T15:00:00Z" } ] }
        """;

    private static RecordReading Read(string json) => TestRecordJson.Read(Encoding.UTF8.GetBytes(json));

    private static FieldProblem OnlyProblem(string json) => Read(json).Problems.Single();

    private static string With(string engine = "\"cylinders\": 4", string more = "") =>
        $$"""{ "format": "zandrik-test-record", "version": 1, "engine": { {{engine}} }{{more}} }""";

    [Fact]
    public void Every_field_of_the_format_comes_back_as_it_went_in()
    {
        var reading = Read(Whole);
        reading.Problems.ShouldBeEmpty();
        var written = JsonNode.Parse(TestRecordJson.Write(reading.Record!))!;
        JsonNode.DeepEquals(written, JsonNode.Parse(Whole)).ShouldBeTrue(written.ToJsonString());
    }

    [Fact]
    public void The_smallest_record_is_a_number_of_cylinders()
    {
        var record = Read(With()).Record!;
        record.Engine.Cylinders.ShouldBe(4);
        JsonNode.DeepEquals(JsonNode.Parse(TestRecordJson.Write(record)), JsonNode.Parse(With())).ShouldBeTrue();
    }

    [Theory]
    [InlineData("\"cylinders\": 4, \"fuel\": \"steam\"", "", "/engine/fuel", "petrol, diesel, lpg, cng, ethanol")]
    [InlineData("\"cylinders\": \"four\"", "", "/engine/cylinders", "number")]
    [InlineData("\"cylinders\": 4.5", "", "/engine/cylinders", "whole")]
    [InlineData("\"cylinders\": 17", "", "/engine/cylinders", "1 to 16")]
    [InlineData("\"name\": \"x\"", "", "/engine/cylinders", "Missing")]
    [InlineData("\"cylinders\": 4, \"name\": \"\"", "", "/engine/name", "leave the field out")]
    [InlineData("\"cylinders\": 4, \"name\": null", "", "/engine/name", "not null")]
    [InlineData("\"cylinders\": 4, \"name\": \"a\\u0000b\"", "", "/engine/name", "characters that are no text")]
    [InlineData("\"cylinders\": 4, \"name\": \"\\ud800\"", "", "/engine/name", "characters that are no text")]
    [InlineData("\"cylinders\": 4, \"new/field\": \"\\u0000\"", "", "/engine/new~1field", "characters that are no text")]
    [InlineData("\"cylinders\": 4, \"huge\": 1e999", "", "/engine/huge", "too large")]
    [InlineData("\"cylinders\": 4, \"firingOrder\": [1, 3, 4]", "", "/engine/firingOrder", "2 is missing")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"guess\" } ]", "/tests/0/kind", "compression-dry, compression-wet, leak-down")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"at\": \"yesterday\" } ]", "/tests/0/at", "2026-03-02T09:40:00Z")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 5, \"value\": 200 } ] } ]", "/tests/0/readings/0/cylinder", "1 to 4")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 1, \"value\": -1 } ] } ]", "/tests/0/readings/0/value", "0 to 100 bar")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"unit\": \"bar\", \"readings\": [ { \"cylinder\": 1, \"value\": 205 } ] } ]", "/tests/0/readings/0/value", "in bar")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 1 }, { \"cylinder\": 1 } ] } ]", "/tests/0/readings/1/cylinder", "stands twice")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"relative-compression\", \"slots\": [ { \"slot\": 1, \"relativePercent\": 99 }, { \"slot\": 2, \"relativePercent\": 99 }, { \"slot\": 4, \"relativePercent\": 99 } ] } ]", "/tests/0/slots", "3 is missing")]
    [InlineData("\"cylinders\": 2", ", \"tests\": [ { \"kind\": \"relative-compression\", \"readings\": [ { \"cylinder\": 1 } ], \"slots\": [ { \"slot\": 1, \"relativePercent\": 99 }, { \"slot\": 2, \"relativePercent\": 99 } ] } ]", "/tests/0/slots", "Leave slots out")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"leak-down\", \"supply\": 100, \"readings\": [ { \"cylinder\": 1, \"held\": 80, \"leakPercent\": 25 } ] } ]", "/tests/0/readings/0/leakPercent", "a loss of 20 %")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"unit\": \"psi\", \"readings\": [ { \"cylinder\": 1, \"value\": 200, \"asRead\": { \"value\": 14.1, \"unit\": \"bar\" } } ] } ]", "/tests/0/readings/0/asRead", "not the same pressure")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 1, \"value\": 200, \"repeats\": [ { \"value\": 150, \"struck\": { \"reason\": \"boredom\" } } ] } ] } ]", "/tests/0/readings/0/repeats/0/struck/reason", "cranked-too-short")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 1, \"value\": 200, \"repeats\": [ \"150\" ] } ] } ]", "/tests/0/readings/0/repeats/0", "number")]
    [InlineData("\"cylinders\": 4", ", \"tests\": [ { \"kind\": \"compression-dry\", \"readings\": [ { \"cylinder\": 1, \"value\": 200, \"repeats\": [201], \"repeatsAsRead\": [] } ] } ]", "/tests/0/readings/0/repeatsAsRead", "one for one")]
    [InlineData("\"cylinders\": 4", ", \"judgeBy\": { \"limits\": { \"percent-of-highest\": [20, 10] } }", "/judgeBy/limits/percent-of-highest", "good up to")]
    [InlineData("\"cylinders\": 4", ", \"judgeBy\": { \"limits\": { \"gut-feeling\": [1, 2] } }", "/judgeBy/limits/gut-feeling", "maker-difference")]
    public void A_bad_field_is_named_by_its_pointer_and_says_what_to_do(string engine, string more, string pointer, string says)
    {
        var problem = OnlyProblem(With(engine, more));
        problem.Pointer.ShouldBe(pointer);
        problem.Says.ShouldContain(says);
    }

    [Fact]
    public void Every_problem_is_told_at_once() =>
        Read(With("\"cylinders\": 4, \"fuel\": \"steam\", \"layout\": \"ring\"")).Problems.Count.ShouldBe(2);

    [Theory]
    [InlineData("")]
    [InlineData("{ \"format\": ")]
    [InlineData("{ \"format\": \"a\", \"format\": \"b\" }")]
    public void What_is_no_document_says_so(string json) => OnlyProblem(json).Says.ShouldContain("not a whole JSON document");

    [Fact]
    public void Another_format_is_refused() =>
        OnlyProblem(With().Replace("zandrik-test-record", "other", StringComparison.Ordinal)).Pointer.ShouldBe("/format");

    [Fact]
    public void The_published_schema_is_the_one_the_code_makes()
    {
        var published = JsonNode.Parse(File.ReadAllText(Path.Combine(Repository.Root, "docs", "test-record-1.schema.json")));
        JsonNode.DeepEquals(published, TestRecordSchema.Make()).ShouldBeTrue("make it anew: save what the server answers at /schema/test-record-1.json");
    }

    [Fact]
    public void Every_kind_of_test_has_the_word_it_is_written_with_and_is_a_step()
    {
        var kinds = typeof(TestEntry).GetCustomAttributes(typeof(System.Text.Json.Serialization.JsonDerivedTypeAttribute), inherit: false).Cast<System.Text.Json.Serialization.JsonDerivedTypeAttribute>()
            .Select(d => (Word: (string)d.TypeDiscriminator!, ((TestEntry)Activator.CreateInstance(d.DerivedType)!).Kind)).ToList();
        kinds.Select(k => k.Kind).ShouldBe(Enum.GetValues<TestKind>(), ignoreOrder: true);
        kinds.ShouldAllBe(k => RecordWords.Of(k.Kind) == k.Word && Enum.GetValues<StepKind>().Any(s => RecordWords.Of(s) == k.Word));
    }

    [Fact]
    public void The_schema_knows_every_kind_of_test_and_the_closed_lists()
    {
        var tests = TestRecordSchema.Make()["properties"]!["tests"]!["items"]!["oneOf"]!.AsArray();
        tests.Select(t => (string)t!["properties"]!["kind"]!["const"]!).ShouldBe(
        [
            "compression-dry", "compression-wet", "leak-down", "compression-running", "relative-compression", "combustion-gas", "plug-inspection",
            "oil-pressure", "valve-clearance", "manifold-vacuum", "crank-sound", "oil-use", "fluids",
        ]);
        TestRecordSchema.Make()["properties"]!["engine"]!["properties"]!["spec"]!["properties"]!["unit"]!["enum"]!.ToJsonString()
            .ShouldBe("[\"psi\",\"bar\",\"kPa\",\"kgf/cm2\"]");
    }

    [Fact]
    public void Every_demo_record_is_sound()
    {
        var files = Directory.GetFiles(Path.Combine(Repository.Root, "demo", "records"), "*.json");
        files.Length.ShouldBeInRange(8, 20);
        foreach (var file in files)
        {
            TestRecordJson.Read(File.ReadAllBytes(file)).Problems.ShouldBeEmpty(file);
        }
    }

    [Fact]
    public void A_job_has_room_for_so_many_tests_and_readings_and_says_so()
    {
        static string Tests(int count, int readings) => string.Join(",", Enumerable.Repeat(
            $$"""{ "kind": "compression-dry", "unit": "psi", "readings": [{{string.Join(",", Enumerable.Repeat("""{ "cylinder": 1, "value": 150 }""", readings))}}] }""", count));
        static string Record(string tests) => $$"""{ "format": "zandrik-test-record", "version": 1, "engine": { "cylinders": 4 }, "tests": [{{tests}}] }""";
        Read(Record(Tests(RecordRules.MostTests + 1, 1))).Problems[^1].Says.ShouldContain($"up to {RecordRules.MostTests} tests; these would be {RecordRules.MostTests + 1}");
        Read(Record(Tests(200, 16))).Problems[^1].Says.ShouldContain($"up to {RecordRules.MostReadings} readings");
        RecordRules.TooMany(RecordRules.MostTests, RecordRules.MostReadings).ShouldBeNull();
    }
}
