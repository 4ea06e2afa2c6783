using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Dapper;
using Zandrik.Core.Life;
using Zandrik.Core.Records;

namespace Zandrik.Storage;

/// <summary>How a list of engines is ordered; what is worst or soonest comes first.</summary>
public enum FleetOrder
{
    /// <summary>By when it is tested again, the soonest first.</summary>
    Due,

    /// <summary>By how far the lowest cylinder is over the minimum, the least first.</summary>
    Margin,

    /// <summary>By how fast the worst cylinder falls, the fastest first.</summary>
    Trend,

    /// <summary>By name.</summary>
    Name,

    /// <summary>By the last test, the oldest first.</summary>
    Tested,
}

/// <summary>Which engines a list shows.</summary>
public enum FleetShow
{
    /// <summary>Those in the shop's care.</summary>
    All,

    /// <summary>Those that are due, or will be within a month.</summary>
    Due,

    /// <summary>Those under the minimum, or likely to be.</summary>
    Under,

    /// <summary>Those whose verdict is signed and on which nothing is decided or done since.</summary>
    Undecided,

    /// <summary>Those that left.</summary>
    Gone,
}

/// <summary>An engine in the list of all of them.</summary>
public sealed record FleetLine
{
    /// <summary>The engine.</summary>
    public int Engine { get; init; }

    /// <summary>Its serial number or tag; absent for none.</summary>
    public string? Serial { get; init; }

    /// <summary>What its latest job calls it; absent where none says.</summary>
    public string? Design { get; init; }

    /// <summary>The vehicle it sits in; absent on the shelf.</summary>
    public string? Vehicle { get; init; }

    /// <summary>Dry tests that count.</summary>
    public int Tests { get; init; }

    /// <summary>When it was last tested; absent for never.</summary>
    public DateTimeOffset? TestedAt { get; init; }

    /// <summary>The lowest cylinder of that test.</summary>
    public int? Cylinder { get; init; }

    /// <summary>What it read, Pa gauge.</summary>
    public double? LowestPa { get; init; }

    /// <summary>How far that is over the maker's minimum, share of it; absent without a minimum.</summary>
    public double? Margin { get; init; }

    /// <summary>What the fastest falling cylinder changes in a step, share.</summary>
    public double? PerStep { get; init; }

    /// <summary>The word of what its odometers count in; absent while it is not worked out.</summary>
    public string? Unit { get; init; }

    /// <summary>What its odometers count in. <see cref="Run"/> and <see cref="Meets"/> are km or h all the same.</summary>
    public DistanceUnit CountsIn => RecordWords.Parse(Unit, DistanceUnit.Km);

    /// <summary>How far it had run at the last test, km or h.</summary>
    public double? Run { get; init; }

    /// <summary>When it is tested again; absent for not due.</summary>
    public DateTimeOffset? Due { get; init; }

    /// <summary>Why then, as a word.</summary>
    public string Why { get; init; } = "";

    /// <summary>How much further it runs until the lowest meets the minimum, median, km or h; absent where nobody can say.</summary>
    public double? Meets { get; init; }

    /// <summary>Jobs whose odometer is not used.</summary>
    public int Doubts { get; init; }

    /// <summary>Its latest job.</summary>
    public int Job { get; init; }

    /// <summary>True where the latest verdict stands and nothing was decided or done after it.</summary>
    public bool Undecided { get; init; }

    /// <summary>When it left; absent while it did not.</summary>
    public DateTimeOffset? GoneAt { get; init; }

    internal int AllOfThem { get; init; }

    internal int LeftOver { get; init; }

    /// <summary>What it is called in a list.</summary>
    public string Name => Vehicle ?? Serial ?? Design ?? $"Engine {Engine.ToString(CultureInfo.InvariantCulture)}";
}

/// <summary>A page of the list.</summary>
/// <param name="Lines">The engines.</param>
/// <param name="All">How many there are of those that are asked for.</param>
/// <param name="Stale">How many of all the shop's engines have still to be worked out anew.</param>
public sealed record FleetPage(IReadOnlyList<FleetLine> Lines, int All, int Stale);

/// <summary>
/// All engines of a shop with what their lives come to. That is worked out once for each state of an engine's jobs and kept beside it; whoever asks for the list works out what is not, so many at a time.
/// </summary>
public sealed class FleetStore(ShopDatabase database)
{
    /// <summary>Most engines worked out for one page: about half a second.</summary>
    public const int AtOnce = 250;

    // What an engine stands at: its mark, whether it left, and the shop's rule.
    private const string Marks = """
        with rule as (select retest_months::text || '/' || retest_km::text || '/' || retest_hours::text as says from shop where id = current_shop()),
        fleet as (
            select e.id, e.serial, e.gone_at, m.version::text || ' ' || coalesce(extract(epoch from e.gone_at)::text, '') || ' ' || r.says as mark from engine e join engine_mark m on m.engine_id = e.id cross join rule r)
        """;

    /// <summary>Works out what is not up to date, at most so many.</summary>
    /// <returns>How many are left.</returns>
    public async Task<int> RefreshAsync(ShopPerson who, int most = AtOnce, CancellationToken cancel = default)
    {
        var stale = await database.InShopAsync(who, async (c, t) => (await c.QueryAsync<(int Id, string Mark)>(new CommandDefinition(
            Marks + " select f.id, f.mark from fleet f left join engine_summary l on l.engine_id = f.id where l.mark is distinct from f.mark order by f.id desc", null, t, cancellationToken: cancel))).AsList(), cancel);
        foreach (var some in stale.Take(most).Chunk(50))
        {
            // The mark was read before the jobs: what is written meanwhile makes it stale again.
            var lives = await database.ReadAsync(who.ShopId, who.PersonId, who.Purpose, LifeStore.Statements, new DynamicParameters(new { ids = some.Select(s => s.Id).ToArray() }), LifeStore.ReadAsync, cancel);
            await database.InShopAsync(who, async (c, t) =>
            {
                foreach (var (id, mark) in some.OrderBy(s => s.Id))
                {
                    if (lives.TryGetValue(id, out var kept))
                    {
                        await c.ExecuteAsync(new CommandDefinition(Upsert, Row(who, id, mark, kept), t, cancellationToken: cancel));
                    }
                }
                return true;
            }, cancel);
        }
        return Math.Max(0, stale.Count - most);
    }

    private const string Upsert = """
        insert into engine_summary (engine_id, shop_id, mark, design, tests, tested_at, cylinder, lowest_pa, margin, per_step, unit, run, due, why, meets, doubts, job, sample, undecided)
        values (@id, @shop, @mark, @design, @tests, @testedAt, @cylinder, @lowest, @margin, @perStep, @unit, @run, @due, @why, @meets, @doubts, @job, coalesce((select bool_and(j.sample) from job j where j.engine_id = @id), true),
            -- The verdict on its latest signed job stands and calls it faulty, and nothing was decided or done since.
            coalesce((select v.state = 'faulty'
                    and not exists (select 1 from decision d join job k on k.id = d.job_id where k.engine_id = @id and d.at >= v.at)
                    and not exists (select 1 from repair_done d join job k on k.id = d.job_id where k.engine_id = @id and d.done_at >= v.at and d.withdrawn_at is null)
                from verdict v join job j on j.id = v.job_id where j.engine_id = @id and not exists (select 1 from verdict_reopening o where o.verdict_id = v.id) order by v.at desc limit 1), false))
        on conflict (engine_id) do update set mark = excluded.mark, design = excluded.design, tests = excluded.tests, tested_at = excluded.tested_at, cylinder = excluded.cylinder, lowest_pa = excluded.lowest_pa, margin = excluded.margin,
            per_step = excluded.per_step, unit = excluded.unit, run = excluded.run, due = excluded.due, why = excluded.why, meets = excluded.meets, doubts = excluded.doubts, job = excluded.job, sample = excluded.sample, undecided = excluded.undecided
        """;

    private static object Row(ShopPerson who, int id, string mark, KeptLife kept)
    {
        var life = kept.Life;
        var last = life.LatestDry;
        return new
        {
            id, shop = who.ShopId, mark, design = life.Engine.Name, tests = life.Tests.Count(t => t.Kind == TestKind.Dry && t.LeftOut is null), testedAt = last?.At, cylinder = last?.Worst?.Cylinder, lowest = last?.Worst?.Value, margin = life.Margin,
            perStep = life.Fastest?.PerStep, unit = RecordWords.Of(life.Run.Unit), run = last is null ? (double?)null : life.RunOf(last), due = life.Retest.Due, why = RecordWords.Of(life.Retest.Why), meets = life.Forecast?.Until(0.5),
            job = kept.Jobs.Count > 0 ? kept.Jobs[^1].Number : 0,
            doubts = life.Run.At.Count(a => a.Doubt is RunDoubt.Backwards or RunDoubt.OtherUnit),
        };
    }

    /// <summary>A page of engines, as far as they are worked out.</summary>
    /// <param name="who">The shop and person.</param>
    /// <param name="show">Which.</param>
    /// <param name="order">In which order.</param>
    /// <param name="find">Text in name, serial number or design; absent for all.</param>
    /// <param name="now">The time.</param>
    /// <param name="from">How many to pass over.</param>
    /// <param name="most">Most on the page.</param>
    /// <param name="cancel">Cancels the work.</param>
    public Task<FleetPage> ListAsync(ShopPerson who, FleetShow show, FleetOrder order, string? find, DateTimeOffset now, int from, int most, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var soon = now.AddDays(31);
            var where = "not coalesce(l.sample, false) and coalesce(l.job, 1) > 0 and " + (show == FleetShow.Gone ? "l.gone_at is not null" : "l.gone_at is null") + show switch
            {
                FleetShow.Due => " and l.due < @soon",
                FleetShow.Under => " and l.why in ('is-under', 'may-be-under')",
                FleetShow.Undecided => " and l.undecided",
                _ => "",
            } + (string.IsNullOrWhiteSpace(find) ? "" : " and strpos(lower(coalesce(v.label, '') || ' ' || coalesce(l.serial, '') || ' ' || coalesce(l.design, '')), lower(@find)) > 0");
            var by = order switch
            {
                FleetOrder.Margin => "l.margin nulls last",
                FleetOrder.Trend => "l.per_step nulls last",
                FleetOrder.Name => "lower(coalesce(v.label, l.serial, l.design, ''))",
                FleetOrder.Tested => "l.tested_at nulls first",
                _ => "(l.why = 'is-under') desc, l.due nulls last",
            };
            var rows = (await c.QueryAsync<FleetLine>(new CommandDefinition($"""
                {Marks},
                known as materialized (select f.serial, f.gone_at, f.id as of, l.mark is distinct from f.mark as stale, l.* from fleet f left join engine_summary l on l.engine_id = f.id),
                -- Found for all at once: looked up engine by engine it takes longer than everything else.
                sits as materialized (select i.engine_id, w.label from engine_in i join vehicle w on w.id = i.vehicle_id where i.until is null),
                listed as (
                    select l.of as engine, l.serial, l.design, v.label as vehicle, coalesce(l.tests, 0) as tests, l.tested_at, l.cylinder, l.lowest_pa, l.margin, l.per_step, l.unit, l.run, l.due, coalesce(l.why, '') as why,
                        l.meets, coalesce(l.doubts, 0) as doubts, coalesce(l.job, 0) as job, l.gone_at, coalesce(l.undecided, false) as undecided, row_number() over (order by {by}, l.of desc) as place, count(*) over ()::int as all_of_them
                    from known l left join sits v on v.engine_id = l.of
                    where {where})
                select s.left_over, p.* from (select count(*)::int as left_over from known where stale) s left join (select * from listed order by place offset @from limit @most) p on true order by p.place
                """, new { soon, find = find?.Trim(), from, most }, t, cancellationToken: cancel))).AsList();
            // How many are stale is said on a page without a line too: then its one row has no engine.
            return new FleetPage([.. rows.Where(r => r.Engine > 0)], rows[0].AllOfThem, rows[0].LeftOver);
        }, cancel);

    /// <summary>Engines that sit in a vehicle and are due before a day, the soonest first.</summary>
    public async Task<IReadOnlyList<FleetLine>> DueAsync(ShopPerson who, DateTimeOffset before, int most, CancellationToken cancel = default) =>
        await database.InShopAsync(who, async (c, t) => (await c.QueryAsync<FleetLine>(new CommandDefinition("""
            select l.engine_id as engine, e.serial, l.design, w.label as vehicle, l.tests, l.tested_at, l.cylinder, l.lowest_pa, l.margin, l.per_step, l.unit, l.run, l.due, l.why, l.meets, l.doubts,
                   l.job
            from engine_summary l join engine e on e.id = l.engine_id
            join engine_in i on i.engine_id = l.engine_id and i.until is null join vehicle w on w.id = i.vehicle_id
            where l.due < @before and e.gone_at is null and not l.sample order by l.due, l.engine_id limit @most
            """, new { before, most }, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Makes a secret address for the calendar of retests.</summary>
    /// <returns>Its secret part, which is kept nowhere.</returns>
    public Task<string> MakeFeedAsync(ShopPerson who, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) =>
        {
            var secret = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(20));
            await c.ExecuteAsync(new CommandDefinition("insert into calendar_feed (shop_id, hash, at, by_person) values (@ShopId, @hash, @at, @PersonId)", new { who.ShopId, hash = Hash(secret), at, who.PersonId }, t, cancellationToken: cancel));
            return secret;
        }, cancel);

    /// <summary>The addresses that open, the latest first.</summary>
    public Task<IReadOnlyList<(int Id, DateTimeOffset At, string By)>> FeedsAsync(ShopPerson who, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyList<(int, DateTimeOffset, string)>>(who, async (c, t) => (await c.QueryAsync<(int, DateTimeOffset, string)>(new CommandDefinition(
            "select f.id, f.at, p.name from calendar_feed f join person p on p.id = f.by_person where f.revoked_at is null order by f.id desc", null, t, cancellationToken: cancel))).AsList(), cancel);

    /// <summary>Ends an address at once; false when there is none of that row that still opens.</summary>
    public Task<bool> RevokeFeedAsync(ShopPerson who, int feed, DateTimeOffset at, CancellationToken cancel = default) =>
        database.InShopAsync(who, async (c, t) => await c.ExecuteAsync(new CommandDefinition(
            "update calendar_feed set revoked_at = @at, revoked_by = @person where id = @feed and revoked_at is null", new { feed, at, person = who.PersonId }, t, cancellationToken: cancel)) > 0, cancel);

    internal static byte[] Hash(string secret) => SHA256.HashData(Encoding.UTF8.GetBytes(secret));
}
