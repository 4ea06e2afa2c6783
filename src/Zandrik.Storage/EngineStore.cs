using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>Where an engine sat, and from when to when.</summary>
public sealed record EngineStay
{
    /// <summary>The row.</summary>
    public int Id { get; init; }

    /// <summary>The engine.</summary>
    public int EngineId { get; init; }

    /// <summary>Its serial number or the shop's tag; absent where nobody said.</summary>
    public string? Serial { get; init; }

    /// <summary>What its latest job calls the engine; absent where none says.</summary>
    public string? Design { get; init; }

    /// <summary>The vehicle.</summary>
    public int VehicleId { get; init; }

    /// <summary>What the shop calls the vehicle.</summary>
    public string Vehicle { get; init; } = "";

    /// <summary>From when; absent for as long as anybody knows.</summary>
    public DateTimeOffset? Since { get; init; }

    /// <summary>Until when; absent while it sits there.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>Who said so; absent where a job did.</summary>
    public string? By { get; init; }

    /// <summary>How many jobs of the engine were done in that vehicle.</summary>
    public int Jobs { get; init; }
}

/// <summary>An engine, with where it sat.</summary>
/// <param name="Id">The row.</param>
/// <param name="Serial">Serial number or the shop's tag; absent where nobody said.</param>
/// <param name="SheetId">The sheet it is built by; absent for none.</param>
/// <param name="Notes">The shop's own notes.</param>
/// <param name="Stays">Where it sat, the latest first.</param>
public sealed record KeptEngine(int Id, string? Serial, int? SheetId, string? Notes, IReadOnlyList<EngineStay> Stays)
{
    /// <summary>What its latest job calls it; absent where none says.</summary>
    public string? Design => Stays.Select(s => s.Design).FirstOrDefault(d => d is not null);

    /// <summary>Where it sits; absent while it stands on the shelf.</summary>
    public EngineStay? Now => Stays.FirstOrDefault(s => s.Until is null);

    /// <summary>What it is called: its serial number, else by the vehicle.</summary>
    public string Name => Serial ?? (Stays.Count > 0 ? $"Engine of {Stays[0].Vehicle}" : $"Engine {Id}");
}

/// <summary>An engine taken out of a vehicle, another put in, or both.</summary>
/// <param name="Out">The engine that came out; absent for none.</param>
/// <param name="In">Serial number or tag of the one that went in, which is made where the shop has none of that; absent for none.</param>
/// <param name="At">When.</param>
public sealed record EngineSwap(int? Out, string? In, DateTimeOffset At);

/// <summary>
/// Keeps engines. One is made by itself when a job is opened on it; it is taken out of a vehicle and put into another
/// with a date, and its readings go with it.
/// </summary>
public sealed class EngineStore(ShopDatabase database)
{
    private const string Stays = """
        select s.id, s.engine_id, e.serial, (select j.record -> 'engine' ->> 'name' from job j where j.engine_id = s.engine_id order by j.opened_at desc, j.number desc limit 1) as design,
               s.vehicle_id, v.label as vehicle, s.since, s.until, p.name as by,
               (select count(*)::int from job j where j.engine_id = s.engine_id and j.vehicle_id = s.vehicle_id) as jobs
        from engine_in s join engine e on e.id = s.engine_id join vehicle v on v.id = s.vehicle_id left join person p on p.id = s.noted_by
        """;

    /// <summary>An engine of the shop; absent when it has none of that row.</summary>
    public Task<KeptEngine?> FindAsync(ShopPerson who, int id, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => (await LoadAsync(c, t, [id], cancel)) is [var engine] ? engine : null, cancel);

    internal static async Task<IReadOnlyList<KeptEngine>> LoadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int[] ids, CancellationToken cancel)
    {
        if (ids.Length == 0)
        {
            return [];
        }
        var engines = await connection.QueryAsync<(int Id, string? Serial, int? SheetId, string? Notes)>(new CommandDefinition(
            "select id, serial, sheet_id, notes from engine where id = any(@ids) order by id desc", new { ids }, transaction, cancellationToken: cancel));
        var stays = (await connection.QueryAsync<EngineStay>(new CommandDefinition(
            Stays + " where s.engine_id = any(@ids) order by s.since desc nulls last, s.id desc", new { ids }, transaction, cancellationToken: cancel))).ToLookup(s => s.EngineId);
        return [.. engines.Select(e => new KeptEngine(e.Id, e.Serial, e.SheetId, e.Notes, [.. stays[e.Id]]))];
    }

    /// <summary>The engines that sat in a vehicle, the latest first.</summary>
    public Task<IReadOnlyList<EngineStay>> OfVehicleAsync(ShopPerson who, int vehicle, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<EngineStay>>(who, async (c, t) => (await c.QueryAsync<EngineStay>(new CommandDefinition(
            Stays + " where s.vehicle_id = @vehicle order by s.until desc nulls first, s.since desc nulls last, s.id desc", new { vehicle }, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Jobs of a vehicle whose engine was never said to sit in it: it was swapped, or the serial number has a slip.</summary>
    public Task<IReadOnlyList<(int Job, int Engine, string? Serial)>> StrangersAsync(ShopPerson who, int vehicle, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<(int, int, string?)>>(who, async (c, t) => (await c.QueryAsync<(int, int, string?)>(new CommandDefinition("""
            select max(j.number), e.id, e.serial from job j join engine e on e.id = j.engine_id
            where j.vehicle_id = @vehicle and not exists (select 1 from engine_in s where s.engine_id = e.id and s.vehicle_id = @vehicle) group by e.id, e.serial order by max(j.number) desc limit 20
            """, new { vehicle }, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Changes what an engine is known by.</summary>
    /// <returns>False when another engine has the serial number, or the shop has no such row.</returns>
    public async Task<bool> ChangeAsync(ShopPerson who, int id, string? serial, int? sheet, string? notes, CancellationToken cancel = default)
    {
        try
        {
            return await database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
                "update engine set serial = @serial, sheet_id = (select s.id from engine_sheet s where s.id = @sheet), notes = @notes where id = @id", new { id, serial, sheet, notes }, t, cancellationToken: cancel)), cancel) > 0;
        }
        catch (PostgresException taken) when (taken.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return false;
        }
    }

    /// <summary>
    /// Takes an engine out of a vehicle, puts another in, or both, at one moment. Jobs on the vehicle from then on that
    /// name no serial number and stood on the engine that came out, or on none that sat there, are of the one that went in.
    /// </summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="vehicle">The vehicle.</param>
    /// <param name="swap">What came out and went in, and when.</param>
    /// <param name="day">Writes a date as the shop does, for a refusal.</param>
    /// <param name="cancel">Cancels the work; nothing is changed then.</param>
    /// <returns>Refused, with the dates, where the engine would be in two vehicles at once, or came out before it went in.</returns>
    public Task<StepAnswer> SwapAsync(ShopPerson who, int vehicle, EngineSwap swap, Func<DateTimeOffset, string> day, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            // Whoever changes an intake holds its job and then the vehicle: so does this. Two who swap at once wait for each other at the vehicle.
            await c.ExecuteAsync(new CommandDefinition("select 1 from job where vehicle_id = @vehicle order by id for update", new { vehicle }, t, cancellationToken: cancel));
            if (await c.ExecuteScalarAsync<int?>(new CommandDefinition("select id from vehicle where id = @vehicle for update", new { vehicle }, t, cancellationToken: cancel)) is null)
            {
                return StepAnswer.Missing;
            }
            EngineStay? leaves = null;
            if (swap.Out is { } comesOut)
            {
                leaves = await c.QuerySingleOrDefaultAsync<EngineStay>(new CommandDefinition(Stays + " where s.vehicle_id = @vehicle and s.engine_id = @comesOut and s.until is null", new { vehicle, comesOut }, t, cancellationToken: cancel));
                if (leaves is null)
                {
                    return new StepAnswer(true, "That engine is already out.");
                }
                if (leaves.Since >= swap.At)
                {
                    return new StepAnswer(true, $"It was fitted on {day(leaves.Since.Value)}: pick a later date.");
                }
            }
            int? goesIn = null;
            if (swap.In is { } serial)
            {
                goesIn = await c.ExecuteScalarAsync<int?>(new CommandDefinition("select id from engine where lower(serial) = lower(@serial) for update", new { serial }, t, cancellationToken: cancel));
                var elsewhere = goesIn is null ? null : await c.QueryFirstOrDefaultAsync<EngineStay>(new CommandDefinition(
                    Stays + " where s.engine_id = @goesIn and tstzrange(s.since, s.until) && tstzrange(@At, null) order by s.since desc nulls last", new { goesIn, swap.At }, t, cancellationToken: cancel));
                if (elsewhere is not null)
                {
                    return new StepAnswer(true, $"{serial} {(elsewhere.Until is null ? "is" : "was")} fitted in {elsewhere.Vehicle}{Span(elsewhere, day)}. {(elsewhere.Until is null ? "Take it out there first" : "Pick a date after it came out")}: an engine can be in one vehicle only.");
                }
                goesIn ??= await MakeAsync(c, t, who, serial, null, cancel);
            }
            // Everything is asked; from here on it is written.
            if (leaves is not null)
            {
                await c.ExecuteAsync(new CommandDefinition("update engine_in set until = @At where id = @Id", new { swap.At, leaves.Id }, t, cancellationToken: cancel));
            }
            if (goesIn is { } id)
            {
                await PlaceAsync(c, t, who, id, vehicle, swap.At, who.PersonId, cancel);
                var moved = (await c.QueryAsync<(long Job, int Engine)>(new CommandDefinition("""
                    select j.id, j.engine_id from job j where j.vehicle_id = @vehicle and j.opened_at >= @At and j.engine_id <> @id and j.record -> 'engine' ->> 'serial' is null
                        and (j.engine_id = @comesOut or not exists (select 1 from engine_in s where s.engine_id = j.engine_id and s.vehicle_id = @vehicle))
                    """, new { id, vehicle, swap.At, comesOut = swap.Out }, t, cancellationToken: cancel))).AsList();
                await c.ExecuteAsync(new CommandDefinition("update job set engine_id = @id where id = any(@jobs)", new { id, jobs = moved.Select(m => m.Job).ToArray() }, t, cancellationToken: cancel));
                foreach (var left in moved.Select(m => m.Engine).Distinct())
                {
                    await ForgetAsync(c, t, left, cancel);
                }
            }
            return StepAnswer.Kept;
        }, cancel);

    // The engine of a job that is opened or whose vehicle or serial number is changed.
    internal static async Task<int> OfJobAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int? vehicle, EngineSheet says, int? sheetVersion, DateTimeOffset at, CancellationToken cancel)
    {
        var serial = string.IsNullOrWhiteSpace(says.Serial) ? null : says.Serial.Trim();
        if (vehicle is not null)
        {
            // Two jobs that are opened at once on a vehicle are of one engine.
            await connection.ExecuteAsync(new CommandDefinition("select 1 from vehicle where id = @vehicle for update", new { vehicle }, transaction, cancellationToken: cancel));
        }
        var here = vehicle is null ? [] : (await connection.QueryAsync<(int Id, string? Serial, string? Engine)>(new CommandDefinition("""
            select s.engine_id, e.serial, (select (j.record -> 'engine')::text from job j where j.engine_id = s.engine_id order by j.opened_at desc, j.number desc limit 1)
            from engine_in s join engine e on e.id = s.engine_id where s.vehicle_id = @vehicle and tstzrange(s.since, s.until) @> @at order by s.id
            """, new { vehicle, at }, transaction, cancellationToken: cancel))).AsList();
        var fitting = here.Where(e => e.Engine is null || EngineRules.CanBeOf(JsonSerializer.Deserialize<EngineSheet>(e.Engine, TestRecordJson.Options)!, says)).ToList();
        if (serial is null)
        {
            // Which of two nobody said: the job stands on an engine of its own until somebody does.
            return fitting is [var one] ? one.Id : await NewAsync();
        }
        if (await connection.ExecuteScalarAsync<int?>(new CommandDefinition("select id from engine where lower(serial) = lower(@serial)", new { serial }, transaction, cancellationToken: cancel)) is { } known)
        {
            if (vehicle is { } into && here.Count == 0 && !await connection.ExecuteScalarAsync<bool>(new CommandDefinition(
                "select exists (select 1 from engine_in where engine_id = @known and tstzrange(since, until) && tstzrange(@at, null))", new { known, at }, transaction, cancellationToken: cancel)))
            {
                await PlaceAsync(connection, transaction, who, known, into, at, null, cancel);
            }
            return known;
        }
        if (fitting is [{ Serial: null } nameless])
        {
            // Its number is read for the first time.
            await connection.ExecuteAsync(new CommandDefinition("update engine set serial = @serial where id = @Id", new { serial, nameless.Id }, transaction, cancellationToken: cancel));
            return nameless.Id;
        }
        return await NewAsync();

        async Task<int> NewAsync()
        {
            var made = await MakeAsync(connection, transaction, who, serial, sheetVersion, cancel);
            if (vehicle is { } into && here.Count == 0)
            {
                // The first engine of a vehicle sat in it for as long as anybody knows.
                var first = !await connection.ExecuteScalarAsync<bool>(new CommandDefinition("select exists (select 1 from engine_in where vehicle_id = @into)", new { into }, transaction, cancellationToken: cancel));
                await PlaceAsync(connection, transaction, who, made, into, first ? null : at, null, cancel);
            }
            return made;
        }
    }

    // The engine of a job after its intake was put right. While the job is the only one of its engine and nobody has placed
    // that engine by hand, a slip in the number or the cylinders is a slip about this engine, and it stays where it sits.
    internal static async Task<int> OfCorrectedJobAsync(
        NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int engine, bool moved, int? vehicle, EngineSheet said, EngineSheet says, int? sheetVersion, DateTimeOffset at, CancellationToken cancel)
    {
        var serial = string.IsNullOrWhiteSpace(says.Serial) ? null : says.Serial.Trim();
        if (!moved && await connection.ExecuteAsync(new CommandDefinition("""
            update engine e set serial = @serial where e.id = @engine and e.notes is null and lower(e.serial) is not distinct from lower(@was)
                and (select count(*) from job j where j.engine_id = e.id) = 1
                and not exists (select 1 from engine_in s where s.engine_id = e.id and s.noted_by is not null)
                and not exists (select 1 from engine o where o.id <> e.id and lower(o.serial) = lower(@serial))
            """, new { engine, serial, was = said.Serial?.Trim() }, transaction, cancellationToken: cancel)) > 0)
        {
            return engine;
        }
        return await OfJobAsync(connection, transaction, who, vehicle, says, sheetVersion, at, cancel);
    }

    // An engine that was made for a slip of the pen goes again: no job is of it, and nobody wrote anything on it.
    internal static Task ForgetAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int engine, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition("""
            delete from engine e where e.id = @engine and e.notes is null and not exists (select 1 from job j where j.engine_id = e.id)
                and not exists (select 1 from engine_in s where s.engine_id = e.id and s.noted_by is not null)
            """, new { engine }, transaction, cancellationToken: cancel));

    internal static Task<int> MakeAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, string? serial, int? sheetVersion, CancellationToken cancel) =>
        connection.ExecuteScalarAsync<int>(new CommandDefinition(
            "insert into engine (shop_id, serial, sheet_id) values (@shop, @serial, (select v.sheet_id from engine_sheet_version v where v.id = @sheetVersion)) returning id",
            new { shop = who.ShopId, serial, sheetVersion }, transaction, cancellationToken: cancel));

    internal static Task PlaceAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int engine, int vehicle, DateTimeOffset? since, int? by, CancellationToken cancel) =>
        connection.ExecuteAsync(new CommandDefinition("""
            insert into engine_in (shop_id, engine_id, vehicle_id, since, until, noted_by) values (@shop, @engine, @vehicle, @since,
                -- What a job from earlier days says holds until somebody said what went in next.
                case when @by::int is null then (select min(s.since) from engine_in s where s.vehicle_id = @vehicle and s.since > coalesce(@since::timestamptz, '-infinity')) end, @by)
            """,
            new { shop = who.ShopId, engine, vehicle, since, by }, transaction, cancellationToken: cancel));

    private static string Span(EngineStay stay, Func<DateTimeOffset, string> day) => (stay.Since, stay.Until) switch
    {
        (null, null) => "",
        ({ } since, null) => $" since {day(since)}",
        (null, { } until) => $" until {day(until)}",
        ({ } since, { } until) => $" from {day(since)} to {day(until)}",
    };
}
