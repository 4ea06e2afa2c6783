using CsCheck;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using static Zandrik.Core.Tests.Cases;

namespace Zandrik.Core.Tests.Compression;

public sealed class DryJudgementPropertyTests
{
    private static readonly Gen<double[]> Readings = Gen.Int[90, 260].Select(i => (double)i).Array[2, 16];

    private static readonly Gen<EngineSheet> Sheets =
        Gen.Select(Gen.Bool, Gen.Bool, (min, diff) => Inline(16, nominal: 205, minimum: min ? 150 : null, maxDifference: diff ? 25 : null));

    [Fact]
    public void Writing_the_test_in_another_unit_changes_no_verdict() =>
        Gen.Select(Readings, Sheets, Gen.Int[0, 3]).Sample((psi, sheet, unit) =>
        {
            var engine = sheet with { Cylinders = psi.Length };
            var to = PressureUnits.All[unit];
            double In(double value) => value * PressureUnit.Psi.Pascals() / to.Pascals();
            var converted = new DryCompressionTest
            {
                Unit = to, Conditions = Proper,
                Readings = [.. psi.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = In(v) })],
            };
            var other = engine with
            {
                Spec = new EngineSpec
                {
                    Unit = to, Nominal = In(205), Minimum = engine.Spec!.Minimum is { } m ? In(m) : null, MaxDifference = engine.Spec.MaxDifference is { } d ? In(d) : null,
                },
            };
            var a = DryJudgement.Of(engine, Dry(psi), shown: PressureUnit.Psi);
            var b = DryJudgement.Of(other, converted, shown: PressureUnit.Psi);
            return a.States().SequenceEqual(b.States())
                && a.Spread.Select(s => (s.Method, s.Verdict)).SequenceEqual(b.Spread.Select(s => (s.Method, s.Verdict)));
        });

    [Fact]
    public void Renumbering_the_cylinders_renumbers_the_answer() =>
        Gen.Select(Readings, Gen.Int[0, 1000]).Sample((psi, shuffle) =>
        {
            var engine = Inline(psi.Length, nominal: 205, minimum: 150);
            var to = Enumerable.Range(0, psi.Length).ToArray();
            new Random(shuffle).Shuffle(to);
            // The order of testing stays; only the numbers on the cylinders change.
            var test = Dry(psi);
            var renumbered = test with { Readings = [.. test.Readings!.Select((r, i) => r with { Cylinder = to[i] + 1, Order = i + 1 })] };
            var a = Judge(engine, test).States();
            var b = Judge(engine, renumbered).States();
            return Enumerable.Range(0, psi.Length).All(i => a[i] == b[to[i]]);
        });

    [Fact]
    public void Lowering_the_lowest_cylinder_never_makes_its_state_better() =>
        Gen.Select(Readings, Gen.Int[1, 25]).Sample((psi, drop) =>
        {
            var engine = Inline(psi.Length, nominal: 205, minimum: 150);
            var lowest = Array.IndexOf(psi, psi.Min());
            var before = Judge(engine, Dry(psi)).Cylinders[lowest].State;
            var after = Judge(engine, Dry(Lowered(psi, drop))).Cylinders[lowest].State;
            return Rank(after) >= Rank(before);
        });

    [Fact]
    public void A_spread_only_grows_when_the_lowest_falls() =>
        Gen.Select(Readings, Gen.Int[1, 25]).Sample((psi, drop) =>
        {
            var engine = Inline(psi.Length);
            var before = Judge(engine, Dry(psi)).Method(SpreadMethod.PercentOfHighest).Value;
            return Judge(engine, Dry(Lowered(psi, drop))).Method(SpreadMethod.PercentOfHighest).Value >= before;
        });

    [Fact]
    public void On_an_even_engine_a_further_reading_at_the_reference_is_sound_and_accuses_nobody() =>
        Gen.Int[190, 205].Select(i => (double)i).Array[2, 15].Sample(psi =>
        {
            var engine = Inline(psi.Length + 1);
            var before = Judge(engine, Dry(psi));
            var level = before.ReferencePa!.Value / PressureUnit.Psi.Pascals();
            var after = Judge(engine, Dry([.. psi, level]));
            return after.States().All(s => s == CylinderState.Sound);
        });

    // Not so far down that the figure would be taken for one in another unit.
    private static double[] Lowered(double[] psi, double drop)
    {
        var lowered = psi.ToArray();
        lowered[Array.IndexOf(lowered, lowered.Min())] -= drop;
        return lowered;
    }

    // High is no better or worse than sound here: a falling cylinder passes from one to the other.
    private static int Rank(CylinderState state) => state switch
    {
        CylinderState.Watch => 1,
        CylinderState.Low => 2,
        CylinderState.Dead => 3,
        _ => 0,
    };
}
