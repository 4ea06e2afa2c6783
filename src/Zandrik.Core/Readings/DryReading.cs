using Zandrik.Core.Physics;
using Zandrik.Core.Preparation;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Readings;

/// <summary>
/// One cylinder of a dry test as the judge sees it: the reading that counts, and how it was taken, with
/// the reading's own conditions already laid over those of the test.
/// </summary>
public sealed record DryReading
{
    private static readonly TestConditions NothingRecorded = new();

    private DryReading(int cylinder, GaugePressure value, int order)
    {
        Cylinder = cylinder;
        Value = value;
        Order = order;
    }

    /// <summary>The cylinder, by the maker's numbering.</summary>
    public int Cylinder { get; }

    /// <summary>The reading that counts, as read.</summary>
    public GaugePressure Value { get; }

    /// <summary>
    /// What is judged, Pa gauge: the reading by the gauge's check, at sea level. Where neither is known it is
    /// the reading as read.
    /// </summary>
    public double PressurePa { get; private init; }

    /// <summary>True when the gauge's check changed the reading.</summary>
    public bool IsGaugeCorrected { get; private init; }

    /// <summary>True when the gauge was checked, but not as far as this reading.</summary>
    public bool IsBeyondCheck { get; private init; }

    /// <summary>True when the barometer changed the reading.</summary>
    public bool IsBarometerCorrected { get; private init; }

    /// <summary>The first compression, Pa gauge, as read; absent when nobody noted it.</summary>
    public double? FirstPa { get; private init; }

    /// <summary>Place in the order of testing.</summary>
    public int Order { get; }

    /// <summary>Further readings of the same cylinder, the same way.</summary>
    public IReadOnlyList<GaugePressure> Repeats { get; private init; } = [];

    /// <summary>Compressions given; absent when nobody counted.</summary>
    public int? Pulses { get; private init; }

    /// <summary>How this reading was taken.</summary>
    public TestConditions Conditions { get; private init; } = NothingRecorded;

    /// <summary>
    /// Lines of the preparation that nobody had ticked when this was read, and that nobody has answered since by a
    /// condition of the test or of the reading. They are said, and judge nothing: unticked is unknown.
    /// </summary>
    public IReadOnlyList<PreparationItem> NotPrepared { get; private init; } = [];

    /// <summary>True when the cylinder held test oil: it reads high, and is the baseline of nothing.</summary>
    public bool IsOverOil => Conditions.OilBefore == true;

    /// <summary>What the shop calls the gauge; absent when not recorded.</summary>
    public string? TesterLabel { get; private init; }

    /// <summary>Cranking time, s; absent when nobody took it.</summary>
    public double? Seconds { get; private init; }

    /// <summary>Where the check valve sat: the condition first, else the tester's; absent when neither says.</summary>
    public CheckValvePlace? CheckValve { get; private init; }

    /// <summary>True when a person has confirmed the unit, so that it is not asked again.</summary>
    public bool UnitConfirmed { get; private init; }

    /// <summary>
    /// The readings of a test that have a figure, in the order they were tested. A cylinder of which only
    /// the first pulse was noted is not measured yet; superseded readings are passed over.
    /// </summary>
    /// <returns>The readings; empty when none has a figure.</returns>
    public static IReadOnlyList<DryReading> Of(DryCompressionTest test, EngineSheet engine)
    {
        var unit = RecordRules.UnitOf(test.Unit, engine);
        var result = new List<DryReading>(test.Readings?.Count ?? 0);
        for (var i = 0; i < (test.Readings?.Count ?? 0); i++)
        {
            var reading = test.Readings![i];
            if (reading.ReadAs(unit) is not { } value || reading.SupersededBy is not null)
            {
                continue;
            }
            var conditions = (reading.Conditions, test.Conditions) switch
            {
                (null, null) => NothingRecorded,
                ({ } own, null) => own,
                (null, { } all) => all,
                ({ } own, { } all) => own.Over(all),
            };
            var tester = reading.Tester ?? test.Tester;
            var correction = GaugeCorrection.Of(tester);
            var gaugePa = correction?.Correct(value.Pascals) ?? value.Pascals;
            result.Add(new DryReading(
                reading.Cylinder,
                value,
                reading.Order ?? i + 1)
            {
                PressurePa = Barometer.AtSeaLevel(gaugePa, conditions.BarometricKPa),
                IsGaugeCorrected = correction is not null && gaugePa != value.Pascals,
                IsBeyondCheck = correction?.Covers(value.Pascals) == false && value.Value > 0,
                IsBarometerCorrected = Barometer.Matters(conditions.BarometricKPa),
                FirstPa = (reading.FirstPulse ?? (reading.PulseValues is [var first, ..] ? first : null)) * value.Unit.Pascals(),
                Repeats = reading.RepeatsReadAs(unit),
                Pulses = reading.Pulses ?? reading.PulseValues?.Count ?? test.Count,
                Seconds = reading.Seconds,
                Conditions = conditions,
                NotPrepared = reading.Conditions is { NotPrepared: { } missing }
                    ? [.. missing.Where(i => PreparationList.WithoutTick(conditions, i) == conditions)]
                    : [],
                TesterLabel = tester?.Label,
                CheckValve = conditions.CheckValve ?? tester?.CheckValve,
                UnitConfirmed = reading.UnitConfirmed == true,
            });
        }
        result.Sort((a, b) => a.Order.CompareTo(b.Order));
        return result;
    }
}
