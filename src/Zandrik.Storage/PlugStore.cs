using Dapper;

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

/// <summary>Keeps photos of plugs. What was read from them is a reading like any other (<see cref="StepStore"/>).</summary>
public sealed class PlugStore(ShopDatabase database)
{
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
