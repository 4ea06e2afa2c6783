using Zandrik.Core.Engines;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;

namespace Zandrik.Core.Planning;

/// <summary>One thing to put back or check before the engine leaves.</summary>
/// <param name="Word">Its word, as it is stored.</param>
/// <param name="Says">What has to be done.</param>
public sealed record RefitLine(string Word, string Says);

/// <summary>What has to be put back, made from what was actually disabled and removed on this job.</summary>
public static class RefitList
{
    /// <summary>The lines of a job, from what was ticked and what was measured; empty where nothing was touched.</summary>
    /// <param name="record">The job: its engine, and the tests that say whether plugs were out and cylinders oiled.</param>
    /// <param name="done">What was ticked in the preparation, and which way.</param>
    /// <param name="access">What came off on the way to the plugs.</param>
    /// <returns>The lines in working order; empty where nothing was touched.</returns>
    public static IReadOnlyList<RefitLine> For(TestRecord record, IReadOnlyDictionary<PreparationItem, string?> done, IReadOnlyList<AccessStep> access)
    {
        var tests = record.Tests ?? [];
        var oiled = tests.Any(t => t is WetCompressionTest { Readings.Count: > 0 });
        var plugsWereOut = oiled || tests.Any(t => t is LeakDownTest { Readings.Count: > 0 } or PlugInspection { Readings.Count: > 0 }
            || (t is DryCompressionTest { Readings: { } readings } && readings.Any(r => r.Value is not null)));
        var lines = For(record.Engine, done, plugsWereOut, oiled, access);
        if (!tests.Any(t => t is LeakDownTest { Readings.Count: > 0 }))
        {
            return lines;
        }
        // After the tools: nothing may stay in the crank when it is started.
        var held = record.Engine.Gearbox == Gearbox.Manual ? "Out of gear, chocks away" : "Crank or flywheel lock out";
        return [lines[0], new RefitLine("crank", held), new RefitLine("opened", "Air box, oil filler, dipstick and coolant cap back on"), .. lines.Skip(1)];
    }

    /// <summary>The lines of an engine; empty where nothing was touched.</summary>
    /// <param name="engine">The engine.</param>
    /// <param name="done">What was ticked in the preparation, and which way.</param>
    /// <param name="plugsWereOut">True when something was measured through the plug holes, ticked or not.</param>
    /// <param name="oiled">True when cylinders were oiled for a wet test.</param>
    /// <param name="access">What came off on the way to the plugs.</param>
    /// <returns>The lines in working order; empty where nothing was touched.</returns>
    public static IReadOnlyList<RefitLine> For(
        EngineSheet engine, IReadOnlyDictionary<PreparationItem, string?> done, bool plugsWereOut, bool oiled, IReadOnlyList<AccessStep> access)
    {
        if (done.Count == 0 && !plugsWereOut)
        {
            return [];
        }
        var diesel = engine.Fuel == Fuel.Diesel;
        var lines = new List<RefitLine> { new("counted", "Rags out, adapters and tools counted") };
        foreach (var line in PreparationList.For(engine))
        {
            if (done.TryGetValue(line.Item, out var word) && (line.Ways.FirstOrDefault(w => w.Word == word) ?? (line.Ways.Count == 1 ? line.Ways[0] : null))?.Back is { } back)
            {
                lines.Add(new RefitLine(RecordWords.Of(line.Item), back));
            }
        }
        if (plugsWereOut && lines.TrueForAll(l => l.Word != RecordWords.Of(PreparationItem.Plugs)))
        {
            lines.Add(new RefitLine(RecordWords.Of(PreparationItem.Plugs), diesel ? "Glow plugs or injectors in, to their torque" : "Plugs in, to their torque; new washers where needed. Anti-seize only if the maker says so"));
        }
        if (access.Count > 0 && (plugsWereOut || done.ContainsKey(PreparationItem.Plugs)))
        {
            lines.Add(new RefitLine("access", $"Back on: {string.Join(", ", access.Reverse().Select(a => a.Says))}"));
        }
        lines.Add(new RefitLine("leaks", "Fuel, coolant and air joints checked for leaks"));
        lines.Add(new RefitLine("started", oiled ? "Started, run until oil and fuel are burnt off" : "Started and run until fuel is burnt off"));
        lines.Add(new RefitLine("codes", "Fault codes noted, then cleared"));
        return lines;
    }
}
