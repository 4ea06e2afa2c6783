using Dapper;
using Zandrik.Core.Records;
using Zandrik.Core.Safety;

namespace Zandrik.Storage;

/// <summary>A line that is ticked.</summary>
public sealed record Tick
{
    /// <summary>The word of the line.</summary>
    public string Item { get; init; } = "";

    /// <summary>The word of the way it was done; absent where there is only one.</summary>
    public string? Way { get; init; }

    /// <summary>When it was ticked.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>Who ticked it.</summary>
    public string By { get; init; } = "";
}

/// <summary>Keeps the ticks of a job's preparation and refit lists.</summary>
public sealed class TickStore(ShopDatabase database)
{
    /// <summary>The word of the preparation list.</summary>
    public const string Prepare = JobSafety.PrepareList;

    /// <summary>The word of the refit list.</summary>
    public const string Refit = JobSafety.RefitList;

    /// <summary>The lines of a list that are ticked now, by word.</summary>
    public Task<IReadOnlyDictionary<string, Tick>> ListAsync(ShopPerson who, int job, string list, CancellationToken cancel = default) =>
        database.InShopAsync<IReadOnlyDictionary<string, Tick>>(who, async (c, t) =>
            (await c.QueryAsync<Tick>(new CommandDefinition($"""
                select l.item, l.way, l.at, p.name as by from ({Latest}) l join person p on p.id = l.by_person where l.done
                """, new { job, list }, t, cancellationToken: cancel))).ToDictionary(x => x.Item), cancel);

    private const string Latest = """
        select distinct on (x.item) x.item, x.way, x.done, x.at, x.by_person from job_tick x join job j on j.id = x.job_id
        where j.number = @job and x.list = @list order by x.item, x.id desc
        """;

    internal const string TickedLines = $"select l.item, l.done from ({Latest}) l";

    // The lines of the preparation that are ticked now; null when the list was not begun on this job.
    internal static async Task<IReadOnlyCollection<PreparationItem>?> ReadTickedAsync(SqlMapper.GridReader grid)
    {
        var rows = (await grid.ReadAsync<(string Item, bool Done)>()).AsList();
        return rows.Count == 0 ? null
            : rows.Where(r => r.Done).Select(r => RecordWords.TryParse<PreparationItem>(r.Item, out var item) ? item : (PreparationItem?)null).OfType<PreparationItem>().ToHashSet();
    }
}
