using System.Text.Json;
using Zandrik.Core.Records;

namespace Zandrik.Core.Diagnosis;

/// <summary>A finding whose curve was estimated from the engine model.</summary>
public enum EstimatedFinding
{
    /// <summary>ln of dry pressure with the fault over without.</summary>
    Dry,

    /// <summary>ln of what oil brings more than to a sound cylinder, for each share of a ring leak that it closes.</summary>
    Wet,

    /// <summary>ln of the peak with all plugs in.</summary>
    Relative,

    /// <summary>ln of running idle compression; petrol.</summary>
    Idle,

    /// <summary>ln of running compression after a snap; petrol.</summary>
    Snap,

    /// <summary>ln of the leak area of a leak-down over what the table expects of the node.</summary>
    LeakDown,
}

/// <summary>What one finding reads at each severity of a fault.</summary>
public sealed record EstimatedCurve
{
    /// <summary>The fault.</summary>
    public required Fault Fault { get; init; }

    /// <summary>True for a diesel.</summary>
    public required bool Diesel { get; init; }

    /// <summary>The finding.</summary>
    public required EstimatedFinding Finding { get; init; }

    /// <summary>Mean at each severity of <see cref="SeverityFigures"/>, ln.</summary>
    public required IReadOnlyList<double> Means { get; init; }

    /// <summary>Standard deviation about it between engines and within the severity, ln.</summary>
    public required IReadOnlyList<double> Spreads { get; init; }

    /// <summary>Engines that stand behind each.</summary>
    public required IReadOnlyList<int> Engines { get; init; }

    /// <summary>The share of all differences that the severity explains, 0 to 1.</summary>
    public required double Fit { get; init; }

    /// <summary>Mean and spread at a place along the severities, between two as it comes.</summary>
    /// <param name="place">From 0 for the mildest; a little beyond the ends straight on.</param>
    /// <returns>ln each, the spread above 0.</returns>
    public (double Mean, double Spread) At(double place)
    {
        var from = Math.Clamp((int)Math.Floor(place), 0, Means.Count - 2);
        double Along(IReadOnlyList<double> of) => of[from] + (of[from + 1] - of[from]) * (place - from);
        return (Along(Means), Math.Max(0, Along(Spreads)));
    }
}

/// <summary>
/// What each reading says at each severity, estimated from the engine model by <c>./calibrate</c> and checked in as likelihoods.json. Readings are without noise: that of gauges and ears is
/// <see cref="LikelihoodTable"/>'s.
/// </summary>
public sealed record LikelihoodEstimates
{
    /// <summary>The seed they were drawn with.</summary>
    public required int Seed { get; init; }

    /// <summary>How many engines.</summary>
    public required int Engines { get; init; }

    /// <summary>The day.</summary>
    public required DateOnly Date { get; init; }

    /// <summary>Degrees of crank that a step took while cranking.</summary>
    public required double StepDeg { get; init; }

    /// <summary>The curves.</summary>
    public required IReadOnlyList<EstimatedCurve> Curves { get; init; }

    /// <summary>Nothing estimated: what stands by hand alone.</summary>
    public static LikelihoodEstimates None { get; } = new() { Seed = 0, Engines = 0, Date = DateOnly.MinValue, StepDeg = 0, Curves = [] };

    private static readonly Lazy<LikelihoodEstimates> Stored = new(() =>
    {
        using var file = typeof(LikelihoodEstimates).Assembly.GetManifestResourceStream("likelihoods.json")!;
        return JsonSerializer.Deserialize<LikelihoodEstimates>(file, TestRecordJson.Options)!;
    });

    /// <summary>Those the diagnosis uses.</summary>
    public static LikelihoodEstimates CheckedIn => Stored.Value;

    /// <summary>The estimates as they are checked in.</summary>
    /// <returns>JSON, a curve to a line.</returns>
    public string ToJson()
    {
        string Json<T>(T value) => JsonSerializer.Serialize(value, TestRecordJson.Options);
        return $"{{\n\"seed\":{Json(Seed)},\"engines\":{Json(Engines)},\"date\":{Json(Date)},\"stepDeg\":{Json(StepDeg)},\n\"curves\":[\n{string.Join(",\n", Curves.Select(Json))}\n]}}\n";
    }

    /// <summary>The curve of a finding.</summary>
    /// <param name="fault">The fault.</param>
    /// <param name="diesel">True for a diesel.</param>
    /// <param name="finding">The finding.</param>
    /// <returns>The curve; absent where the model says nothing of it.</returns>
    public EstimatedCurve? Of(Fault fault, bool diesel, EstimatedFinding finding) => Curves.FirstOrDefault(c => c.Fault == fault && c.Diesel == diesel && c.Finding == finding);
}
