using Dapper;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>A vehicle as a list shows it.</summary>
public sealed record VehicleLine
{
    /// <summary>The row.</summary>
    public int Id { get; init; }

    /// <summary>What the shop calls it.</summary>
    public string Label { get; init; } = "";

    /// <summary>Registration, hull or chassis number; absent when not known.</summary>
    public string? Identity { get; init; }

    /// <summary>The shop's own notes.</summary>
    public string? Notes { get; init; }

    internal static async Task<IReadOnlyList<VehicleLine>> LoadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int[] ids, CancellationToken cancel) =>
        ids.Length == 0 ? [] : (await connection.QueryAsync<VehicleLine>(new CommandDefinition(
            "select id, label, identity, notes from vehicle where id = any(@ids) order by id desc", new { ids }, transaction, cancellationToken: cancel))).AsList();
}

/// <summary>Keeps vehicles. One is made by itself when a job names it first.</summary>
public sealed class VehicleStore(ShopDatabase database)
{
    /// <summary>A vehicle of the shop; absent when it has none of that row.</summary>
    public Task<VehicleLine?> FindAsync(ShopPerson who, int id, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await VehicleLine.LoadAsync(c, t, [id], cancel) is [var vehicle] ? vehicle : null, cancel);

    /// <summary>The vehicle the shop calls so; absent for none.</summary>
    public Task<VehicleLine?> ByLabelAsync(ShopPerson who, string label, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.QuerySingleOrDefaultAsync<VehicleLine>(new CommandDefinition(
            "select id, label, identity, notes from vehicle where lower(label) = lower(@label)", new { label }, t, cancellationToken: cancel)), cancel);

    /// <summary>Vehicles, the newest first.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="after">The last of the page before; absent for the first page.</param>
    /// <param name="size">Most on a page.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<(IReadOnlyList<VehicleLine> Vehicles, bool More)> ListAsync(ShopPerson who, int? after, int size, CancellationToken cancel = default) =>
        database.InShopAsync<(IReadOnlyList<VehicleLine>, bool)>(who, async (c, t) =>
        {
            var rows = (await c.QueryAsync<VehicleLine>(new CommandDefinition(
                $"select id, label, identity, notes from vehicle {(after is null ? "" : "where id < @after")} order by id desc limit @most",
                new { after, most = size + 1 }, t, cancellationToken: cancel))).AsList();
            return ([.. rows.Take(size)], rows.Count > size);
        }, cancel);

    /// <summary>Vehicles with the engine that sits in each, by name: the sheet it is of, and its serial number.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="most">Most of them.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<IReadOnlyList<(string Label, string? Identity, string? Engine, string? Serial, string? Notes)>> ExportAsync(ShopPerson who, int most, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<(string, string?, string?, string?, string?)>>(who, async (c, t) => (await c.QueryAsync<(string, string?, string?, string?, string?)>(new CommandDefinition("""
            select v.label, v.identity, s.name, e.serial, v.notes from vehicle v
            left join lateral (select engine_id from engine_in i where i.vehicle_id = v.id and i.until is null order by i.id limit 1) sits on true
            left join engine e on e.id = sits.engine_id left join engine_sheet s on s.id = e.sheet_id order by lower(v.label) limit @most
            """, new { most }, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Changes what a vehicle is called and known by. Jobs already opened keep the name they were opened with.</summary>
    /// <returns>False when another vehicle has the name, or the shop has no such row.</returns>
    public async Task<bool> ChangeAsync(ShopPerson who, int id, string label, string? identity, string? notes, CancellationToken cancel = default)
    {
        try
        {
            return await database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
                "update vehicle set label = @label, identity = @identity, notes = @notes where id = @id", new { id, label, identity, notes }, t, cancellationToken: cancel)), cancel) > 0;
        }
        catch (PostgresException taken) when (taken.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return false;
        }
    }

    // The vehicle of that name, made when there is none; null where nobody said which it is.
    internal static async Task<int?> EnsureAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, ShopPerson who, string? label, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(label))
        {
            return null;
        }
        var known = await connection.ExecuteScalarAsync<int?>(new CommandDefinition(
            "select id from vehicle where lower(label) = lower(@label)", new { label }, transaction, cancellationToken: cancel));
        return known ?? await connection.ExecuteScalarAsync<int?>(new CommandDefinition("""
            insert into vehicle (shop_id, label) values (@shop, @label) on conflict (shop_id, purpose, lower(label)) where withdrawn_at is null do update set label = vehicle.label returning id
            """, new { shop = who.ShopId, label }, transaction, cancellationToken: cancel));
    }
}
