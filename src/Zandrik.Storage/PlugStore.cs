using System.Text.Json;
using Dapper;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Storage;

/// <summary>A photo of a plug, without its bytes.</summary>
public sealed record PlugPhoto
{
    /// <summary>The row.</summary>
    public long Id { get; init; }

    /// <summary>The cylinder.</summary>
    public int Cylinder { get; init; }

    /// <summary>Width, pixels.</summary>
    public int Width { get; init; }

    /// <summary>Height, pixels.</summary>
    public int Height { get; init; }

    /// <summary>When it was taken in.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who took it.</summary>
    public string By { get; init; } = "";
}

/// <summary>Keeps what was read from the plugs, a chain of rows for each cylinder like any reading, and their photos.</summary>
public sealed class PlugStore(ShopDatabase database)
{
    private const string Kind = "plug-inspection";

    /// <summary>Keeps what one plug looks like; over an earlier reading of the cylinder it takes its place.</summary>
    /// <returns>Not found when the shop has no such job or cylinder.</returns>
    public Task<StepAnswer> ReadAsync(ShopPerson who, int job, PlugReading reading, Guid key, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (connection, transaction) =>
        {
            var found = await connection.QuerySingleOrDefaultAsync<(long Id, int Cylinders, bool Closed)?>(new CommandDefinition(
                "select id, (record -> 'engine' ->> 'cylinders')::int, closed_at is not null from job where number = @job for update", new { job }, transaction, cancellationToken: cancel));
            if (found is not { } of || reading.Cylinder < 1 || reading.Cylinder > of.Cylinders)
            {
                return StepAnswer.Missing;
            }
            if (await connection.ExecuteScalarAsync<bool>(new CommandDefinition("select exists (select 1 from reading where entry = @key)", new { key }, transaction, cancellationToken: cancel)))
            {
                return StepAnswer.Kept;
            }
            if (of.Closed)
            {
                return new StepAnswer(true, JobSafety.Closed);
            }
            var test = await connection.ExecuteScalarAsync<long?>(new CommandDefinition(
                "select id from test where job_id = @Id and kind = @Kind order by position desc limit 1", new { of.Id, Kind }, transaction, cancellationToken: cancel));
            if (test is null)
            {
                var position = await connection.ExecuteScalarAsync<int>(new CommandDefinition(
                    "select coalesce(max(position), 0) + 1 from test where job_id = @Id", new { of.Id }, transaction, cancellationToken: cancel));
                test = await JobStore.InsertTestAsync(connection, transaction, who, of.Id, position, new PlugInspection { At = at, By = who.Person }, at, cancel);
            }
            // An imported inspection counts its slots along the list: the chain of a cylinder is found by the cylinder.
            await connection.ExecuteAsync(new CommandDefinition("""
                with head as (
                    select r.id, r.slot, r.position from reading r
                    where r.test_id = @test and r.cylinder = @cylinder and not exists (select 1 from reading n where n.supersedes = r.id) limit 1)
                insert into reading (shop_id, test_id, slot, position, supersedes, entry, body, taken_at, by_person)
                values (@shop, @test,
                        coalesce((select slot from head), (select coalesce(max(slot), 0) + 1 from reading where test_id = @test)),
                        coalesce((select position from head), (select coalesce(max(position), 0) + 1 from reading where test_id = @test)),
                        (select id from head), @key, @body::jsonb, @at, @person)
                """, new
            {
                shop = who.ShopId, test, cylinder = reading.Cylinder, key, at, person = who.PersonId,
                body = JsonSerializer.Serialize(reading with { At = at, By = who.Person }, TestRecordJson.Options),
            }, transaction, cancellationToken: cancel));
            return StepAnswer.Kept;
        }, cancel);

    /// <summary>The photos of a job by cylinder, oldest first.</summary>
    public Task<ILookup<int, PlugPhoto>> PhotosAsync(ShopPerson who, int job, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => (await c.QueryAsync<PlugPhoto>(new CommandDefinition("""
            select f.id, f.cylinder, f.width, f.height, f.at, p.name as by
            from plug_photo f join job j on j.id = f.job_id join person p on p.id = f.by_person
            where j.number = @job and f.removed_at is null order by f.id
            """, new { job }, t, cancellationToken: cancel))).ToLookup(f => f.Cylinder), cancel);

    /// <summary>Keeps a photo.</summary>
    /// <returns>Its row; absent when the shop has no such job.</returns>
    public Task<long?> AddPhotoAsync(
        ShopPerson who, int job, int cylinder, byte[] picture, byte[] thumbnail, int width, int height, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<long?>(new CommandDefinition("""
            insert into plug_photo (shop_id, job_id, cylinder, picture, thumbnail, width, height, at, by_person)
            select @shop, j.id, @cylinder, @picture, @thumbnail, @width, @height, @at, @person from job j
            where j.number = @job and j.closed_at is null and @cylinder between 1 and (j.record -> 'engine' ->> 'cylinders')::int returning id
            """, new { shop = who.ShopId, job, cylinder, picture, thumbnail, width, height, at, person = who.PersonId }, t, cancellationToken: cancel)), cancel);

    /// <summary>The bytes of a photo (JPEG); absent when the shop has none of that row on that job.</summary>
    public Task<byte[]?> BytesAsync(ShopPerson who, int job, long photo, bool thumbnail, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<byte[]?>(new CommandDefinition(
            $"select {(thumbnail ? "f.thumbnail" : "f.picture")} from plug_photo f join job j on j.id = f.job_id where j.number = @job and f.id = @photo and f.removed_at is null",
            new { job, photo }, t, cancellationToken: cancel)), cancel);

    /// <summary>Takes a photo away.</summary>
    public Task RemovePhotoAsync(ShopPerson who, int job, long photo, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition(
            "update plug_photo f set removed_at = @at from job j where j.id = f.job_id and j.number = @job and j.closed_at is null and f.id = @photo", new { job, photo, at }, t, cancellationToken: cancel)), cancel);
}
