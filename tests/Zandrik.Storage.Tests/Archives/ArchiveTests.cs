using System.IO.Compression;
using System.Text;
using Parquet.Serialization;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage.Archives;

namespace Zandrik.Storage.Tests.Archives;

public sealed class ArchiveTests(TestDatabase db) : IClassFixture<TestDatabase>
{
    private static readonly DateTimeOffset Now = new(2026, 6, 1, 9, 0, 0, TimeSpan.Zero);

    private readonly ArchiveStore store = new(db.Database);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    internal static TestRecord Record(int n) => new()
    {
        Vehicle = new() { Label = $"Kelp cart {n}", Odometer = new Odometer { Value = 1000 * n, Unit = DistanceUnit.Km } },
        Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol, Serial = $"K-{n}" },
        Complaint = "=Ticks, \"cold\" only",
        Tests = [new DryCompressionTest { At = Now, Unit = PressureUnit.Psi, Tester = new Tester { Label = "Yard gauge" }, Readings = [.. Enumerable.Range(1, 4).Select(c => new CompressionReading { Cylinder = c, Value = 150 + c + n })] }],
        Found = n % 2 == 0 ? [new FoundFault { Cylinder = 2, Fault = Fault.Rings, At = Now.AddDays(1) }] : null,
    };

    private sealed class Row
    {
        public int job { get; set; }
        public string? vehicle { get; set; }
        public int cylinder { get; set; }
        public double? pressure_pa { get; set; }
        public string? tester { get; set; }
    }

    [Fact]
    public async Task The_archive_holds_every_job_as_a_record_and_every_reading_twice()
    {
        for (var n = 1; n <= 7; n++)
        {
            await db.Jobs.CreateAsync(db.Ostrel, Record(n), Now, cancel: Cancel);
        }
        await db.Jobs.CreateAsync(db.Stranger, Record(99), Now, cancel: Cancel);
        var (id, isNew) = await store.BeginAsync(db.Ostrel, Now, Cancel);
        isNew.ShouldBeTrue();
        (await store.BeginAsync(db.Ostrel, Now, Cancel)).ShouldBe((id, false), "while it is made nobody begins another");
        (await store.OpenAsync(db.Ostrel, id, Cancel)).ShouldBeNull("not finished");
        await new ArchiveBuilder(store, TimeProvider.System).MakeAsync(db.Ostrel, id, Cancel);
        var line = (await store.LatestAsync(db.Ostrel, Now, Cancel))!;
        (line.Jobs, line.Done, line.Failed).ShouldBe((7, 7, null));
        (await store.LatestAsync(db.Stranger, Now, Cancel))?.Id.ShouldNotBe(id);
        (await store.OpenAsync(db.Stranger, id, Cancel)).ShouldBeNull();

        using var whole = new MemoryStream();
        await (await store.OpenAsync(db.Ostrel, id, Cancel))!.CopyToAsync(whole, Cancel);
        whole.Length.ShouldBe(line.Bytes);
        using var zip = new ZipArchive(whole);
        zip.Entries.Select(e => e.FullName).ShouldBe(["records/0001.json", "records/0002.json", "records/0003.json", "records/0004.json", "records/0005.json", "records/0006.json", "records/0007.json", "jobs.csv", "readings.csv", "readings.parquet", "README.txt"]);
        async Task<string> TextAsync(string name) => Encoding.UTF8.GetString(await BytesAsync(name));
        async Task<byte[]> BytesAsync(string name)
        {
            await using var entry = zip.GetEntry(name)!.Open();
            using var bytes = new MemoryStream();
            await entry.CopyToAsync(bytes, Cancel);
            return bytes.ToArray();
        }
        for (var n = 1; n <= 7; n++)
        {
            var read = TestRecordJson.Read(await BytesAsync($"records/{n:0000}.json"));
            read.Problems.ShouldBeEmpty();
            TestRecordJson.ToNode(read.Record!).ToJsonString().ShouldBe(TestRecordJson.ToNode((await db.Jobs.RecordAsync(db.Ostrel, n, superseded: false, Cancel))!).ToJsonString());
        }
        (await TextAsync("readings.csv")).Split("\n", StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(1 + 28);
        (await TextAsync("jobs.csv")).ShouldContain("Kelp cart 7");
        (await TextAsync("README.txt")).ShouldContain("Quillmoor Ferry Workshop");
        using var parquet = new MemoryStream(await BytesAsync("readings.parquet"));
        var rows = (await ParquetSerializer.DeserializeAsync<Row>(parquet, cancellationToken: Cancel)).Data;
        rows.Count.ShouldBe(28);
        rows.Single(r => r is { job: 7, cylinder: 3 }).ShouldSatisfyAllConditions(r => r.pressure_pa!.Value.ShouldBe(160 * 6894.757293168361, 1e-6), r => r.vehicle.ShouldBe("Kelp cart 7"), r => r.tester.ShouldBe("Yard gauge"));
    }

    [Fact]
    public async Task A_download_goes_on_from_any_place()
    {
        var bytes = new byte[3 * ArchiveStore.Piece + 17];
        new Random(1).NextBytes(bytes);
        await using var stream = new PieceStream(bytes.Length, (n, _) => Task.FromResult(bytes[(n * ArchiveStore.Piece)..Math.Min(bytes.Length, (n + 1) * ArchiveStore.Piece)]));
        foreach (var from in new[] { 0, 1, ArchiveStore.Piece - 1, ArchiveStore.Piece, 2 * ArchiveStore.Piece + 5, bytes.Length - 1, bytes.Length })
        {
            stream.Seek(from, SeekOrigin.Begin);
            using var rest = new MemoryStream();
            await stream.CopyToAsync(rest, Cancel);
            rest.ToArray().AsSpan().SequenceEqual(bytes.AsSpan(from)).ShouldBeTrue($"from {from}");
        }
    }

    [Fact]
    public async Task One_that_was_stopped_says_so_and_is_begun_again()
    {
        await db.Jobs.CreateAsync(db.Stranger, Record(1), Now, cancel: Cancel);
        var (id, _) = await store.BeginAsync(db.Stranger, Now, Cancel);
        await new ArchiveBuilder(store, TimeProvider.System).MakeAsync(db.Stranger, id, new CancellationToken(canceled: true));
        (await store.LatestAsync(db.Stranger, Now, Cancel))!.Failed.ShouldBe("The server was stopped while it was made. Begin again.");
        (await store.BeginAsync(db.Stranger, Now, Cancel)).IsNew.ShouldBeTrue();
    }
}
