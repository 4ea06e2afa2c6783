using Dapper;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>A job as a list shows it.</summary>
public sealed record JobLine
{
    /// <summary>The job's number.</summary>
    public int Number { get; init; }

    /// <summary>What the shop calls the vehicle; absent where nobody said.</summary>
    public string? Vehicle { get; init; }

    /// <summary>What the engine is called; absent where nobody said.</summary>
    public string? Engine { get; init; }

    /// <summary>Why it was asked for.</summary>
    public string? Complaint { get; init; }

    /// <summary>Distance or hours when it was opened.</summary>
    public double? Odometer { get; init; }

    /// <summary>Unit of <see cref="Odometer"/>.</summary>
    public string? OdometerUnit { get; init; }

    /// <summary>When it was opened.</summary>
    public DateTimeOffset OpenedAt { get; init; }

    /// <summary>Who opened it.</summary>
    public string OpenedBy { get; init; } = "";

    /// <summary>When it was closed; absent while it is open.</summary>
    public DateTimeOffset? ClosedAt { get; init; }

    internal static async Task<IReadOnlyList<JobLine>> LoadAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, int[] numbers, CancellationToken cancel) =>
        numbers.Length == 0 ? [] : (await connection.QueryAsync<JobLine>(new CommandDefinition("""
            select j.number, j.vehicle_label as vehicle, j.record -> 'engine' ->> 'name' as engine, j.record ->> 'complaint' as complaint,
                   (j.record -> 'vehicle' -> 'odometer' ->> 'value')::double precision as odometer, j.record -> 'vehicle' -> 'odometer' ->> 'unit' as odometer_unit,
                   j.opened_at, p.name as opened_by, j.closed_at
            from job j join person p on p.id = j.opened_by where j.number = any(@numbers) order by j.opened_at desc, j.number desc
            """, new { numbers }, transaction, cancellationToken: cancel))).AsList();
}

/// <summary>What was found for a few letters.</summary>
/// <param name="Jobs">Jobs, newest first.</param>
/// <param name="Vehicles">Vehicles, newest first.</param>
/// <param name="Engines">Engines by serial number, newest first.</param>
/// <param name="Sheets">Engine sheets by name.</param>
public sealed record Found(IReadOnlyList<JobLine> Jobs, IReadOnlyList<VehicleLine> Vehicles, IReadOnlyList<KeptEngine> Engines, IReadOnlyList<SheetLine> Sheets)
{
    /// <summary>True when there is nothing.</summary>
    public bool IsEmpty => Jobs.Count + Vehicles.Count + Engines.Count + Sheets.Count == 0;
}

/// <summary>Finds jobs, vehicles and engine sheets again by a few letters of what they are called.</summary>
public sealed class SearchStore(ShopDatabase database)
{
    /// <summary>Fewest letters that are looked for.</summary>
    public const int FewestLetters = 2;

    /// <summary>Looks for a text anywhere in the names; whatever the case.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="text">What was typed; fewer than <see cref="FewestLetters"/> letters find nothing.</param>
    /// <param name="most">Most of each kind.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<Found> FindAsync(ShopPerson who, string text, int most, CancellationToken cancel = default)
    {
        var wanted = text.Trim();
        if (wanted.Length < FewestLetters && !int.TryParse(wanted, out _))
        {
            return Task.FromResult(new Found([], [], [], []));
        }
        return database.InShopAsync(who, async (connection, transaction) =>
        {
            async Task<int[]> IdsAsync(string function, string column) => [.. await connection.QueryAsync<int>(new CommandDefinition(
                $"select {column} from {function}(@wanted, @most)", new { wanted, most }, transaction, cancellationToken: cancel))];
            var jobs = await JobLine.LoadAsync(connection, transaction, await IdsAsync("search_jobs", "number"), cancel);
            var vehicles = await VehicleLine.LoadAsync(connection, transaction, await IdsAsync("search_vehicles", "id"), cancel);
            var engines = await EngineStore.LoadAsync(connection, transaction, await IdsAsync("search_engines", "id"), cancel);
            var sheets = await SheetLine.LoadAsync(connection, transaction, await IdsAsync("search_sheets", "id"), cancel);
            return new Found(jobs, vehicles, engines, sheets);
        }, cancel);
    }
}
