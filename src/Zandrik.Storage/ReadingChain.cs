using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage;

/// <summary>
/// The chain of rows behind one place of a test: a reading is only ever added, a correction names the row it takes
/// the place of, an undo is a row of its own. The one place where that is written.
/// </summary>
internal static class ReadingChain
{
    /// <summary>The row that counts in a slot; absent when nothing was ever written there.</summary>
    internal static Task<Head?> HeadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, int slot, CancellationToken cancel) =>
        connection.QuerySingleOrDefaultAsync<Head?>(new CommandDefinition(HeadOf("@test", "@slot"), new { test, slot }, transaction, cancellationToken: cancel));

    internal static string HeadOf(string test, string slot) => $"""
        select r.id, r.position, r.body::text as body, r.conflicting_reading::text as conflicting, r.by_person, r.instrument from reading r
        where r.test_id = {test} and r.slot = {slot} and not exists (select 1 from reading n where n.supersedes = r.id)
        """;

    /// <summary>
    /// The slot of a cylinder in a test that came as a list: that of its latest row, else a free one. Whoever
    /// asks holds the test, so that two do not take one.
    /// </summary>
    internal static Task<int> SlotOfAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, int cylinder, CancellationToken cancel) =>
        connection.ExecuteScalarAsync<int>(new CommandDefinition("""
            select coalesce(
                (select slot from reading where test_id = @test and cylinder = @cylinder order by id desc limit 1),
                (select coalesce(max(slot), 0) + 1 from reading where test_id = @test))
            """, new { test, cylinder }, transaction, cancellationToken: cancel));

    /// <summary>Every reading of a cylinder that stands, with its slot, in the order they were first taken: a leak-down keeps them all.</summary>
    internal static async Task<IReadOnlyList<CountingReading>> CountingAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, int cylinder, CancellationToken cancel) =>
        (await connection.QueryAsync<CountingReading>(new CommandDefinition("""
            select r.slot, r.body::text as body from reading r
            where r.test_id = @test and r.cylinder = @cylinder and r.body is not null and not exists (select 1 from reading n where n.supersedes = r.id) order by r.position
            """, new { test, cylinder }, transaction, cancellationToken: cancel))).AsList();

    /// <summary>A slot of a test that nothing was ever written in.</summary>
    internal static Task<int> FreeSlotAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, long test, CancellationToken cancel) =>
        connection.ExecuteScalarAsync<int>(new CommandDefinition("select coalesce(max(slot), 0) + 1 from reading where test_id = @test", new { test }, transaction, cancellationToken: cancel));

    /// <summary>Adds a row over the one that counts.</summary>
    internal static Task AppendAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long test, int slot, Head? head, Row row, DateTimeOffset at, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition(Adding, Parameters(who, test, slot, head, row, at), transaction, cancellationToken: cancel));

    /// <summary>Adds a row over the one that counts, and says in the same trip what its job stands at since.</summary>
    /// <returns>The row, and the stamp.</returns>
    internal static async Task<(long Row, JobStamp Stamp)> AppendAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int job, long test, int slot, Head? head, Row row, DateTimeOffset at, CancellationToken cancel)
    {
        var parameters = Parameters(who, test, slot, head, row, at);
        parameters.Add("job", job);
        await using var grid = await connection.QueryMultipleAsync(new CommandDefinition(Adding + " returning id;\n" + WorkspaceStore.Stamps("j.number = @job"), parameters, transaction, cancellationToken: cancel));
        return (await grid.ReadSingleAsync<long>(), await grid.ReadSingleAsync<JobStamp>());
    }

    private const string Adding = """
        insert into reading (shop_id, test_id, slot, position, supersedes, undoes, entry, undo_entry, body, pressure_pa, instrument, trace, conflicting_reading, taken_at, by_person)
        values (@shop, @test, @slot, coalesce(@position, (select coalesce(max(position), 0) + 1 from reading where test_id = @test)),
                @supersedes, @Undoes, @Entry, @UndoEntry, @Body::jsonb, @PressurePa, @Instrument, coalesce(@trace, (select b.trace from reading b where b.id = @Restores)),
                @Conflicting::jsonb, @at, @person)
        """;

    private static DynamicParameters Parameters(ShopPerson who, long test, int slot, Head? head, Row row, DateTimeOffset at) => new(new
    {
        shop = who.ShopId, test, slot, position = head?.Position, supersedes = head?.Id, row.Undoes, row.Entry, row.UndoEntry, row.Body, row.PressurePa,
        row.Instrument, trace = row.Trace is { Length: > 0 } trace ? trace.ToArray() : null, row.Restores, row.Conflicting, at, person = who.PersonId,
    });

    /// <summary>
    /// Takes the person's own last entry on a test back; an entry that somebody else has written over since is
    /// left alone. Whoever asks holds the test.
    /// </summary>
    /// <returns>The slot; absent when nothing is left to take back.</returns>
    internal static async Task<int?> UndoAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, long test, Guid key, DateTimeOffset at, CancellationToken cancel)
    {
        var done = await connection.ExecuteScalarAsync<int?>(new CommandDefinition(
            "select slot from reading where undo_entry = @key", new { key }, transaction, cancellationToken: cancel));
        if (done is not null)
        {
            return done;
        }
        var last = await connection.QuerySingleOrDefaultAsync<LastEntry>(new CommandDefinition("""
            select r.id, r.slot, r.supersedes as restores, b.body::text as before, b.pressure_pa, b.instrument, b.conflicting_reading::text as before_conflicting
            from reading r left join reading b on b.id = r.supersedes
            where r.test_id = @test and r.by_person = @person and r.entry is not null and not exists (select 1 from reading u where u.undoes = r.id)
              and not exists (select 1 from reading o where o.test_id = @test and o.slot = r.slot and o.id > r.id and o.entry is not null
                              and o.by_person <> @person and not exists (select 1 from reading u where u.undoes = o.id))
            order by r.id desc limit 1
            """, new { test, person = who.PersonId }, transaction, cancellationToken: cancel));
        if (last is null)
        {
            return null;
        }
        var head = await HeadAsync(connection, transaction, test, last.Slot, cancel);
        await AppendAsync(connection, transaction, who, test, last.Slot, head, new Row
        {
            Body = last.Before, PressurePa = last.PressurePa, Instrument = last.Instrument, Restores = last.Restores, Conflicting = last.BeforeConflicting, Undoes = last.Id, UndoEntry = key,
        }, at, cancel);
        return last.Slot;
    }

    /// <summary>A reading that stands, and its slot.</summary>
    internal sealed record CountingReading
    {
        public int Slot { get; init; }
        public string Body { get; init; } = "";
    }

    /// <summary>The row that counts.</summary>
    internal sealed record Head
    {
        public long Id { get; init; }
        public int Position { get; init; }
        public string? Body { get; init; }
        public string? Conflicting { get; init; }
        public int ByPerson { get; init; }
        public string? Instrument { get; init; }
    }

    /// <summary>What is written of a new row.</summary>
    internal sealed record Row
    {
        /// <summary>A row of a reading.</summary>
        /// <param name="reading">The reading.</param>
        /// <param name="testUnit">The unit of its test's figures.</param>
        /// <param name="source">The instrument its figure came from; absent where a person read it.</param>
        public static Row Of(CylinderReading reading, PressureUnit testUnit, ReadingSource? source = null) => new()
        {
            // By its own type: as a reading of any kind it would lose what its kind adds.
            Body = JsonSerializer.Serialize(reading, reading.GetType(), TestRecordJson.Options),
            PressurePa = reading.PressurePa(testUnit),
            Instrument = source?.Instrument,
            Trace = source?.Trace,
        };

        public string? Body { get; init; }
        public double? PressurePa { get; init; }
        public string? Instrument { get; init; }
        public ReadOnlyMemory<byte>? Trace { get; init; }

        /// <summary>The row that an undo brings back, for what only the database holds of it.</summary>
        public long? Restores { get; init; }
        public string? Conflicting { get; init; }
        public Guid? Entry { get; init; }
        public Guid? UndoEntry { get; init; }
        public long? Undoes { get; init; }
    }

    private sealed record LastEntry
    {
        public long Id { get; init; }
        public int Slot { get; init; }
        public long? Restores { get; init; }
        public string? Before { get; init; }
        public double? PressurePa { get; init; }
        public string? Instrument { get; init; }
        public string? BeforeConflicting { get; init; }
    }
}
