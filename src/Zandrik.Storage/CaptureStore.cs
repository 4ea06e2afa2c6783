using System.IO.Compression;
using System.Security.Cryptography;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>A capture that is kept: the row of the capture, and of the test that was made from it.</summary>
/// <param name="Capture">Row of the capture.</param>
/// <param name="Test">Row of the test.</param>
public sealed record KeptCapture(long Capture, long Test);

/// <summary>What goes with a capture.</summary>
/// <param name="Name">The name of its file.</param>
/// <param name="Layout">How it was read, JSON.</param>
/// <param name="Answer">What was said of it, JSON.</param>
public sealed record CaptureFacts(string Name, string Layout, string Answer);

/// <summary>Keeps captures of starter current with their jobs: the bytes as they came, compressed in pieces, and the test that they gave. Never changed, never deleted.</summary>
public sealed class CaptureStore(ShopDatabase database)
{
    private const int PieceBytes = 1 << 20;
    private const int LongestName = 200;

    /// <summary>Keeps a capture and its test, both or neither.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="job">The job.</param>
    /// <param name="test">The test.</param>
    /// <param name="facts">What goes with it.</param>
    /// <param name="raw">Its bytes from the beginning; read to the end, not closed. Seekable where there is a key.</param>
    /// <param name="key">The sender's key: the same capture sent again finds what it made the first time; absent for none.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is kept then.</param>
    /// <returns>What is kept, absent when the shop has no such job; and whether the key was used before for something else (then nothing was kept).</returns>
    public Task<(KeptCapture? Kept, bool KeyUsedForAnother)> AddAsync(
        ShopPerson who, int job, RelativeCompressionTest test, CaptureFacts facts, Stream raw, string? key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<(KeptCapture?, bool)>(who, async (connection, transaction) =>
        {
            var jobId = await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select id from job where number = @job for update", new { job }, transaction, cancellationToken: cancel));
            if (jobId is null)
            {
                return (null, false);
            }
            byte[]? hash = null;
            if (key is not null)
            {
                hash = await SHA256.HashDataAsync(raw, cancel);
                raw.Position = 0;
                await connection.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(@shop, hashtext(@key))", new { shop = who.ShopId, key }, transaction, cancellationToken: cancel));
                var before = await connection.QuerySingleOrDefaultAsync<(byte[] Hash, int Number, long? Test)?>(new CommandDefinition(
                    "select request_hash, job_number, test_id from idempotency where key = @key", new { key }, transaction, cancellationToken: cancel));
                if (before is { } made)
                {
                    var capture = await connection.ExecuteScalarAsync<long?>(new CommandDefinition("select id from capture where test_id = @Test", new { made.Test }, transaction, cancellationToken: cancel));
                    return capture is null || made.Number != job || !made.Hash.AsSpan().SequenceEqual(hash) ? (null, true) : (new KeptCapture(capture.Value, made.Test!.Value), false);
                }
            }
            var position = await connection.ExecuteScalarAsync<int>(new CommandDefinition("select coalesce(max(position), 0) + 1 from test where job_id = @jobId", new { jobId }, transaction, cancellationToken: cancel));
            var testId = await JobStore.InsertTestAsync(connection, transaction, who, jobId.Value, position, test with { At = test.At ?? at, By = test.By ?? who.Person }, at, cancel);
            var id = await connection.QuerySingleAsync<long>(new CommandDefinition("""
                insert into capture (shop_id, job_id, test_id, name, bytes, layout, answer, at, by_person)
                values (@shop, @jobId, @testId, @name, @bytes, @layout::jsonb, @answer::jsonb, @at, @person) returning id
                """, new
            {
                shop = who.ShopId, jobId, testId, name = facts.Name.Length > LongestName ? facts.Name[..LongestName] : facts.Name, bytes = raw.Length, layout = facts.Layout, answer = facts.Answer, at, person = who.PersonId,
            }, transaction, cancellationToken: cancel));
            await PiecesAsync(connection, transaction, who.ShopId, id, raw, cancel);
            if (key is not null)
            {
                await connection.ExecuteAsync(new CommandDefinition(
                    "insert into idempotency (shop_id, key, request_hash, job_number, test_id) values (@shop, @key, @hash, @job, @testId)",
                    new { shop = who.ShopId, key, hash, job, testId }, transaction, cancellationToken: cancel));
            }
            return (new KeptCapture(id, testId), false);
        }, cancel);

    /// <summary>Writes the bytes of a capture, as they came, to a stream.</summary>
    /// <returns>The name of its file; absent, and nothing written, when the shop has none of that row on that job.</returns>
    public Task<string?> WriteAsync(ShopPerson who, int job, long capture, Func<string, Stream> to, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var name = await connection.ExecuteScalarAsync<string?>(new CommandDefinition(
                "select c.name from capture c join job j on j.id = c.job_id where j.number = @job and c.id = @capture", new { job, capture }, transaction, cancellationToken: cancel));
            if (name is null)
            {
                return null;
            }
            await using var pieces = new PieceStream(position => connection.ExecuteScalarAsync<byte[]?>(new CommandDefinition(
                "select bytes from capture_piece where capture_id = @capture and position = @position", new { capture, position }, transaction, cancellationToken: cancel)));
            await using var plain = new GZipStream(pieces, CompressionMode.Decompress);
            await plain.CopyToAsync(to(name), cancel);
            return name;
        }, cancel);

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
