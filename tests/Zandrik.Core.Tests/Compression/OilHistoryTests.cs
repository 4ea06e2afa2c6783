using Zandrik.Core.Compression;
using Zandrik.Core.Conditions;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Compression;

public sealed class OilHistoryTests
{
    private static readonly DateTimeOffset Now = new(2026, 3, 2, 9, 0, 0, TimeSpan.Zero);

    private static DryCompressionTest Dry(params double[] psi) => new() { Unit = PressureUnit.Psi, Readings = [.. psi.Select((v, i) => new CompressionReading { Cylinder = i + 1, Value = v })] };

    private static readonly WetCompressionTest WetThree = new() { Unit = PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 3, Value = 180 }] };

    private static readonly LeakDownTest Leak = new() { Supply = 100, Unit = PressureUnit.Psi, Readings = [new LeakDownReading { Cylinder = 3, Held = 60 }, new LeakDownReading { Cylinder = 1, Held = 90 }] };

    private static TestRecord Job(params TestEntry[] tests) => new() { Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol }, Tests = tests };

    [Fact]
    public void A_dry_reading_after_oil_is_marked_counts_nowhere_and_is_no_baseline()
    {
        var job = Job(Dry(190, 188, 131, 191), WetThree, Dry(190, 188, 176, 191));
        LatestDryTest.Of(job)!.Readings!.Single(r => r.Cylinder == 3).Conditions!.OilBefore.ShouldBe(true);
        var judged = LatestDryTest.Judged(job)!;
        judged.Cylinders[2].IsOverOil.ShouldBeTrue();
        judged.Cylinders[2].State.ShouldBe(CylinderState.Untested);
        judged.Validity.Single(v => v.Code == ValidityCode.OilBeforeDry).Cylinders.ShouldBe([3]);
        judged.Cylinders[0].State.ShouldBe(CylinderState.Sound);
        // Only that cylinder was read again: the test before it stays the baseline.
        var only = Job(Dry(190, 188, 131, 191), WetThree, new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 3, Value = 176 }] });
        LatestDryTest.Of(only)!.Readings!.Count.ShouldBe(4);
        WetJudgement.Of(only, WetThree).Cylinders[2].Dry!.Value.Value.ShouldBe(131);
        EngineDiagnosis.Of(only, ledger: false).Cylinders[2].State.ShouldBe(CylinderState.Low);
    }

    [Fact]
    public void A_leak_down_after_oil_counts_as_oiled_by_order_and_by_time()
    {
        bool Oiled(TestRecord job) => LeakDownJudgement.Of(OilHistory.Marked(job), OilHistory.Marked(job).Tests!.OfType<LeakDownTest>().Single()).Cylinders[2].AfterOil;
        Oiled(Job(WetThree, Leak)).ShouldBeTrue("it stands after the oil");
        Oiled(Job(Leak, WetThree)).ShouldBeFalse();
        Oiled(Job(Leak with { At = Now.AddHours(2) }, WetThree with { At = Now })).ShouldBeTrue("the clock decides");
        Oiled(Job(WetThree with { At = Now.AddHours(2) }, Leak with { At = Now })).ShouldBeFalse("the clock decides");
        Oiled(Job(WetThree, Leak with { Conditions = new TestConditions { OilBefore = false } })).ShouldBeFalse("run and cleared, somebody said");
        OilHistory.Marked(Job(WetThree, Leak)).Tests!.OfType<LeakDownTest>().Single().Readings![1].Conditions.ShouldBeNull("cylinder 1 was never oiled");
    }

    [Fact]
    public void A_record_without_oil_is_left_as_it_is()
    {
        var job = Job(Dry(190, 188, 131, 191), Leak);
        OilHistory.Marked(job).ShouldBeSameAs(job);
    }
}
