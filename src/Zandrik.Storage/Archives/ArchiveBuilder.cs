using System.Globalization;
using System.IO.Compression;
using System.Text;
using Parquet;
using Parquet.Schema;
using Zandrik.Core.Records;

namespace Zandrik.Storage.Archives;

/// <summary>
/// Makes the archive of a shop: each job as an open record, a table of jobs and one of readings as CSV, and the readings as a Parquet file for programs that analyse. It goes through the jobs a few at a
/// time, and the memory it needs does not grow with them; what cannot be written at once goes through files of the machine's own, which are gone when it ends.
/// </summary>
public sealed class ArchiveBuilder(ArchiveStore store, TimeProvider clock)
{
    // Jobs that are read at a time, and readings of one row group of the Parquet file.
    private const int JobsAtOnce = 200, ReadingsInGroup = 50_000;

    private static readonly DataField[] Fields =
    [
        new DataField<int>("job"), new DataField<string>("vehicle", true), new DataField<string>("engine_serial", true), new DataField<string>("kind", false), new DataField<DateTime>("test_at"), new DataField<string>("tester", true),
        new DataField<string>("engine_temperature", true), new DataField<int>("cylinder"), new DataField<double?>("pressure_pa"), new DataField<string>("as_read", true), new DataField<double?>("leak_percent"), new DataField<double?>("relative_percent"),
        new DataField<DateTime>("taken_at"), new DataField<string>("by", false),
    ];

    /// <summary>Makes an archive that was begun.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="archive">Its row.</param>
    /// <param name="cancel">Ends it: it is then marked as not finished.</param>
    public async Task MakeAsync(ShopPerson who, int archive, CancellationToken cancel)
    {
        var done = 0;
        try
        {
            await using var pieces = new PieceWriter((n, body) => store.AddAsync(who, archive, n, body, done, clock.GetUtcNow(), cancel));
            await using (var jobsFile = Temporary())
            await using (var readingsFile = Temporary())
            await using (var parquetFile = Temporary())
            await using (var zip = await ZipArchive.CreateAsync(pieces, ZipArchiveMode.Create, leaveOpen: true, Encoding.UTF8, cancel))
            {
                await using (var jobs = new StreamWriter(jobsFile, Utf8WithMark, leaveOpen: true))
                await using (var readings = new StreamWriter(readingsFile, Utf8WithMark, leaveOpen: true))
                await using (var parquet = await ParquetWriter.CreateAsync(new ParquetSchema(Fields), parquetFile, null, false, cancel))
                {
                    parquet.CustomMetadata = new Dictionary<string, string> { ["made_by"] = "Zandrik", ["shop"] = who.Shop };
                    await jobs.WriteAsync(CsvText.Write(["job", "vehicle", "engine_serial", "opened", "opened_by", "closed", "tests"], []));
                    await readings.WriteAsync(CsvText.Write([.. Fields.Select(f => f.Name)], []));
                    var group = new List<ReadingRow>(ReadingsInGroup);
                    var last = 0;
                    while (await store.NumbersAsync(who, last, JobsAtOnce, cancel) is { Count: > 0 } numbers)
                    {
                        var some = await store.JobsAsync(who, numbers, cancel);
                        foreach (var job in some)
                        {
                            await using (var record = await zip.CreateEntry(string.Create(CultureInfo.InvariantCulture, $"records/{job.Number:0000}.json"), CompressionLevel.Fastest).OpenAsync(cancel))
                            {
                                await record.WriteAsync(Encoding.UTF8.GetBytes(job.ToRecord()), cancel);
                            }
                            done++;
                        }
                        var rows = some.SelectMany(j => j.Tests.SelectMany(t => t.Readings.Select(r => new ReadingRow(j, t, r)))).ToList();
                        await jobs.WriteAsync(CsvText.Lines(some.Select(j => (IReadOnlyList<string?>)[Number(j.Number), j.Vehicle, j.Serial, Time(j.OpenedAt), j.OpenedBy, j.ClosedAt is { } closed ? Time(closed) : null, Number(j.Tests.Count)])));
                        await readings.WriteAsync(CsvText.Lines(rows.Select(r => r.ToText())));
                        group.AddRange(rows);
                        if (group.Count >= ReadingsInGroup)
                        {
                            await WriteGroupAsync(parquet, group, cancel);
                        }
                        last = numbers[^1];
                        await store.TouchAsync(who, archive, done, clock.GetUtcNow(), cancel);
                    }
                    await WriteGroupAsync(parquet, group, cancel);
                }
                await AddAsync(zip, "jobs.csv", jobsFile, cancel);
                await AddAsync(zip, "readings.csv", readingsFile, cancel);
                await AddAsync(zip, "readings.parquet", parquetFile, cancel);
                await using var about = await zip.CreateEntry("README.txt", CompressionLevel.Fastest).OpenAsync(cancel);
                await about.WriteAsync(Encoding.UTF8.GetBytes(About(who, done, clock.GetUtcNow())), cancel);
            }
            await pieces.EndAsync();
            await store.EndAsync(who, archive, done, null, clock.GetUtcNow(), cancel);
        }
        catch (Exception wrong) when (wrong is OperationCanceledException or Npgsql.NpgsqlException or IOException)
        {
            var says = wrong is OperationCanceledException ? "The server was stopped while it was made. Begin again." : "It broke off: the disk is full, or the database went away. Begin again; if it happens again, see the log of the server.";
            await store.EndAsync(who, archive, done, says, clock.GetUtcNow(), CancellationToken.None);
        }
    }

    private static UTF8Encoding Utf8WithMark { get; } = new(encoderShouldEmitUTF8Identifier: true);

    private static FileStream Temporary() => new(Path.Combine(Path.GetTempPath(), $"zandrik-archive-{Guid.NewGuid():N}"), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 64 * 1024, FileOptions.DeleteOnClose | FileOptions.Asynchronous);

    private static async Task AddAsync(ZipArchive zip, string name, FileStream file, CancellationToken cancel)
    {
        file.Position = 0;
        await using var entry = await zip.CreateEntry(name, CompressionLevel.Fastest).OpenAsync(cancel);
        await file.CopyToAsync(entry, cancel);
    }

    private static async Task WriteGroupAsync(ParquetWriter parquet, List<ReadingRow> rows, CancellationToken cancel)
    {
        if (rows.Count == 0)
        {
            return;
        }
        using var group = parquet.CreateRowGroup();
        Task Text(int field, Func<ReadingRow, string?> of) => group.WriteAsync(Fields[field], [.. rows.Select(of)!], null);
        Task Whole(int field, Func<ReadingRow, int> of) => group.WriteAsync<int>(Fields[field], rows.Select(of).ToArray().AsMemory(), null, null, cancel);
        Task Figure(int field, Func<ReadingRow, double?> of) => group.WriteAsync<double>(Fields[field], rows.Select(of).ToArray().AsMemory(), null, null, cancel);
        Task Moment(int field, Func<ReadingRow, DateTimeOffset> of) => group.WriteAsync<DateTime>(Fields[field], rows.Select(r => of(r).UtcDateTime).ToArray().AsMemory(), null, null, cancel);
        await Whole(0, r => r.Job.Number);
        await Text(1, r => r.Job.Vehicle);
        await Text(2, r => r.Job.Serial);
        await Text(3, r => r.Test.Kind);
        await Moment(4, r => r.Test.MadeAt);
        await Text(5, r => r.Test.Tester);
        await Text(6, r => r.Test.Temperature);
        await Whole(7, r => r.Cylinder);
        await Figure(8, r => r.Reading.PressurePa);
        await Text(9, r => r.Reading.Value);
        await Figure(10, r => r.Reading.LeakPercent);
        await Figure(11, r => r.Reading.RelativePercent);
        await Moment(12, r => r.Reading.TakenAt);
        await Text(13, r => r.Reading.By);
        group.CompleteValidate();
        rows.Clear();
    }

    private static string Number(int value) => value.ToString(CultureInfo.InvariantCulture);

    private static string Time(DateTimeOffset at) => at.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);

    private static string About(ShopPerson who, int jobs, DateTimeOffset now) => $"""
        The archive of {who.Shop}, made by Zandrik on {Time(now)}: {jobs.ToString(CultureInfo.InvariantCulture)} jobs.

        records/NNNN.json   each job as an open record (format zandrik-test-record, version 1), with the readings that count
        jobs.csv            one line a job
        readings.csv        one line a reading that counts
        readings.parquet    the same readings as a Parquet file

        Times are UTC. pressure_pa is pascal, gauge, as it was read; as_read is the figure in the unit of its test. Photos and traces of captures are not in it: they are in a backup of the server.

        """.ReplaceLineEndings("\n");

    private sealed record ReadingRow(ArchivedJob Job, ArchivedTest Test, ArchivedReading Reading)
    {
        public int Cylinder => Reading.Cylinder ?? Reading.Slot;

        public string?[] ToText() =>
        [
            Number(Job.Number), Job.Vehicle, Job.Serial, Test.Kind, Time(Test.MadeAt), Test.Tester, Test.Temperature, Number(Cylinder), Figure(Reading.PressurePa), Reading.Value, Figure(Reading.LeakPercent), Figure(Reading.RelativePercent),
            Time(Reading.TakenAt), Reading.By,
        ];

        private static string? Figure(double? value) => value?.ToString("R", CultureInfo.InvariantCulture);
    }

    // Cuts what is written into pieces of one size.
    private sealed class PieceWriter(Func<int, byte[], Task> keep) : Stream
    {
        private readonly byte[] buffer = new byte[ArchiveStore.Piece];
        private int filled, next;
        private long length;

        public override bool CanRead => false;

        public override bool CanSeek => false;

        public override bool CanWrite => true;

        public override long Length => length;

        public override long Position { get => length; set => throw new NotSupportedException(); }

        public async Task EndAsync()
        {
            if (filled > 0)
            {
                await keep(next++, buffer[..filled]);
                filled = 0;
            }
        }

        public override async ValueTask WriteAsync(ReadOnlyMemory<byte> source, CancellationToken cancellationToken = default)
        {
            while (source.Length > 0)
            {
                var count = Math.Min(source.Length, buffer.Length - filled);
                source[..count].CopyTo(buffer.AsMemory(filled));
                (filled, length, source) = (filled + count, length + count, source[count..]);
                if (filled == buffer.Length)
                {
                    await EndAsync();
                }
            }
        }

        public override Task WriteAsync(byte[] source, int offset, int count, CancellationToken cancellationToken) => WriteAsync(source.AsMemory(offset, count), cancellationToken).AsTask();

        public override void Write(byte[] source, int offset, int count) => WriteAsync(source.AsMemory(offset, count)).AsTask().GetAwaiter().GetResult();

        public override void Flush()
        {
        }

        public override Task FlushAsync(CancellationToken cancellationToken) => Task.CompletedTask;

        public override int Read(byte[] target, int offset, int count) => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();
    }
}
