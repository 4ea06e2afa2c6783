using System.Runtime.CompilerServices;
using System.Text.Json.Nodes;
using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Deciding;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Engines;
using Zandrik.Core.Life;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Repairs;
using Zandrik.Core.Reports;
using Zandrik.Core.Shops;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage.Tests.Documents;

/// <summary>What was stored once is read for ever. The files beside this test are never changed; a new schema adds its own.</summary>
public sealed class StoredDocumentsTests
{
    private static string Golden(string name, [CallerFilePath] string here = "") => File.ReadAllText(Path.Combine(Path.GetDirectoryName(here)!, "Golden", name));

    [Theory]
    [InlineData("verdict-before-schemas.json")]
    [InlineData("verdict-1.json")]
    public void A_signed_verdict_of_every_schema_shows_what_it_showed(string name)
    {
        var read = StoredDocuments.ReadVerdict(Golden(name));
        read.Unit.ShouldBe(PressureUnit.Psi);
        read.State.ShouldBe(EngineState.Faulty);
        read.Headline.ShouldBe("Cylinder 3: almost certainly the exhaust valve.");
        read.Record.Tests!.Count.ShouldBe(2);
        read.Cylinders.Select(c => c.State).ShouldBe([CylinderState.Sound, CylinderState.Sound, CylinderState.Low, CylinderState.Sound]);
        var third = read.Cylinders[2];
        third.Says.ShouldBe("Almost certainly the exhaust valve.");
        third.Leading.Fault.ShouldBe(Fault.ExhaustValve);
        third.Leading.Probability.ShouldBe(0.98, 0.02);
        third.Leading.Evidence.Select(e => e.Test).ShouldBe([null, 0, 1, 1]);
        third.Leading.Evidence.Sum(e => e.WeightDb).ShouldBe(10 * Math.Log10(third.Leading.Probability / (1 - third.Leading.Probability)), 0.5);
        read.Suspects[0].Fault.ShouldBe(Fault.None);
        read.Shown[2].Readings.Select(r => r.Says).ShouldBe(["131 psi", "85 % lost, exhaust"]);
        read.Shown[2].Figure.ShouldBe("131");
        read.ShownIn.ShouldBe("dry, psi");
        read.Methods.Single(s => s.Deciding).Verdict.ShouldBe(SpreadVerdict.Fail);
        read.Actions[0].Checks.ShouldNotBeEmpty();
        read.Cautions.ShouldNotBeEmpty();
        read.Owner.ShouldContain("Cylinder 3 builds up clearly less than the others.");
        // Nothing of it is lost on the way through today's classes.
        JsonNode.DeepEquals(Whole(StoredDocuments.Write(read)), Whole(Golden(name))).ShouldBeTrue();
    }

    [Fact]
    public void What_was_decided_done_and_handed_out_is_read_and_written_again_letter_for_letter()
    {
        void Same<TDocument, T>(string name, Action<T> look)
            where TDocument : IStoredDocument<TDocument, T>
        {
            var read = StoredDocuments.Read<TDocument, T>(Golden(name));
            look(read);
            JsonNode.DeepEquals(JsonNode.Parse(StoredDocuments.Write<TDocument, T>(read)), JsonNode.Parse(Golden(name))).ShouldBeTrue(name);
        }
        Same<InputsDocumentV1, DecisionInputs>("inputs-1.json", i => (i.Worth, i.DayRate, i.KmAYear, i.YearsToLast, i.Wishes).ShouldBe((9000, 250, 12_000, 3, "Before the regatta.")));
        Same<RepairPolicyDocumentV1, RepairPolicy>("repair-policy-1.json", p =>
        {
            p.For(4).Single(f => f.What == "top-end").Minutes.ShouldBe(new Estimate(300, 400, 700));
            p.Strikes.ShouldBe([new RepairStrike("kestrel", Repair.BottomEnd, "Goes to Marren.")]);
        });
        Same<DecisionDocumentV1, DecisionSnapshot>("decision-1.json", d => (d.Choice.Title, d.Best.Cured, d.Best.Minutes, d.Choice.Struck, d.Inputs.Worth, d.Money(60)).ShouldBe(("Another engine", 0.93, new Estimate(320, 430, 690), "They have none.", 9000, 620)));
        Same<RepairDoneDocumentV1, RepairDone>("repair-done-1.json", r => (r.Option, r.Cylinders[0], r.Minutes, r.WasRight).ShouldBe(("top-end-1", 3, 510, true)));
        Same<PracticeDocumentV1, PracticeResult>("practice-1.json", r =>
        {
            r.Call.Suspects.ShouldBe([new(3, Fault.GasketAdjacent, 4), new(1, Fault.Rings, null, Fault.FuelWashed), new(null, Fault.TestError)]);
            (r.Call.Repairs[1], r.Score.Total, r.Minutes, r.Hazards).ShouldBe((Repair.RunAndRetest, 83, 74.5, 1));
        });
        Same<SellingDocumentV1, SellingSheet>("selling-1.json", s => (s.Serial, s.Facts[0].Value, s.Parts[0].Rows[1][1], s.Missing[0]).ShouldBe(("K-1", "80 000 km", "161", "Leak-down: not measured.")));
    }

    [Fact]
    public void A_gasket_keeps_its_neighbour()
    {
        var job = JobAssessment.Of(new TestRecord
        {
            Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Layout = CylinderArrangement.Inline, Spec = new EngineSpec { Unit = PressureUnit.Psi, Nominal = 190 } },
            Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [.. new[] { 190.0, 80, 78, 191 }.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] }],
        });
        var read = StoredDocuments.ReadVerdict(StoredDocuments.Write(VerdictSnapshot.Of(job)));
        read.Cylinders[1].Suspects.Single(s => s.With == 3).Probability.ShouldBe(job.Diagnosis.Cylinders[1].Suspects.Single(s => s.With == 3).Probability);
        read.Next.Select(n => n.Kind).ShouldBe(job.Next.Select(n => n.Kind));
        read.Validity.Select(v => v.Code).ShouldBe(job.Diagnosis.Validity.Select(v => v.Code));
    }

    [Theory]
    [InlineData("said-before-schemas.json")]
    [InlineData("said-1.json")]
    public void What_people_signed_is_read_from_every_schema(string name)
    {
        var said = StoredDocuments.ReadSaid(Golden(name));
        said.Count.ShouldBe(5);
        var third = said.Single(s => s.Program.Cylinder == 3);
        third.Program.Fault.ShouldBe(Fault.ExhaustValve);
        third.People.Fault.ShouldBe(Fault.GasketAdjacent);
        third.People.With.ShouldBe(2);
        third.Given["exhaust-valve"].ShouldBe(third.Program.Probability!.Value, 1e-9);
        StoredDocuments.ReadSaid(StoredDocuments.Write(said)).Select(s => (s.Program, s.People)).ShouldBe(said.Select(s => (s.Program, s.People)));
    }

    [Fact]
    public void A_schema_or_a_word_of_a_later_version_is_said_not_guessed()
    {
        var later = JsonNode.Parse(Golden("verdict-1.json"))!;
        later["schema"] = 2;
        Should.Throw<InvalidDataException>(() => StoredDocuments.ReadVerdict(later.ToJsonString())).Message.ShouldContain("newer Zandrik (schema 2)");
        later["schema"] = 1;
        later["state"] = "haunted";
        Should.Throw<InvalidDataException>(() => StoredDocuments.ReadVerdict(later.ToJsonString())).Message.ShouldContain("\"haunted\"");
        Should.Throw<InvalidDataException>(() => StoredDocuments.ReadSaid("""{ "schema": 7, "said": [] }""")).Message.ShouldContain("schema 7");
    }

    private static readonly (string Name, Func<string, string> Through)[] Others =
    [
        ("settings", json => StoredDocuments.Write<SettingsDocumentV1, ShopSettings>(StoredDocuments.Read<SettingsDocumentV1, ShopSettings>(json))),
        ("tester", json => StoredDocuments.Write<TesterDocumentV1, ShopTester>(StoredDocuments.Read<TesterDocumentV1, ShopTester>(json))),
        ("sheet", json => StoredDocuments.Write<SheetDocumentV1, EngineDocument>(StoredDocuments.Read<SheetDocumentV1, EngineDocument>(json))),
        ("conflict", json => StoredDocuments.Write<ConflictDocumentV1, ConflictingReading>(StoredDocuments.Read<ConflictDocumentV1, ConflictingReading>(json))),
        ("capture-layout", json => StoredDocuments.Write<LayoutDocumentV1, CaptureLayout>(StoredDocuments.Read<LayoutDocumentV1, CaptureLayout>(json))),
        ("capture-question", json => StoredDocuments.Write<QuestionDocumentV1, CaptureQuestion>(StoredDocuments.Read<QuestionDocumentV1, CaptureQuestion>(json))),
        ("capture-answer", json => StoredDocuments.Write<AnswerDocumentV1, RelativeAnswer>(StoredDocuments.Read<AnswerDocumentV1, RelativeAnswer>(json))),
    ];

    public static TheoryData<string> OtherNames => [.. Others.Select(o => o.Name)];

    [Theory, MemberData(nameof(OtherNames))]
    public void Every_other_document_comes_through_todays_classes_with_nothing_lost(string name)
    {
        var through = Others.Single(o => o.Name == name).Through;
        foreach (var golden in new[] { $"{name}-before-schemas.json", $"{name}-1.json" })
        {
            var (was, now) = (JsonNode.Parse(Golden(golden))!.AsObject(), JsonNode.Parse(through(Golden(golden)))!.AsObject());
            ((int)now["schema"]!).ShouldBe(1);
            foreach (var (field, value) in was.Where(f => f.Value is not null && !Derived.Contains(f.Key) && f.Key != "schema"))
            {
                JsonNode.DeepEquals(WithoutNulls(now[field]), WithoutNulls(value)).ShouldBeTrue($"{golden}: {field} was {value} and is {now[field]}");
            }
        }
        var later = JsonNode.Parse(Golden($"{name}-1.json"))!;
        later["schema"] = 2;
        Should.Throw<InvalidDataException>(() => through(later.ToJsonString())).Message.ShouldContain("schema 2");
    }

    // Worked out from the rest; stored once, read never.
    private static readonly string[] Derived = ["ratio", "cylinders", "accessMinutes"];

    private static JsonNode? WithoutNulls(JsonNode? node) => node switch
    {
        JsonObject of => new JsonObject(of.Where(f => f.Value is not null && f.Key != "accessMinutes").Select(f => KeyValuePair.Create(f.Key, WithoutNulls(f.Value)))),
        JsonArray of => new JsonArray([.. of.Select(WithoutNulls)]),
        _ => node?.DeepClone(),
    };

    // Worked out again from what stands there, and so not stored any more; a schema number that was not there is one.
    private static JsonNode Whole(string json)
    {
        var node = JsonNode.Parse(json)!;
        node["schema"] ??= 1;
        foreach (var c in node["cylinders"]!.AsArray())
        {
            c!.AsObject().Remove("leading");
            foreach (var s in c["suspects"]!.AsArray().Where(s => s!["evidence"] is null))
            {
                s!["evidence"] = new JsonArray();
            }
        }
        foreach (var s in node["suspects"]!.AsArray())
        {
            s!.AsObject().Remove("evidence");
        }
        return node;
    }
}
