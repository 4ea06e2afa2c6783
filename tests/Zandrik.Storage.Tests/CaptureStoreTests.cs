using System.Text;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Testers;

namespace Zandrik.Storage.Tests;

public sealed class CaptureStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static readonly JudgedCapture Judged = new("Text,.t[s]|I[A]", new CaptureLayout { TimeColumn = 0, CurrentColumn = 1 },
        new CaptureQuestion { FiringOrder = [1, 3, 4, 2], Sync = SyncKind.EveryCycle },
        new RelativeAnswer { Synchronised = true, Cycles = 7, Settled = (0.5, 3.5), Slots = [new RelativeSlot(1, 3, 71, 2, RelativeVerdict.Low, 64, 0.25)], Warnings = [new(CaptureCode.BatterySag, "It sags.")] }, [1, 2, 3]);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly CaptureStore captures = new(db.Database);

    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 } }, Now, cancel: Cancel);

    private async Task<(string? Name, byte[] Bytes)> ReadAsync(ShopPerson who, int job, long capture)
    {
        if (await captures.OpenAsync(who, job, capture, Cancel) is not { } found)
        {
            return (null, []);
        }
        using var memory = new MemoryStream();
        await using (found.Bytes)
        {
            await found.Bytes.CopyToAsync(memory, Cancel);
        }
        return (found.Name, memory.ToArray());
    }

    [Fact]
    public async Task A_capture_of_many_pieces_comes_back_byte_for_byte_and_its_test_stands_in_the_record()
    {
        // What does not compress makes several pieces of a mebibyte.
        var bytes = new byte[3_500_000];
        new Random(5).NextBytes(bytes);
        var job = await JobAsync();
        var (kept, another) = await captures.AddAsync(db.Ostrel, job, "crank.csv", Judged, new MemoryStream(bytes), null, Now, Cancel);
        another.ShouldBeFalse();
        ((long)(await db.AsOwnerAsync($"select count(*) from capture_piece where capture_id = {kept!.Capture}"))!).ShouldBeGreaterThanOrEqualTo(3);
        var (name, read) = await ReadAsync(db.Ostrel, job, kept.Capture);
        name.ShouldBe("crank.csv");
        read.ShouldBe(bytes);
        var test = (RelativeCompressionTest)(await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Tests!.Single();
        test.Readings!.Single().RelativePercent.ShouldBe(71);
        (test.By, test.At).ShouldBe((db.Ostrel.Person, Now));
    }

    [Fact]
    public async Task An_empty_file_and_a_long_name_do_no_harm()
    {
        var job = await JobAsync();
        var (kept, _) = await captures.AddAsync(db.Ostrel, job, new string('n', 900), Judged, new MemoryStream(), null, Now, Cancel);
        var (name, read) = await ReadAsync(db.Ostrel, job, kept!.Capture);
        name!.Length.ShouldBe(200);
        read.ShouldBeEmpty();
    }

    [Fact]
    public async Task Another_shop_another_job_and_another_row_see_nothing()
    {
        var job = await JobAsync();
        var (kept, _) = await captures.AddAsync(db.Ostrel, job, "crank.csv", Judged, new MemoryStream(Encoding.UTF8.GetBytes("0,1\n")), null, Now, Cancel);
        (await ReadAsync(db.Stranger, job, kept!.Capture)).Name.ShouldBeNull();
        (await ReadAsync(db.Ostrel, await JobAsync(), kept.Capture)).Name.ShouldBeNull();
        (await ReadAsync(db.Ostrel, job, kept.Capture + 1000)).Name.ShouldBeNull();
        (await captures.AddAsync(db.Stranger, job + 1000, "crank.csv", Judged, new MemoryStream(), null, Now, Cancel)).Kept.ShouldBeNull();
    }

    [Fact]
    public async Task A_key_keeps_one_capture_however_often_it_is_sent()
    {
        var job = await JobAsync();
        Task<(KeptCapture? Kept, bool Another)> SendAsync(string text) => captures.AddAsync(db.Ostrel, job, "crank.csv", Judged, new MemoryStream(Encoding.UTF8.GetBytes(text)), "one-key", Now, Cancel);
        var all = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => SendAsync("0,1\n")));
        all.Select(a => a.Kept!.Capture).Distinct().Count().ShouldBe(1);
        all.ShouldAllBe(a => !a.Another);
        (await SendAsync("0,2\n")).ShouldBe((null, true));
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Tests!.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_capture_is_kept_first_and_judged_later_and_a_new_answer_withdraws_the_test_of_the_old()
    {
        var job = await JobAsync();
        var key = Guid.NewGuid();
        Task<long?> KeepAsync() => captures.KeepAsync(db.Ostrel, job, "crank.csv", null, new MemoryStream([1, 2, 3]), key, Now, Cancel);
        var id = (await KeepAsync())!.Value;
        (await KeepAsync()).ShouldBe(id, "sent twice, kept once");
        (await captures.ListAsync(db.Ostrel, job, Cancel)).ShouldBe([new CaptureOfJob(id, "crank.csv", 3, null, Now, db.Ostrel.Person, false)]);
        (await captures.AnswerOfAsync(db.Ostrel, id, Cancel)).ShouldBeNull();
        (await captures.AnswerAsync(db.Stranger, job, id, Judged, null, Now, Cancel)).ShouldBeFalse();

        (await captures.AnswerAsync(db.Ostrel, job, id, Judged, new Tester { Label = "Starter clamp" }, Now, Cancel)).ShouldBeTrue();
        var answer = (await captures.AnswerOfAsync(db.Ostrel, id, Cancel))!;
        answer.Judged.Layout.ShouldBe(Judged.Layout);
        answer.Judged.Question.FiringOrder.ShouldBe([1, 3, 4, 2]);
        answer.Judged.Question.Sync.ShouldBe(SyncKind.EveryCycle);
        (answer.Judged.Answer.Slots.Single(), answer.Judged.Answer.Settled, answer.Judged.Answer.Warnings.Single()).ShouldBe((Judged.Answer.Slots[0], (0.5, 3.5), Judged.Answer.Warnings[0]));
        (await captures.PictureAsync(db.Ostrel, job, answer.Id, Cancel)).ShouldBe([1, 2, 3]);
        (await captures.PictureAsync(db.Stranger, job, answer.Id, Cancel)).ShouldBeNull();

        await captures.AnswerAsync(db.Ostrel, job, id, Judged with { Answer = Judged.Answer with { Slots = [Judged.Answer.Slots[0] with { Cylinder = 4, RelativePercent = 80 }] } }, null, Now, Cancel);
        var test = (RelativeCompressionTest)(await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Tests!.Single();
        test.Readings!.Single().Cylinder.ShouldBe(4);
        await captures.AnswerAsync(db.Ostrel, job, id, Judged with { Answer = new RelativeAnswer { Refused = new(CaptureCode.TooShort, "Too short.") } }, null, Now, Cancel);
        ((await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Tests ?? []).ShouldBeEmpty("a refusal is no test, and the reading before it no longer stands");
        (await captures.AnswerOfAsync(db.Ostrel, id, Cancel))!.Judged.Answer.Refused!.Code.ShouldBe(CaptureCode.TooShort);
    }

    [Fact]
    public async Task How_a_clamps_captures_are_read_is_remembered_from_the_last_that_was_judged()
    {
        var tester = await new TesterStore(db.Database).SaveAsync(db.Ostrel, null, new ShopTester { Label = $"Clamp {Guid.NewGuid():N}", Kind = TesterKind.Clamp }, Cancel);
        var job = await JobAsync();
        async Task JudgeAsync(int columns, bool refused)
        {
            var id = await captures.KeepAsync(db.Ostrel, job, "crank.csv", (int)tester!, new MemoryStream([1]), Guid.NewGuid(), Now, Cancel);
            await captures.AnswerAsync(db.Ostrel, job, id!.Value, Judged with { Layout = new CaptureLayout { CurrentColumn = columns }, Answer = refused ? new RelativeAnswer { Refused = new(CaptureCode.NoCranking, "No.") } : Judged.Answer }, null, Now, Cancel);
        }
        (await captures.LatestOfTesterAsync(db.Ostrel, (int)tester!, Cancel)).ShouldBeNull();
        await JudgeAsync(2, refused: false);
        await JudgeAsync(3, refused: false);
        await JudgeAsync(4, refused: true);
        (await captures.LatestOfTesterAsync(db.Ostrel, (int)tester, Cancel))!.Judged.Layout.CurrentColumn.ShouldBe(3);
    }

    [Fact]
    public async Task Captures_of_one_engine_stand_together_whichever_job_they_are_of()
    {
        async Task<int> OfAsync(string van) => await db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 }, Vehicle = new() { Label = van } }, Now, cancel: Cancel);
        var (first, second, other) = (await OfAsync("Tar lorry"), await OfAsync("Tar lorry"), await OfAsync("Coal lorry"));
        var after = await captures.AddAsync(db.Ostrel, second, "after.csv", Judged, new MemoryStream([1]), null, Now.AddDays(2), Cancel);
        var before = await captures.AddAsync(db.Ostrel, first, "before.csv", Judged, new MemoryStream([2]), null, Now, Cancel);
        await captures.AddAsync(db.Ostrel, other, "other.csv", Judged, new MemoryStream([3]), null, Now, Cancel);
        await captures.KeepAsync(db.Ostrel, second, "not-judged.csv", null, new MemoryStream([4]), Guid.NewGuid(), Now, Cancel);
        var refused = await captures.KeepAsync(db.Ostrel, second, "refused.csv", null, new MemoryStream([5]), Guid.NewGuid(), Now, Cancel);
        await captures.AnswerAsync(db.Ostrel, second, refused!.Value, Judged with { Answer = new RelativeAnswer { Refused = new(CaptureCode.NoCranking, "No.") } }, null, Now, Cancel);
        (await captures.OfEngineAsync(db.Ostrel, second, Cancel)).Select(c => (c.Id, c.Job, c.Name)).ShouldBe([(before.Kept!.Capture, first, "before.csv"), (after.Kept!.Capture, second, "after.csv")]);
        (await captures.OfEngineAsync(db.Stranger, second, Cancel)).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("update capture set name = 'other'")]
    [InlineData("delete from capture_piece")]
    [InlineData("truncate capture, capture_answer, capture_piece")]
    [InlineData("update capture_answer set shape = 'other'")]
    public async Task What_was_captured_is_never_changed(string sql)
    {
        var job = await JobAsync();
        await captures.AddAsync(db.Ostrel, job, "crank.csv", Judged, new MemoryStream([1, 2, 3]), null, Now, Cancel);
        (await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(sql))).Message.ShouldContain("never changed or removed");
    }
}
