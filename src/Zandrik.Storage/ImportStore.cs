using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Dapper;
using Npgsql;
using Zandrik.Core.Imports;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Storage;

/// <summary>What an import is of.</summary>
public enum ImportKind
{
    /// <summary>Vehicles.</summary>
    Vehicles,

    /// <summary>Engine sheets.</summary>
    Sheets,

    /// <summary>Old jobs.</summary>
    Jobs,

    /// <summary>The sample job of a new shop.</summary>
    Sample,
}

/// <summary>An import as a list shows it.</summary>
public sealed record ImportLine
{
    /// <summary>The row.</summary>
    public int Id { get; init; }

    /// <summary>What it is of, as a word.</summary>
    public string Kind { get; init; } = "";

    /// <summary>When it came in.</summary>
    public DateTimeOffset MadeAt { get; init; }

    /// <summary>Who brought it in.</summary>
    public string MadeBy { get; init; } = "";

    /// <summary>How many things it brought.</summary>
    public int Added { get; init; }

    /// <summary>How many it changed.</summary>
    public int Changed { get; init; }

    /// <summary>When it was undone; absent while it stands.</summary>
    public DateTimeOffset? UndoneAt { get; init; }

    /// <summary>Who undid it; absent while it stands.</summary>
    public string? UndoneBy { get; init; }
}

/// <summary>What an import does, or would do, with a row.</summary>
/// <param name="Row">The row, from 1.</param>
/// <param name="Says">What happens to it, or why it is left out.</param>
/// <param name="IsTaken">True where it is imported.</param>
public sealed record ImportPlan(int Row, string Says, bool IsTaken);

/// <summary>What an undo did.</summary>
/// <param name="Undone">How many things it took off or put back.</param>
/// <param name="Kept">What stays, because something was entered on it since: names.</param>
public sealed record ImportUndo(int Undone, IReadOnlyList<string> Kept);

/// <summary>
/// Brings in what a shop has in tables: each import whole or not at all, once however often it is sent, and undone whole,
/// but for what somebody has worked on since.
/// </summary>
public sealed class ImportStore(ShopDatabase database)
{
    /// <summary>The shop's imports, the newest first.</summary>
    public Task<IReadOnlyList<ImportLine>> ListAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<ImportLine>>(who, async (c, t) => (await c.QueryAsync<ImportLine>(new CommandDefinition("""
            select i.id, i.kind, i.made_at, p.name as made_by, i.undone_at, u.name as undone_by,
                   (select count(*)::int from import_row r where r.import_id = i.id and r.change = 'new' and case i.kind when 'vehicles' then r.vehicle_id when 'sheets' then r.sheet_id else r.job_id end is not null) as added,
                   (select count(*)::int from import_row r where r.import_id = i.id and r.change = 'changed') as changed
            from import i join person p on p.id = i.made_by left join person u on u.id = i.undone_by order by i.id desc limit 200
            """, null, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>The number of the sample job; absent while the shop has none.</summary>
    public Task<int?> SampleJobAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition("select number from job where sample order by number desc limit 1", null, t, cancellationToken: cancel)), cancel);

    /// <summary>The job a tour goes through: the sample, else the one made with a key, as the demo data are; absent where there is neither.</summary>
    public Task<int?> TourJobAsync(ShopPerson who, string key, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition(
            "select coalesce((select number from job where sample order by number desc limit 1), (select j.number from idempotency i join job j on j.number = i.job_number where i.key = @key))", new { key }, t, cancellationToken: cancel)), cancel);

    /// <summary>What would happen with each vehicle; nothing is changed.</summary>
    public Task<IReadOnlyList<ImportPlan>> PlanAsync(ShopPerson who, IReadOnlyList<VehicleRow> rows, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<ImportPlan>>(who, async (c, t) =>
        {
            var known = await KnownAsync(c, t, rows.Select(r => r.Label), cancel);
            var engines = (await c.QueryAsync<(string Serial, string? Vehicle)>(new CommandDefinition("""
                select lower(e.serial), v.label from engine e left join engine_in s on s.engine_id = e.id and s.until is null left join vehicle v on v.id = s.vehicle_id where lower(e.serial) = any(@serials)
                """, new { serials = rows.Select(r => r.Serial?.ToLowerInvariant()).OfType<string>().ToArray() }, t, cancellationToken: cancel))).ToDictionary(e => e.Serial, e => e.Vehicle);
            return [.. rows.Select(r => Plan(r, known.GetValueOrDefault(r.Label.ToLowerInvariant()), engines))];
        }, cancel);

    private static ImportPlan Plan(VehicleRow row, VehicleLine? known, Dictionary<string, string?> engines)
    {
        if (row.Problems.Count > 0)
        {
            return new ImportPlan(row.Row, string.Join(" ", row.Problems), false);
        }
        if (row.Serial is { } serial && engines.TryGetValue(serial.ToLowerInvariant(), out var sits) && sits is not null && !string.Equals(sits, row.Label, StringComparison.OrdinalIgnoreCase))
        {
            return new ImportPlan(row.Row, $"Engine serial: {serial} is fitted in {sits}. Take it out there first, or leave the number out.", false);
        }
        var changes = known is null ? [] : new[] { Change("registration", known.Identity, row.Identity), Change("notes", known.Notes, row.Notes) }.OfType<string>().ToList();
        return known is null ? new ImportPlan(row.Row, "new", true) : changes.Count > 0 ? new ImportPlan(row.Row, $"changed: {string.Join("; ", changes)}", true)
            : row.Engine is not null || row.Serial is not null ? new ImportPlan(row.Row, "here already; its engine is added where it has none", true) : new ImportPlan(row.Row, "here already, nothing to change", false);
    }

    private static string? Change(string what, string? was, string? said) => said is null || said == was ? null : was is null ? $"{what} {Short(said)}" : $"{what} {Short(was)} → {Short(said)}";

    private static string Short(string text) => text.Length > 40 ? text[..39] + "…" : text;

    private static async Task<Dictionary<string, VehicleLine>> KnownAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, IEnumerable<string> labels, CancellationToken cancel) =>
        (await connection.QueryAsync<VehicleLine>(new CommandDefinition("select id, label, identity, notes from vehicle where lower(label) = any(@labels)",
            new { labels = labels.Select(l => l.ToLowerInvariant()).Distinct().ToArray() }, transaction, cancellationToken: cancel))).ToDictionary(v => v.Label.ToLowerInvariant());

    /// <summary>Which job of the same vehicle on the same day the shop has already, for each row that has one.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="rows">The rows, with the moment that stands for their day.</param>
    /// <param name="cancel">Cancels the work.</param>
    /// <returns>The number of that job by the number of the row.</returns>
    public Task<IReadOnlyDictionary<int, int>> HereAlreadyAsync(ShopPerson who, IReadOnlyList<(JobRow Row, DateTimeOffset Noon)> rows, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyDictionary<int, int>>(who, async (c, t) => (await c.QueryAsync<(int Row, int Job)>(new CommandDefinition("""
            select r.row, max(j.number) from unnest(@numbers, @labels, @noons) as r (row, label, noon)
            join job j on lower(j.vehicle_label) = r.label and j.opened_at between r.noon - interval '12 hours' and r.noon + interval '12 hours' group by r.row
            """, new { numbers = rows.Select(r => r.Row.Row).ToArray(), labels = rows.Select(r => r.Row.Vehicle.ToLowerInvariant()).ToArray(), noons = rows.Select(r => r.Noon.UtcDateTime).ToArray() }, t, cancellationToken: cancel)))
            .ToDictionary(r => r.Row, r => r.Job), cancel);

    /// <summary>Brings vehicles in. One that is here already keeps what the row does not say.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="rows">Rows without problems.</param>
    /// <param name="sheets">Versions of the shop's engine sheets by name.</param>
    /// <param name="entry">Made with the preview: sent twice, it is imported once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is imported then.</param>
    /// <returns>The import.</returns>
    public Task<int> VehiclesAsync(ShopPerson who, IReadOnlyList<VehicleRow> rows, IReadOnlyDictionary<string, int> sheets, Guid entry, DateTimeOffset at, CancellationToken cancel = default) =>
        ImportAsync(who, ImportKind.Vehicles, entry, at, async (c, t, import) =>
        {
            var known = await KnownAsync(c, t, rows.Select(r => r.Label), cancel);
            foreach (var row in rows)
            {
                var before = known.GetValueOrDefault(row.Label.ToLowerInvariant());
                var id = before?.Id ?? await c.ExecuteScalarAsync<int>(new CommandDefinition(
                    // Somebody may have named it since: then it is that one.
                    "insert into vehicle (shop_id, label, identity, notes) values (@ShopId, @Label, @Identity, @Notes) on conflict (shop_id, purpose, lower(label)) where withdrawn_at is null do update set label = vehicle.label returning id", new { who.ShopId, row.Label, row.Identity, row.Notes }, t, cancellationToken: cancel));
                var after = new Said(before?.Label ?? row.Label, row.Identity ?? before?.Identity, row.Notes ?? before?.Notes);
                var changed = before is not null && after != Said.Of(before);
                if (changed)
                {
                    await c.ExecuteAsync(new CommandDefinition("update vehicle set identity = @Identity, notes = @Notes where id = @id", new { id, after.Identity, after.Notes }, t, cancellationToken: cancel));
                }
                var engine = await EngineAsync(c, t, who, row, id, sheets, cancel);
                if (before is null || changed || engine is not null)
                {
                    await c.ExecuteAsync(new CommandDefinition("""
                        insert into import_row (shop_id, import_id, row, change, vehicle_id, engine_id, before, after) values (@ShopId, @import, @Row, @change, @id, @engine, @before::jsonb, @after::jsonb)
                        """, new { who.ShopId, import, row.Row, change = before is null ? "new" : "changed", id, engine, before = before is null ? null : JsonSerializer.Serialize(Said.Of(before)), after = JsonSerializer.Serialize(after) }, t, cancellationToken: cancel));
                }
            }
        }, cancel);

    // The engine that was made for a vehicle; absent where it has one, or the row names none.
    private static async Task<int?> EngineAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, VehicleRow row, int vehicle, IReadOnlyDictionary<string, int> sheets, CancellationToken cancel)
    {
        if ((row.Engine is null && row.Serial is null) || await connection.ExecuteScalarAsync<bool>(new CommandDefinition(
            "select exists (select 1 from engine_in s join engine e on e.id = s.engine_id where s.vehicle_id = @vehicle and s.until is null)", new { vehicle }, transaction, cancellationToken: cancel)))
        {
            return null;
        }
        if (row.Serial is { } serial && await connection.ExecuteScalarAsync<int?>(new CommandDefinition("select id from engine where lower(serial) = lower(@serial)", new { serial }, transaction, cancellationToken: cancel)) is { } known)
        {
            if (!await connection.ExecuteScalarAsync<bool>(new CommandDefinition("select exists (select 1 from engine_in where engine_id = @known)", new { known }, transaction, cancellationToken: cancel)))
            {
                await EngineStore.PlaceAsync(connection, transaction, who, known, vehicle, null, null, cancel);
            }
            return null;
        }
        var made = await EngineStore.MakeAsync(connection, transaction, who, row.Serial, row.Engine is { } name ? sheets[name] : null, cancel);
        await EngineStore.PlaceAsync(connection, transaction, who, made, vehicle, null, null, cancel);
        return made;
    }

    /// <summary>Brings engine sheets in, each as a new version of the sheet of its name.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="rows">Rows that are sheets.</param>
    /// <param name="entry">Made with the preview: sent twice, it is imported once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is imported then.</param>
    /// <returns>The import.</returns>
    public Task<int> SheetsAsync(ShopPerson who, IReadOnlyList<Core.Engines.SheetRow> rows, Guid entry, DateTimeOffset at, CancellationToken cancel = default) =>
        ImportAsync(who, ImportKind.Sheets, entry, at, async (c, t, import) =>
        {
            foreach (var row in rows)
            {
                var before = await c.QuerySingleOrDefaultAsync<int?>(new CommandDefinition(
                    "select v.id from engine_sheet s join lateral (select id from engine_sheet_version x where x.sheet_id = s.id order by x.version desc limit 1) v on true where lower(s.name) = lower(@name) and s.retired_at is null", new { name = row.Name }, t, cancellationToken: cancel));
                var (version, change) = (await SheetStore.SaveAsync(c, t, who, null, row.Sheet!, at, cancel))!.Value;
                if (change != SheetChange.Same)
                {
                    await c.ExecuteAsync(new CommandDefinition("""
                        insert into import_row (shop_id, import_id, row, change, sheet_id, before_version, after_version)
                        select @ShopId, @import, @Row, @change, v.sheet_id, @before, v.id from engine_sheet_version v where v.id = @version
                        """, new { who.ShopId, import, row.Row, change = before is null ? "new" : "changed", before, version }, t, cancellationToken: cancel));
                }
            }
        }, cancel);

    /// <summary>Brings old jobs in: each is over, on its day.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="rows">Rows without problems, with the moment that stands for their day.</param>
    /// <param name="sheets">Versions of the shop's engine sheets by name.</param>
    /// <param name="entry">Made with the preview: sent twice, it is imported once.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is imported then.</param>
    /// <returns>The import.</returns>
    public async Task<int> JobsAsync(ShopPerson who, IReadOnlyList<(JobRow Row, DateTimeOffset Noon)> rows, IReadOnlyDictionary<string, int> sheets, Guid entry, DateTimeOffset at, CancellationToken cancel = default)
    {
        // Numbers first: the shop's row is not held while many jobs are written.
        var first = await JobStore.NumbersAsync(database, who, rows.Count, cancel);
        return await ImportAsync(who, ImportKind.Jobs, entry, at, async (c, t, import) =>
        {
            // The oldest has the lowest number, as if they had been written down at the time.
            foreach (var ((row, noon), place) in rows.OrderBy(r => r.Noon).ThenBy(r => r.Row.Row).Select((r, i) => (r, i)))
            {
                var job = await JobStore.InsertAsync(c, t, who, first + place, row.Record! with { JudgeBy = who.Settings.JudgeBy }, at, null, row.Sheet is { } sheet ? sheets[sheet] : null, cancel, past: noon);
                await NoteAsync(c, t, who, import, row.Row, job, row.Identity, cancel);
            }
        }, cancel);
    }

    /// <summary>Brings the sample job in: an open one, to look at and to try things on.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="record">The made-up job.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work.</param>
    public async Task SampleAsync(ShopPerson who, TestRecord record, DateTimeOffset at, CancellationToken cancel = default)
    {
        if (await SampleJobAsync(who, cancel) is not null)
        {
            return;
        }
        var number = await JobStore.NumbersAsync(database, who, 1, cancel);
        // As often as the sample was put on before: two taps at once are of one import.
        var times = await database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int>(new CommandDefinition("select count(*)::int from import where kind = 'sample' and undone_at is not null", null, t, cancellationToken: cancel)), cancel);
        var entry = new Guid(SHA256.HashData(Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"sample {times}")))[..16]);
        await ImportAsync(who, ImportKind.Sample, entry, at, async (c, t, import) =>
            await NoteAsync(c, t, who, import, 1, await JobStore.InsertAsync(c, t, who, number, record, at, RecordWords.Parse(who.Unit, PressureUnit.Psi), null, cancel, sample: true), null, cancel), cancel);
    }

    /// <summary>Takes the sample job off again, with whatever was tried on it; where there is none nothing happens.</summary>
    public async Task SampleOffAsync(ShopPerson who, DateTimeOffset at, CancellationToken cancel = default)
    {
        var import = await database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition(
            "select r.import_id from import_row r join job j on j.id = r.job_id where j.sample order by r.import_id desc limit 1", null, t, cancellationToken: cancel)), cancel);
        if (import is { } id)
        {
            await UndoAsync(who, id, at, cancel);
        }
    }

    // What a job brought along: its vehicle and its engine, where they are new with it (their time is that of this transaction).
    private static async Task NoteAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int import, int row, long job, string? identity, CancellationToken cancel)
    {
        if (identity is not null)
        {
            await connection.ExecuteAsync(new CommandDefinition("update vehicle v set identity = @identity from job j where j.id = @job and v.id = j.vehicle_id and v.made_at = now() and v.identity is null", new { identity, job }, transaction, cancellationToken: cancel));
        }
        await connection.ExecuteAsync(new CommandDefinition("""
            insert into import_row (shop_id, import_id, row, change, job_id, engine_id, mark)
            select @ShopId, @import, @row, 'new', j.id, case when e.made_at = now() then e.id end, m.version from job j join engine e on e.id = j.engine_id join job_mark m on m.job_id = j.id where j.id = @job;
            insert into import_row (shop_id, import_id, row, change, vehicle_id, after)
            select @ShopId, @import, @row, 'new', v.id, jsonb_build_object('Label', v.label, 'Identity', v.identity, 'Notes', v.notes) from job j join vehicle v on v.id = j.vehicle_id
            where j.id = @job and v.made_at = now() and not exists (select 1 from import_row r where r.import_id = @import and r.vehicle_id = v.id);
            """, new { who.ShopId, import, row, job }, transaction, cancellationToken: cancel));
    }

    private Task<int> ImportAsync(ShopPerson who, ImportKind kind, Guid entry, DateTimeOffset at, Func<NpgsqlConnection, NpgsqlTransaction, int, Task> work, CancellationToken cancel) =>
        database.InShopAsync(who, async (c, t) =>
        {
            // One import of a shop at a time: what the second brings finds what the first has brought.
            await c.ExecuteAsync(new CommandDefinition("select pg_advisory_xact_lock(hashtext('zandrik.import'), @ShopId)", new { who.ShopId }, t, cancellationToken: cancel));
            var made = await c.ExecuteScalarAsync<int?>(new CommandDefinition("""
                insert into import (shop_id, kind, entry, made_at, made_by) values (@ShopId, @kind, @entry, @at, @PersonId) on conflict (shop_id, entry) do nothing returning id
                """, new { who.ShopId, who.PersonId, kind = RecordWords.Of(kind), entry, at }, t, cancellationToken: cancel));
            if (made is not { } import)
            {
                return await c.ExecuteScalarAsync<int>(new CommandDefinition("select id from import where entry = @entry", new { entry }, t, cancellationToken: cancel));
            }
            await work(c, t, import);
            return import;
        }, cancel);

    /// <summary>Undoes an import: what it brought is off every list, what it changed is as it was before. What somebody has worked on since stays.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="id">The import.</param>
    /// <param name="at">The time.</param>
    /// <param name="cancel">Cancels the work; nothing is undone then.</param>
    /// <returns>What was done; absent when the shop has no such import, or it was undone before.</returns>
    public Task<ImportUndo?> UndoAsync(ShopPerson who, int id, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync<ImportUndo?>(who, async (c, t) =>
        {
            var kind = await c.ExecuteScalarAsync<string?>(new CommandDefinition(
                "update import set undone_at = @at, undone_by = @PersonId where id = @id and undone_at is null returning kind", new { id, at, who.PersonId }, t, cancellationToken: cancel));
            if (kind is null)
            {
                return null;
            }
            var kept = new List<string>();
            var sheets = await UndoSheetsAsync(c, t, who, id, at, kept, cancel);
            var changed = await UndoChangesAsync(c, t, id, kept, cancel);
            // A sample is to be tried on: what was entered on it goes with it.
            var jobs = (await c.QueryAsync<(long Job, int Number, string? Vehicle, bool Touched)>(new CommandDefinition("""
                select j.id, j.number, j.vehicle_label, m.version <> r.mark and not j.sample from import_row r join job j on j.id = r.job_id join job_mark m on m.job_id = j.id where r.import_id = @id
                """, new { id }, t, cancellationToken: cancel))).AsList();
            kept.AddRange(jobs.Where(j => j.Touched).Select(j => $"job {j.Number:0000}, {j.Vehicle}"));
            var vehicles = (await c.QueryAsync<(int Id, string Label, bool Touched)>(new CommandDefinition("""
                select v.id, v.label, jsonb_build_object('Label', v.label, 'Identity', v.identity, 'Notes', v.notes) <> r.after from import_row r join vehicle v on v.id = r.vehicle_id where r.import_id = @id and r.change = 'new'
                """, new { id }, t, cancellationToken: cancel))).AsList();
            kept.AddRange(vehicles.Where(v => v.Touched).Select(v => v.Label));
            var off = vehicles.Where(v => !v.Touched).Select(v => v.Id).ToArray();
            await c.ExecuteAsync(new CommandDefinition("select withdraw_imported(@id, @jobs, @gone, @at)", new { id, gone = off.Concat(changed).ToArray(), jobs = jobs.Where(j => !j.Touched).Select(j => j.Job).ToArray(), at }, t, cancellationToken: cancel));
            // A vehicle that has another job, or an engine somebody put in, is still here.
            var left = (await c.QueryAsync<(int Id, string Label)>(new CommandDefinition("select id, label from vehicle where id = any(@off)", new { off }, t, cancellationToken: cancel))).AsList();
            kept.AddRange(left.Where(v => jobs.All(j => !j.Touched || !string.Equals(j.Vehicle, v.Label, StringComparison.OrdinalIgnoreCase))).Select(v => v.Label));
            return new ImportUndo(sheets + changed.Count + jobs.Count(j => !j.Touched) + (kind == "vehicles" ? off.Length - left.Count : 0), kept);
        }, cancel);

    // A sheet goes back to the version before, as a new version; one that was new is archived.
    private static async Task<int> UndoSheetsAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, int id, DateTimeOffset at, List<string> kept, CancellationToken cancel)
    {
        var rows = (await connection.QueryAsync<(int Sheet, string Name, int? Before, bool Touched)>(new CommandDefinition("""
            select s.id, s.name, r.before_version, r.after_version <> (select v.id from engine_sheet_version v where v.sheet_id = s.id order by v.version desc limit 1)
            from import_row r join engine_sheet s on s.id = r.sheet_id where r.import_id = @id
            """, new { id }, transaction, cancellationToken: cancel))).AsList();
        foreach (var (sheet, _, before, _) in rows.Where(r => !r.Touched))
        {
            if (before is { } version)
            {
                await SheetStore.SaveAsync(connection, transaction, who, sheet, (await SheetStore.VersionAsync(connection, transaction, version, cancel))!.Document, at, cancel);
            }
            else
            {
                await connection.ExecuteAsync(new CommandDefinition("update engine_sheet set retired_at = @at where id = @sheet", new { at, sheet }, transaction, cancellationToken: cancel));
            }
        }
        kept.AddRange(rows.Where(r => r.Touched).Select(r => r.Name));
        return rows.Count(r => !r.Touched);
    }

    // The vehicles that say again what they said before.
    private static async Task<IReadOnlyList<int>> UndoChangesAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int id, List<string> kept, CancellationToken cancel)
    {
        var rows = (await connection.QueryAsync<(int Vehicle, string Label, string Before, bool Touched)>(new CommandDefinition("""
            select v.id, v.label, r.before::text, jsonb_build_object('Label', v.label, 'Identity', v.identity, 'Notes', v.notes) <> r.after
            from import_row r join vehicle v on v.id = r.vehicle_id where r.import_id = @id and r.change = 'changed'
            """, new { id }, transaction, cancellationToken: cancel))).AsList();
        foreach (var (vehicle, _, before, _) in rows.Where(r => !r.Touched))
        {
            var was = JsonSerializer.Deserialize<Said>(before)!;
            await connection.ExecuteAsync(new CommandDefinition("update vehicle set identity = @Identity, notes = @Notes where id = @vehicle", new { was.Identity, was.Notes, vehicle }, transaction, cancellationToken: cancel));
        }
        kept.AddRange(rows.Where(r => r.Touched).Select(r => r.Label));
        return [.. rows.Where(r => !r.Touched).Select(r => r.Vehicle)];
    }

    // What a vehicle says of itself, as an import found it and left it.
    private sealed record Said(string Label, string? Identity, string? Notes)
    {
        internal static Said Of(VehicleLine line) => new(line.Label, line.Identity, line.Notes);
    }
}
