using System.Text;
using System.Text.Json.Nodes;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage.Tests;

public sealed class JobStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 11, 25, 9, 0, 0, TimeSpan.Zero);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static TestRecord Record(string json) => TestRecordJson.Read(Encoding.UTF8.GetBytes(json)).Record!;

    private static TestRecord Small(string vehicle = "Shore van 9") =>
        new() { Vehicle = new Vehicle { Label = vehicle }, Engine = new EngineSheet { Cylinders = 4 } };

    [Fact]
    public async Task A_record_comes_back_as_it_went_in_with_tests_that_have_no_screen_and_unknown_fields()
    {
        const string json = """
            { "format": "zandrik-test-record", "version": 1, "tomorrow": [1.50, "é", { "deep": true }],
              "engine": { "cylinders": 4, "spec": { "unit": "bar", "nominal": 13.25 }, "paint": "green" },
              "tests": [
                { "kind": "leak-down", "unit": "psi", "supply": 100, "at": "2026-03-02T09:40:00Z",
                  "readings": [ { "cylinder": 2, "held": 55, "heard": [ { "at": "exhaust", "strength": "clear", "pitch": 3 } ] }, { "cylinder": 2, "held": 56 } ] },
                { "kind": "oil-pressure", "unit": "bar", "readings": [ { "rpm": 750, "value": 1.4 }, { "rpm": 2000, "value": 3.2 } ] },
                { "kind": "crank-sound", "result": "uneven" },
                { "kind": "compression-dry", "unit": "bar", "readings": [ { "cylinder": 3, "value": 11.4, "repeats": [11.5] }, { "cylinder": 1, "value": 13.1, "order": 7 } ] } ] }
            """;
        var number = await db.Jobs.CreateAsync(db.Ostrel, Record(json), Now, cancel: Cancel);
        var written = TestRecordJson.Write((await db.Jobs.RecordAsync(db.Ostrel, number, superseded: false, Cancel))!);
        JsonNode.DeepEquals(JsonNode.Parse(written), JsonNode.Parse(json)).ShouldBeTrue(written);
    }

    [Fact]
    public async Task A_job_is_opened_with_its_first_test_and_shown_in_its_unit()
    {
        var record = Small() with { Tests = [new DryCompressionTest { Unit = PressureUnit.KPa, At = Now.AddDays(-3) }] };
        var job = (await db.Jobs.FindAsync(db.Ostrel, await db.Jobs.CreateAsync(db.Ostrel, record, Now, cancel: Cancel), Cancel))!;
        (job.OpenedAt, job.Unit, job.OpenedBy, job.ClosedAt).ShouldBe((Now.AddDays(-3), PressureUnit.KPa, "M. Ostrel", null));
    }

    [Fact]
    public async Task A_record_that_says_what_was_found_is_a_closed_job()
    {
        var record = Small() with { Found = [new FoundFault { Cylinder = 2, Fault = Fault.Rings, At = Now.AddDays(-1) }] };
        var job = (await db.Jobs.FindAsync(db.Ostrel, await db.Jobs.CreateAsync(db.Ostrel, record, Now, cancel: Cancel), Cancel))!;
        job.ClosedAt.ShouldBe(Now.AddDays(-1));
        await db.Jobs.CloseAsync(db.Ostrel, job.Number, null, cancel: Cancel);
        (await db.Jobs.FindAsync(db.Ostrel, job.Number, Cancel))!.ClosedAt.ShouldBeNull();
    }

    [Fact]
    public async Task Changing_the_intake_keeps_tests_and_unknown_fields()
    {
        var number = await db.Jobs.CreateAsync(db.Ostrel, Record("""
            { "format": "zandrik-test-record", "version": 1, "kept": 1, "engine": { "cylinders": 4 },
              "tests": [ { "kind": "compression-dry", "readings": [ { "cylinder": 1, "value": 200 } ] } ] }
            """), Now, cancel: Cancel);
        var before = (await db.Jobs.FindAsync(db.Ostrel, number, Cancel))!.Record;
        await db.Jobs.ChangeIntakeAsync(db.Ostrel, number, before with { Complaint = "ticks" }, cancel: Cancel);
        var after = (await db.Jobs.FindAsync(db.Ostrel, number, Cancel))!.Record;
        after.Complaint.ShouldBe("ticks");
        after.Unknown!["kept"].GetInt32().ShouldBe(1);
        ((DryCompressionTest)after.Tests!.Single()).Readings!.Single().Value.ShouldBe(200);
    }

    [Fact]
    public async Task The_same_key_makes_one_job_and_another_body_under_it_is_refused()
    {
        var key = Guid.NewGuid().ToString();
        var made = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => db.Jobs.CreateOnceAsync(db.Ostrel, key, [1, 2, 3], Small(), Now, cancel: Cancel)));
        made.Select(m => m.Number).Distinct().Count().ShouldBe(1);
        made.ShouldAllBe(m => !m.KeyUsedForAnother);
        (await db.Jobs.CreateOnceAsync(db.Ostrel, key, [9], Small(), Now, cancel: Cancel)).KeyUsedForAnother.ShouldBeTrue();
        // Another shop's keys are its own.
        (await db.Jobs.CreateOnceAsync(db.Stranger, key, [9], Small(), Now, cancel: Cancel)).KeyUsedForAnother.ShouldBeFalse();
    }

    [Fact]
    public async Task Lists_show_the_newest_first_in_pages_and_open_ones_apart()
    {
        var numbers = new List<int>();
        for (var i = 0; i < 5; i++)
        {
            numbers.Add(await db.Jobs.CreateAsync(db.Ostrel, Small($"List {i}"), Now.AddYears(10).AddMinutes(i), cancel: Cancel));
        }
        await db.Jobs.CloseAsync(db.Ostrel, numbers[4], Now, cancel: Cancel);
        var open = new JobFilter { Open = true };
        var page = await db.Jobs.ListAsync(db.Ostrel, open, 2, Cancel);
        page.Jobs.Select(j => j.Number).ShouldBe([numbers[3], numbers[2]]);
        page.More.ShouldBeTrue();
        // A job opened meanwhile shifts nothing: the next page goes on after the last one seen.
        await db.Jobs.CreateAsync(db.Ostrel, Small("Meanwhile"), Now.AddYears(11), cancel: Cancel);
        (await db.Jobs.ListAsync(db.Ostrel, open with { After = numbers[2] }, 2, Cancel)).Jobs.Select(j => j.Number).ShouldBe([numbers[1], numbers[0]]);
        (await db.Jobs.LinesAsync(db.Ostrel, new JobFilter { Open = false, From = Now.AddYears(10), To = Now.AddYears(10).AddDays(1) }, 5, Cancel)).Lines.Single().Number.ShouldBe(numbers[4]);
        (await db.Jobs.LinesAsync(db.Ostrel, new JobFilter { OpenedBy = db.Ostrel.PersonId + 999 }, 5, Cancel)).Lines.ShouldBeEmpty();
    }
}
