using Dapper;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>What an instrument of the shop is.</summary>
public enum InstrumentKind
{
    /// <summary>A compression gauge.</summary>
    Gauge,

    /// <summary>A leak-down tester.</summary>
    LeakDown,

    /// <summary>A recorder with a current clamp.</summary>
    Recorder,
}

/// <summary>An instrument of the shop, as it is kept.</summary>
public sealed record KeptInstrument
{
    /// <summary>The row.</summary>
    public int Id { get; init; }

    /// <summary>What the shop calls it.</summary>
    public string Name { get; init; } = "";

    /// <summary>What it is, as a word.</summary>
    public string Kind { get; init; } = "";

    /// <summary>Where it is.</summary>
    public string Address { get; init; } = "";

    /// <summary>What it said it is, when it was last asked.</summary>
    public string? Identity { get; init; }

    /// <summary>When it last answered.</summary>
    public DateTimeOffset? SeenAt { get; init; }

    /// <summary>When it was put away.</summary>
    public DateTimeOffset? RetiredAt { get; init; }

    /// <summary>What it is.</summary>
    public InstrumentKind Is => RecordWords.Parse(Kind, InstrumentKind.Gauge);
}

/// <summary>Keeps the shop's instruments: the only addresses its server calls. And who has one just now: an instrument reads for one person at a time.</summary>
public sealed class InstrumentStore(ShopDatabase database)
{
    /// <summary>How long somebody has an instrument without saying so again: a server that died holds nothing for long.</summary>
    public static readonly TimeSpan Lease = TimeSpan.FromSeconds(20);

    /// <summary>The instruments, by name; those put away last.</summary>
    public Task<IReadOnlyList<KeptInstrument>> ListAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<KeptInstrument>>(who, async (c, t) =>
            (await c.QueryAsync<KeptInstrument>(new CommandDefinition("select id, name, kind, address, identity, seen_at, retired_at from instrument order by retired_at is not null, lower(name)", null, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Adds one.</summary>
    /// <returns>The row; absent where one of the name is in use.</returns>
    public Task<int?> AddAsync(ShopPerson who, string name, InstrumentKind kind, string address, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteScalarAsync<int?>(new CommandDefinition("""
            insert into instrument (shop_id, name, kind, address) values (@shop, @name, @kind, @address) on conflict (shop_id, lower(name)) where retired_at is null do nothing returning id
            """, new { shop = who.ShopId, name, kind = RecordWords.Of(kind), address }, t, cancellationToken: cancel)), cancel);

    /// <summary>Puts one away.</summary>
    public Task<bool> RetireAsync(ShopPerson who, int id, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition("update instrument set retired_at = @at where id = @id and retired_at is null", new { id, at }, t, cancellationToken: cancel)) > 0, cancel);

    /// <summary>Notes that it answered, and what it said it is.</summary>
    public Task SeenAsync(ShopPerson who, int id, string identity, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update instrument set identity = @identity, seen_at = @at where id = @id", new { id, identity, at }, t, cancellationToken: cancel)), cancel);

    /// <summary>Takes an instrument, or keeps it a while longer.</summary>
    /// <returns>Who has it instead; absent where it is this person's now.</returns>
    public Task<string?> TakeAsync(ShopPerson who, int id, DateTimeOffset now, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update instrument set taken_by = @PersonId, taken_until = @until where id = @id and (taken_until is null or taken_until < @now or taken_by = @PersonId)",
            new { who.PersonId, id, now, until = now + Lease }, t, cancellationToken: cancel)) > 0 ? null
            : await c.ExecuteScalarAsync<string?>(new CommandDefinition("select p.name from instrument i join person p on p.id = i.taken_by where i.id = @id", new { id }, t, cancellationToken: cancel)) ?? "Somebody", cancel);

    /// <summary>Gives it back.</summary>
    public Task GiveBackAsync(ShopPerson who, int id, CancellationToken cancel = default) =>
        database.InShopAsync(who, (c, t) => c.ExecuteAsync(new CommandDefinition("update instrument set taken_until = null, taken_by = null where id = @id and taken_by = @PersonId", new { id, who.PersonId }, t, cancellationToken: cancel)), cancel);
}
