using System.IO.Compression;
using System.Security.Cryptography;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Storage.Documents;

namespace Zandrik.Storage;

/// <summary>A capture that is kept with its test: the row of the capture, and of the test that was made from it.</summary>
/// <param name="Capture">Row of the capture.</param>
/// <param name="Test">Row of the test.</param>
public sealed record KeptCapture(long Capture, long Test);

/// <summary>What was said of a capture, and how it was read for that.</summary>
/// <param name="Shape">The shape of its file (<see cref="CaptureInspection.Shape"/>).</param>
/// <param name="Layout">How it was read.</param>
/// <param name="Question">What was asked.</param>
/// <param name="Answer">What was said.</param>
/// <param name="Picture">The trace as it is drawn, packed (<see cref="CapturePicture.Pack"/>); absent for a file that could not be read.</param>
public sealed record JudgedCapture(string Shape, CaptureLayout Layout, CaptureQuestion Question, RelativeAnswer Answer, byte[]? Picture);

/// <summary>A capture of a job.</summary>
/// <param name="Id">Its row.</param>
/// <param name="Name">The name of its file.</param>
/// <param name="Bytes">Its size as it came.</param>
/// <param name="Tester">The clamp it came from; absent when not said.</param>
/// <param name="At">When it was kept.</param>
/// <param name="By">Who kept it.</param>
/// <param name="Judged">True when something was said of it.</param>
public sealed record CaptureOfJob(long Id, string Name, long Bytes, int? Tester, DateTimeOffset At, string By, bool Judged);

/// <summary>A judged capture of an engine, on whichever of its jobs.</summary>
/// <param name="Id">Its row.</param>
/// <param name="Job">The number of its job.</param>
/// <param name="Name">The name of its file.</param>
/// <param name="At">When it was kept.</param>
/// <param name="By">Who kept it.</param>
public sealed record CaptureOfEngine(long Id, int Job, string Name, DateTimeOffset At, string By);

/// <summary>The latest that was said of a capture.</summary>
/// <param name="Id">Its row.</param>
/// <param name="Judged">What was said; its picture is fetched by itself.</param>
/// <param name="At">When.</param>
/// <param name="By">Who asked.</param>
public sealed record CaptureAnswer(long Id, JudgedCapture Judged, DateTimeOffset At, string By);

/// <summary>
/// Keeps captures of starter current with their jobs: the bytes as they came, compressed in pieces, and what was said of them. Neither is ever changed or deleted; when a capture is
/// read anew, the test of the reading before is withdrawn.
/// </summary>
public sealed class CaptureStore(ShopDatabase database)
{
    private const int PieceBytes = 1 << 20;
    private const int LongestName = 200;

    /// <summary>Keeps a capture, its answer and its test, all or none.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="name">The name of its file.</param>
    /// <param name="judged">What was said of it; not a refusal.</param>
    /// <param name="raw">Its bytes from the beginning; read to the end, not closed. Seekable where there is a key.</param>
    /// <param name="key">The sender's key: the same capture sent again finds what it made the first time; absent for none.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>What is kept, absent when the shop has no such job; and whether the key was used before for something else (then nothing was kept).</returns>
    public Task<(KeptCapture? Kept, bool KeyUsedForAnother)> AddAsync(
        ShopPerson who, int job, string name, JudgedCapture judged, Stream raw, string? key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<(KeptCapture?, bool)>(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { Closed: null } held)
            {
                return (null, false);
            }
            byte[]? hash = null;
            if (key is not null)
            {
                hash = await SHA256.HashDataAsync(raw, cancel);
                raw.Position = 0;
                if (await SenderKey.ClaimAsync(connection, transaction, who, key, cancel) is { } made)
                {
                    var kept = await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select capture_id from capture_answer where test_id = @Test", new { made.Test }, transaction, cancellationToken: cancel));
                    return kept is null || made.Job != job || !made.Is(hash) ? (null, true) : (new KeptCapture(kept.Value, made.Test!.Value), false);
                }
            }
            var capture = await InsertAsync(connection, transaction, who, held.Id, name, null, raw, Guid.NewGuid(), at, cancel);
            var test = (await AnswerAsync(connection, transaction, who, held, capture, judged, null, at, cancel))!.Value;
            if (key is not null)
            {
                await SenderKey.KeepAsync(connection, transaction, who, key, hash!, job, test, cancel);
            }
            return (new KeptCapture(capture, test), false);
        }, cancel);

    /// <summary>Keeps a capture that is judged later.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="name">The name of its file.</param>
    /// <param name="tester">The clamp it came from; absent when not said.</param>
    /// <param name="raw">Its bytes from the beginning; read to the end, not closed.</param>
    /// <param name="key">Made once by whoever sent it: sent twice, it is kept once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>Its row; absent when the shop has no such job.</returns>
    public Task<long?> KeepAsync(ShopPerson who, int job, string name, int? tester, Stream raw, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<long?>(who, async (connection, transaction) =>
            // A large capture takes its time; readings of the same job do not wait for it.
            await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select id from job where number = @job", new { job }, transaction, cancellationToken: cancel)) is not { } jobId ? null
                : await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select id from capture where entry = @key and job_id = @jobId", new { key, jobId }, transaction, cancellationToken: cancel))
                    ?? await InsertAsync(connection, transaction, who, jobId, name, tester, raw, key, at, cancel), cancel);

    /// <summary>Keeps what was said of a capture, with its test; the test of an earlier reading of the same capture is withdrawn. Of a refusal no test is made.</summary>
    /// <returns>False when the shop has no such capture on that job.</returns>
    public Task<bool> AnswerAsync(ShopPerson who, int job, long capture, JudgedCapture judged, Tester? tester, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            if (await HeldJob.OfAsync(connection, transaction, who, job, cancel) is not { } held
                || !await connection.ExecuteScalarAsync<bool>(new CommandDefinition("select exists (select 1 from capture where id = @capture and job_id = @Id)", new { capture, held.Id }, transaction, cancellationToken: cancel)))
            {
                return false;
            }
            await connection.ExecuteAsync(new CommandDefinition("""
                update test set withdrawn_at = @at, withdrawn_by = @person
                where withdrawn_at is null and id in (select test_id from capture_answer where capture_id = @capture)
                """, new { capture, at, person = who.PersonId }, transaction, cancellationToken: cancel));
            await AnswerAsync(connection, transaction, who, held, capture, judged, tester, at, cancel);
            return true;
        }, cancel);

    /// <summary>The captures of a job, the latest first.</summary>
    public Task<IReadOnlyList<CaptureOfJob>> ListAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<CaptureOfJob>>(who, async (connection, transaction) =>
            (await connection.QueryAsync<CaptureOfJob>(new CommandDefinition("""
                select c.id, c.name, c.bytes, c.tester_id as tester, c.at, p.name as by, exists (select 1 from capture_answer a where a.capture_id = c.id) as judged
                from capture c join job j on j.id = c.job_id join person p on p.id = c.by_person where j.number = @job order by c.id desc
                """, new { job }, transaction, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>The captures of a job's engine of which something could be said, on all its jobs, the oldest first.</summary>
    public Task<IReadOnlyList<CaptureOfEngine>> OfEngineAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<CaptureOfEngine>>(who, async (connection, transaction) =>
            (await connection.QueryAsync<CaptureOfEngine>(new CommandDefinition("""
                select c.id, j.number as job, c.name, c.at, p.name as by
                from job asked join job j on j.engine_id = asked.engine_id join capture c on c.job_id = j.id join person p on p.id = c.by_person
                where asked.number = @job and (select a.test_id from capture_answer a where a.capture_id = c.id order by a.id desc limit 1) is not null
                order by c.at, c.id
                """, new { job }, transaction, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>The latest that was said of a capture; absent when nothing was.</summary>
    public Task<CaptureAnswer?> AnswerOfAsync(ShopPerson who, long capture, CancellationToken cancel = default) =>
        OneAsync(who, "a.capture_id = @key", capture, cancel);

    /// <summary>What was said of the latest capture from a clamp: the next one of the same shape is read like it. Absent when none of its captures was judged yet.</summary>
    public Task<CaptureAnswer?> LatestOfTesterAsync(ShopPerson who, int tester, CancellationToken cancel = default) =>
        OneAsync(who, "c.tester_id = @key and a.test_id is not null", tester, cancel);

    /// <summary>The picture of an answer, packed; absent when the shop has none of that row on that job.</summary>
    public Task<byte[]?> PictureAsync(ShopPerson who, int job, long answer, CancellationToken cancel = default) =>
        database.InShopAsync(who, (connection, transaction) => connection.ExecuteScalarAsync<byte[]?>(new CommandDefinition("""
            select a.picture from capture_answer a join capture c on c.id = a.capture_id join job j on j.id = c.job_id where j.number = @job and a.id = @answer
            """, new { job, answer }, transaction, cancellationToken: cancel)), cancel);

    /// <summary>The bytes of a capture, as they came. Each piece is fetched when it is wanted, so that a slow reader holds no connection.</summary>
    /// <returns>The name of its file and its bytes; absent when the shop has none of that row on that job.</returns>
    public async Task<(string Name, Stream Bytes)?> OpenAsync(ShopPerson who, int job, long capture, CancellationToken cancel = default)
    {
        var name = await database.InShopAsync(who, (connection, transaction) => connection.ExecuteScalarAsync<string?>(new CommandDefinition(
            "select c.name from capture c join job j on j.id = c.job_id where j.number = @job and c.id = @capture", new { job, capture }, transaction, cancellationToken: cancel)), cancel);
        return name is null ? null : (name, new GZipStream(new PieceStream(position => database.InShopAsync(who, (connection, transaction) => connection.ExecuteScalarAsync<byte[]?>(new CommandDefinition(
            "select bytes from capture_piece where capture_id = @capture and position = @position", new { capture, position }, transaction, cancellationToken: cancel)), cancel)), CompressionMode.Decompress));
    }

    private Task<CaptureAnswer?> OneAsync(ShopPerson who, string where, long key, CancellationToken cancel) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var row = await connection.QuerySingleOrDefaultAsync<(long Id, string Shape, string Layout, string Question, string Answer, DateTimeOffset At, string By)?>(new CommandDefinition($"""
                select a.id, a.shape, a.layout::text, a.question::text, a.answer::text, a.at, p.name
                from capture_answer a join capture c on c.id = a.capture_id join person p on p.id = a.by_person where {where} order by a.id desc limit 1
                """, new { key }, transaction, cancellationToken: cancel));
            return row is not { } r ? null : new CaptureAnswer(r.Id, new JudgedCapture(r.Shape, StoredDocuments.Read<LayoutDocumentV1, CaptureLayout>(r.Layout), StoredDocuments.Read<QuestionDocumentV1, CaptureQuestion>(r.Question), StoredDocuments.Read<AnswerDocumentV1, RelativeAnswer>(r.Answer), null), r.At, r.By);
        }, cancel);

    private static async Task<long> InsertAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long jobId, string name, int? tester, Stream raw, Guid key, DateTimeOffset at, CancellationToken cancel)
    {
        var id = await connection.QuerySingleAsync<long>(new CommandDefinition("""
            insert into capture (shop_id, job_id, tester_id, name, bytes, entry, at, by_person)
            values (@shop, @jobId, @tester, @name, @bytes, @key, @at, @person) returning id
            """, new { shop = who.ShopId, jobId, tester, name = name.Length > LongestName ? name[..LongestName] : name, bytes = raw.Length, key, at, person = who.PersonId }, transaction, cancellationToken: cancel));
        await PiecesAsync(connection, transaction, who.ShopId, id, raw, cancel);
        return id;
    }

    private static async Task<long?> AnswerAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, HeldJob held, long capture, JudgedCapture judged, Tester? tester, DateTimeOffset at, CancellationToken cancel)
    {
        long? test = null;
        if (judged.Answer.Refused is null)
        {
            test = await held.AddTestAsync(judged.Answer.ForRecord() with { At = at, By = who.Person, Tester = tester }, null, at, cancel);
        }
        await connection.ExecuteAsync(new CommandDefinition("""
            insert into capture_answer (shop_id, capture_id, test_id, shape, layout, question, answer, picture, at, by_person)
            values (@shop, @capture, @test, @shape, @layout::jsonb, @question::jsonb, @answer::jsonb, @picture, @at, @person)
            """, new
        {
            shop = who.ShopId, capture, test, shape = judged.Shape, layout = StoredDocuments.Write<LayoutDocumentV1, CaptureLayout>(judged.Layout), question = StoredDocuments.Write<QuestionDocumentV1, CaptureQuestion>(judged.Question),
            answer = StoredDocuments.Write<AnswerDocumentV1, RelativeAnswer>(judged.Answer), picture = judged.Picture, at, person = who.PersonId,
        }, transaction, cancellationToken: cancel));
        return test;
    }

    // One piece is in memory at a time.
    private static async Task PiecesAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int shop, long capture, Stream raw, CancellationToken cancel)
    {
        using var packed = new MemoryStream();
        var position = 0;
        var buffer = new byte[1 << 16];
        async Task StoreAsync()
        {
            await connection.ExecuteAsync(new CommandDefinition("insert into capture_piece (shop_id, capture_id, position, bytes) values (@shop, @capture, @position, @bytes)",
                new { shop, capture, position, bytes = packed.ToArray() }, transaction, cancellationToken: cancel));
            position++;
            packed.SetLength(0);
        }
        await using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
        {
            int read;
            while ((read = await raw.ReadAsync(buffer, cancel)) > 0)
            {
                await gzip.WriteAsync(buffer.AsMemory(0, read), cancel);
                if (packed.Length >= PieceBytes)
                {
                    await StoreAsync();
                }
            }
        }
        await StoreAsync();
    }

    // The pieces one after the other, each fetched when it is wanted.
    private sealed class PieceStream(Func<int, Task<byte[]?>> fetch) : Stream
    {
        private byte[] piece = [];
        private int at;
        private int next;

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            if (at == piece.Length)
            {
                (piece, at) = (await fetch(next++) ?? [], 0);
            }
            var take = Math.Min(buffer.Length, piece.Length - at);
            piece.AsMemory(at, take).CopyTo(buffer);
            at += take;
            return take;
        }

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException("The pieces are fetched without blocking.");

        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
