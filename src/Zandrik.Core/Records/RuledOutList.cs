namespace Zandrik.Core.Records;

/// <summary>What a job has already ruled out, and what that leaves to be asked.</summary>
public static class RuledOutList
{
    // Words that older records say it in, where no item of the list is named.
    private static readonly (RuledOutItem Item, string[] Words)[] Spoken =
    [
        (RuledOutItem.Injector, ["injector"]), (RuledOutItem.Spark, ["coil", "spark", "ignition"]), (RuledOutItem.Fuel, ["fuel"]),
        (RuledOutItem.OilCooler, ["oil cooler"]), (RuledOutItem.EgrCooler, ["exhaust-gas cooler", "egr cooler", "exhaust gas cooler"]),
    ];

    /// <summary>True when an item is ruled out.</summary>
    /// <param name="record">The job.</param>
    /// <param name="item">The item; not <see cref="RuledOutItem.Other"/>.</param>
    /// <returns>False where the job rules nothing out.</returns>
    public static bool Has(TestRecord record, RuledOutItem item) => (record.RuledOut ?? []).Any(r => ItemOf(r) == item);

    /// <summary>The item a line names: its own, else by its words. <see cref="RuledOutItem.Other"/> for anything else.</summary>
    /// <param name="ruled">The line.</param>
    /// <returns>The item; always one.</returns>
    public static RuledOutItem ItemOf(RuledOut ruled) => ruled.Item
        ?? (ruled.What is { } what ? Spoken.Where(s => s.Words.Any(w => what.Contains(w, StringComparison.OrdinalIgnoreCase))).Select(s => (RuledOutItem?)s.Item).FirstOrDefault() : null)
        ?? RuledOutItem.Other;

    /// <summary>What a line rules out, as it is said in a sentence.</summary>
    /// <param name="ruled">The line.</param>
    /// <returns>The words, lower case.</returns>
    public static string Name(RuledOut ruled) => ruled.What ?? Name(ItemOf(ruled));

    /// <summary>An item of the list, as it is said in a sentence.</summary>
    /// <param name="item">The item.</param>
    /// <returns>The words, lower case.</returns>
    public static string Name(RuledOutItem item) => item switch
    {
        RuledOutItem.OilCooler => "oil cooler",
        RuledOutItem.EgrCooler => "exhaust-gas cooler",
        RuledOutItem.HeatedIntake => "heated intake",
        RuledOutItem.CapOrHose => "cap and hoses",
        RuledOutItem.Other => "something else",
        _ => RecordWords.Of(item),
    };

    /// <summary>
    /// The engine without what was ruled out: a cooler that was shown to be tight explains nothing any more, so it is judged
    /// and advised like one that has none.
    /// </summary>
    /// <param name="record">The job.</param>
    /// <returns>The engine; the job's own where nothing of it was ruled out.</returns>
    public static EngineSheet Engine(TestRecord record)
    {
        if (record.RuledOut is not { Count: > 0 } || record.Engine.Features is not { Count: > 0 } features)
        {
            return record.Engine;
        }
        bool Gone(EngineFeature f) => f switch
        {
            EngineFeature.OilCooler => Has(record, RuledOutItem.OilCooler),
            EngineFeature.EgrCooler => Has(record, RuledOutItem.EgrCooler),
            EngineFeature.CoolantHeatedIntake => Has(record, RuledOutItem.HeatedIntake),
            _ => false,
        };
        return features.Any(Gone) ? record.Engine with { Features = [.. features.Where(f => !Gone(f))] } : record.Engine;
    }
}
