using System.Text;
using Npgsql;
using Zandrik.Core.Records;

namespace Zandrik.Storage.Tests;

public sealed class CaptureStoreTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 40, 0, TimeSpan.Zero);

    private static readonly CaptureFacts Facts = new("crank.csv", """{ "delimiter": "," }""", """{ "cycles": 7 }""");

    private static readonly RelativeCompressionTest Test = new() { Readings = [new RelativeReading { Cylinder = 3, RelativePercent = 71, StandardErrorPercent = 2 }] };

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private readonly CaptureStore captures = new(db.Database);

    private Task<int> JobAsync() => db.Jobs.CreateAsync(db.Ostrel, new TestRecord { Engine = new EngineSheet { Cylinders = 4 } }, Now, cancel: Cancel);

    private async Task<(string? Name, byte[] Bytes)> ReadAsync(ShopPerson who, int job, long capture)
    {
        using var memory = new MemoryStream();
        return (await captures.WriteAsync(who, job, capture, _ => memory, Cancel), memory.ToArray());
    }

    [Fact]
    public async Task A_capture_of_many_pieces_comes_back_byte_for_byte_and_its_test_stands_in_the_record()
    {
        // What does not compress makes several pieces of a mebibyte.
        var bytes = new byte[3_500_000];
        new Random(5).NextBytes(bytes);
        var job = await JobAsync();
        var (kept, another) = await captures.AddAsync(db.Ostrel, job, Test, Facts, new MemoryStream(bytes), null, Now, Cancel);
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
        var (kept, _) = await captures.AddAsync(db.Ostrel, job, Test, Facts with { Name = new string('n', 900) }, new MemoryStream(), null, Now, Cancel);
        var (name, read) = await ReadAsync(db.Ostrel, job, kept!.Capture);
        name!.Length.ShouldBe(200);
        read.ShouldBeEmpty();
    }

    [Fact]
    public async Task Another_shop_another_job_and_another_row_see_nothing()
    {
        var job = await JobAsync();
        var (kept, _) = await captures.AddAsync(db.Ostrel, job, Test, Facts, new MemoryStream(Encoding.UTF8.GetBytes("0,1\n")), null, Now, Cancel);
        (await ReadAsync(db.Stranger, job, kept!.Capture)).Name.ShouldBeNull();
        (await ReadAsync(db.Ostrel, await JobAsync(), kept.Capture)).Name.ShouldBeNull();
        (await ReadAsync(db.Ostrel, job, kept.Capture + 1000)).Name.ShouldBeNull();
        (await captures.AddAsync(db.Stranger, job + 1000, Test, Facts, new MemoryStream(), null, Now, Cancel)).Kept.ShouldBeNull();
    }

    [Fact]
    public async Task A_key_keeps_one_capture_however_often_it_is_sent()
    {
        var job = await JobAsync();
        Task<(KeptCapture? Kept, bool Another)> SendAsync(string text) => captures.AddAsync(db.Ostrel, job, Test, Facts, new MemoryStream(Encoding.UTF8.GetBytes(text)), "one-key", Now, Cancel);
        var all = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => SendAsync("0,1\n")));
        all.Select(a => a.Kept!.Capture).Distinct().Count().ShouldBe(1);
        all.ShouldAllBe(a => !a.Another);
        (await SendAsync("0,2\n")).ShouldBe((null, true));
        (await db.Jobs.FindAsync(db.Ostrel, job, Cancel))!.Record.Tests!.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("update capture set name = 'other'")]
    [InlineData("delete from capture_piece")]
    [InlineData("truncate capture, capture_piece")]
    public async Task What_was_captured_is_never_changed(string sql)
    {
        var job = await JobAsync();
        await captures.AddAsync(db.Ostrel, job, Test, Facts, new MemoryStream([1, 2, 3]), null, Now, Cancel);
        (await Should.ThrowAsync<PostgresException>(() => db.AsOwnerAsync(sql))).Message.ShouldContain("never changed or removed");
    }
}
