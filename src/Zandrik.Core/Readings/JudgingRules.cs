using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Readings;

/// <summary>
/// What a dry test of one engine is held against: the maker's figures, the limits of each spread method,
/// and which of them decides. Everything a shop has not set has the default of the trade.
/// </summary>
public sealed class JudgingRules
{
    private readonly SpreadLimits[] limits;
    private readonly bool[] inUse;

    private JudgingRules(EngineSheet engine, JudgeBy? judgeBy)
    {
        var unit = (engine.Spec?.Unit ?? PressureUnit.Psi).Pascals();
        MinimumPa = engine.Spec?.Minimum * unit;
        NominalPa = engine.Spec?.Nominal * unit;
        MaxDifferencePa = engine.Spec?.MaxDifference * unit;
        Cylinders = engine.Cylinders;
        IsDiesel = engine.Fuel == Fuel.Diesel;
        IsThrottled = !IsDiesel && engine.Throttle != ThrottleControl.None;
        IsLowRatio = engine.CompressionRatio < 8.5;
        CompressionRatio = engine.CompressionRatio;

        limits =
        [
            new SpreadLimits(0.80, 1.00),
            new SpreadLimits(0.10, 0.20),
            new SpreadLimits(0.90, 0.75),
            new SpreadLimits(0.10, 0.15),
            new SpreadLimits(10 * PressureUnit.Psi.Pascals(), 15 * PressureUnit.Psi.Pascals()),
        ];
        // Fixed pounds are a rule for small light engines: on a diesel at 400 psi they would put every
        // sound cylinder under watch. Elsewhere they are answered, but count only where a shop asks for it.
        inUse = [MaxDifferencePa is not null, true, true, true, engine.DisplacementCc <= 1000];
        foreach (var (method, pair) in judgeBy?.Limits ?? new Dictionary<SpreadMethod, IReadOnlyList<double>>())
        {
            var scale = method == SpreadMethod.FixedPressure ? PressureUnit.Psi.Pascals() : 0.01;
            limits[(int)method] = new SpreadLimits(pair[0] * scale, pair[1] * scale);
            inUse[(int)method] |= method != SpreadMethod.MakerDifference;
        }
        if (judgeBy?.MethodsInUse is { } chosen)
        {
            for (var method = SpreadMethod.MakerDifference; method <= SpreadMethod.FixedPressure; method++)
            {
                inUse[(int)method] = chosen.Contains(method) && (method != SpreadMethod.MakerDifference || MaxDifferencePa is not null);
            }
        }
        var wanted = judgeBy?.DecidingMethod
            ?? (MaxDifferencePa is null ? SpreadMethod.PercentOfHighest : SpreadMethod.MakerDifference);
        DecidingMethod = wanted == SpreadMethod.MakerDifference && MaxDifferencePa is null ? SpreadMethod.PercentOfHighest : wanted;
        inUse[(int)DecidingMethod] = true;
    }

    /// <summary>The rules for an engine, with a shop's settings where it has any.</summary>
    /// <returns>The rules; what neither engine nor shop says is the trade's.</returns>
    public static JudgingRules For(EngineSheet engine, JudgeBy? judgeBy = null) => new(engine, judgeBy);

    /// <summary>Number of cylinders of the engine.</summary>
    public int Cylinders { get; }

    /// <summary>True for a diesel.</summary>
    public bool IsDiesel { get; }

    /// <summary>True when a throttle plate can be shut: neither a diesel nor an engine without throttle.</summary>
    public bool IsThrottled { get; }

    /// <summary>True when the compression ratio is known to be under 8.5: an old engine is sound at less.</summary>
    public bool IsLowRatio { get; }

    /// <summary>The compression ratio, to 1; absent when unknown.</summary>
    public double? CompressionRatio { get; }

    /// <summary>More than any engine pumps up on its starter, Pa: 420 psi with spark, 1150 psi for a diesel. Beyond it a reading is a slip.</summary>
    public double HighestPossiblePa => HighestPossible(IsDiesel);

    /// <summary>The same where only the fuel is known.</summary>
    internal static double HighestPossible(bool isDiesel) => (isDiesel ? 1150 : 420) * PressureUnit.Psi.Pascals();

    /// <summary>A share of the nominal; a cylinder that reads no more is low, whatever the others read. Rule of the trade.</summary>
    public const double LowOfNominal = 0.85;

    /// <summary>Under this a level wants explaining where the maker gives no figure, Pa: 135 psi, or three quarters of what a ratio under 8.5 gives; 300 psi for a diesel. Rules of the trade.</summary>
    public double WantsExplainingPa => (IsDiesel ? 300 : IsLowRatio ? 0.75 * 19.5 * CompressionRatio!.Value : 135) * PressureUnit.Psi.Pascals();

    /// <summary>Under this a cylinder contributes little where the maker gives no figure, Pa: 100 psi, or 55 % of what a ratio under 8.5 gives; for a diesel no figure of its own. Rules of the trade.</summary>
    public double TooLowPa => (IsDiesel ? 0 : IsLowRatio ? 0.55 * 19.5 * CompressionRatio!.Value : 100) * PressureUnit.Psi.Pascals();

    /// <summary>The maker's minimum, Pa; absent when unknown.</summary>
    public double? MinimumPa { get; }

    /// <summary>The maker's nominal, Pa; absent when unknown.</summary>
    public double? NominalPa { get; }

    /// <summary>The maker's largest difference, Pa; absent when unknown.</summary>
    public double? MaxDifferencePa { get; }

    /// <summary>
    /// The method whose verdict decides the state of a cylinder: the shop's choice; else the maker's
    /// difference where the sheet has one, else percent of the highest. A shop that decides by the maker's
    /// difference falls back to percent of the highest on a sheet without one.
    /// </summary>
    public SpreadMethod DecidingMethod { get; }

    /// <summary>
    /// Good and marginal limit of a method: fractions of what it measures (of the maker's figure for
    /// maker-difference), Pa for fixed-pressure. Inclusive on the good side.
    /// </summary>
    /// <returns>The two limits, in the method's own measure.</returns>
    public SpreadLimits LimitsOf(SpreadMethod method) => limits[(int)method];

    /// <summary>
    /// Whether a method can put a cylinder under watch: the percent methods always, maker-difference with
    /// a figure, fixed-pressure on engines up to 1 litre, and any method a shop decides by or sets limits for.
    /// A shop that names its methods (<see cref="JudgeBy.MethodsInUse"/>) has those, and the deciding one.
    /// </summary>
    /// <returns>False for a method that is only shown.</returns>
    public bool IsInUse(SpreadMethod method) => inUse[(int)method];

    /// <summary>
    /// How far below (or above) the reference a cylinder may be by a method's good or marginal limit, as a
    /// pressure: the method's measure applied to one cylinder against the reference.
    /// </summary>
    /// <param name="method">The method; maker-difference only with a maker's figure.</param>
    /// <param name="referencePa">The reference, Pa.</param>
    /// <returns>Good and marginal distance, Pa.</returns>
    internal SpreadLimits DistancesPa(SpreadMethod method, double referencePa)
    {
        var (good, marginal) = limits[(int)method];
        return method switch
        {
            SpreadMethod.MakerDifference => new SpreadLimits(good * MaxDifferencePa!.Value, marginal * MaxDifferencePa.Value),
            SpreadMethod.LowestToHighest => new SpreadLimits((1 - good) * referencePa, (1 - marginal) * referencePa),
            SpreadMethod.FixedPressure => new SpreadLimits(good, marginal),
            _ => new SpreadLimits(good * referencePa, marginal * referencePa),
        };
    }
}

/// <summary>Good up to, marginal up to, else fail; inclusive. For lowest-to-highest both are lower bounds.</summary>
/// <param name="Good">The good limit: a share, or Pa for fixed pressure.</param>
/// <param name="Marginal">The marginal limit, likewise a share, or Pa.</param>
public readonly record struct SpreadLimits(double Good, double Marginal);
