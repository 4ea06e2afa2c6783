using Zandrik.Core.Physics;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class SlotNamesTests
{
    private static readonly int[] Six = [1, 5, 3, 6, 2, 4];

    private static RelativeSlot[] Slots(params double[] percent) => [.. percent.Select((p, i) => new RelativeSlot(i + 1, null, p, 1.5, RelativeVerdict.Even, p, (double)i / percent.Length))];

    [Fact]
    public void The_slot_without_its_plug_names_all_the_others()
    {
        for (var dead = 0; dead < 6; dead++)
        {
            var percent = Enumerable.Range(0, 6).Select(i => i == dead ? 4.0 : 99).ToArray();
            var named = SlotNames.ByUnplugged(Slots(percent), Six, unplugged: 3)!;
            named[dead].Cylinder.ShouldBe(3);
            named[(dead + 1) % 6].Cylinder.ShouldBe(6);
            named[(dead + 5) % 6].Cylinder.ShouldBe(5);
            named.Select(s => s.Cylinder!.Value).Order().ShouldBe([1, 2, 3, 4, 5, 6]);
        }
    }

    [Theory]
    [InlineData(95, 60)] // None is dead.
    [InlineData(4, 8)] // Two are.
    public void Where_none_or_two_stand_out_nobody_is_named(double first, double second) =>
        SlotNames.ByUnplugged(Slots(first, second, 99, 100, 98, 99), Six, 1).ShouldBeNull();

    [Fact]
    public void A_capture_without_sync_but_with_a_plug_out_gives_cylinders_and_leaves_that_one_out_of_the_record()
    {
        var engine = SimulatedEngine.InlineFour;
        var run = CrankingRun.Of(engine, new Dictionary<int, CylinderCondition> { [4] = new() { ExhaustValveM2 = 2e-4 }, [3] = new() { ExhaustValveM2 = 2e-6 } });
        var capture = SimulatedCapture.Of(engine, run, new CaptureRecipe { SampleRateHz = 5000, Sync = SyncSignal.None });
        var question = Captures.Question(engine, SyncKind.None);
        var blind = Captures.Answer(capture, question);
        blind.Synchronised.ShouldBeFalse();
        var answer = Captures.Answer(capture, question with { Unplugged = 4 });
        (answer.Synchronised, answer.Unplugged).ShouldBe((true, 4));
        answer.Warnings.ShouldNotContain(w => w.Code == CaptureCode.NoSync);
        answer.Slots.Where(s => !answer.IsUnplugged(s)).MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(3);
        answer.ForRecord().Readings!.Select(r => r.Cylinder).ShouldBe([1, 2, 3]);
        RelativeHeadline.Of(answer, question).Cylinder.ShouldBe(3);

        var wrong = Captures.Answer(SimulatedCapture.Of(engine, CrankingRun.Of(engine), new CaptureRecipe { SampleRateHz = 5000, Sync = SyncSignal.None }), question with { Unplugged = 4 });
        wrong.Synchronised.ShouldBeFalse();
        wrong.ForRecord().Readings.ShouldBeNull();
        wrong.ForRecord().Slots!.Select(s => s.Slot).ShouldBe([1, 2, 3, 4]);
        wrong.Warnings.ShouldContain(w => w.Says.Contains("No hump stands out as cylinder 4", StringComparison.Ordinal));
    }

    [Fact]
    public void Without_other_readings_every_way_round_is_as_likely()
    {
        var ways = SlotNames.Candidates(Slots(100, 99, 70, 99, 100, 98), Six, new Dictionary<int, double>());
        ways.Count.ShouldBe(6);
        ways.ShouldAllBe(w => Math.Abs(w.Likelihood - 1.0 / 6) < 1e-12);
        ways.Select(w => w.CylinderOfSlot[2]).Order().ShouldBe([1, 2, 3, 4, 5, 6]);
    }

    [Fact]
    public void A_gauge_tells_the_ways_apart()
    {
        var gauge = new Dictionary<int, double> { [1] = 100, [2] = 69, [3] = 98, [4] = 99, [5] = 97, [6] = 100 };
        var ways = SlotNames.Candidates(Slots(100, 99, 70, 99, 100, 98), Six, gauge);
        ways[0].CylinderOfSlot[2].ShouldBe(2);
        ways[0].Likelihood.ShouldBeGreaterThan(0.95);
        ways.Sum(w => w.Likelihood).ShouldBe(1, 1e-12);
    }

    [Fact]
    public void The_gauge_counts_against_its_best_and_one_good_reading_tells_nothing()
    {
        var engine = Cases.Inline(4);
        SlotNames.GaugeOf(null, engine).ShouldBeEmpty();
        SlotNames.GaugeOf(Cases.Judge(engine, Cases.Dry(200)), engine).ShouldBeEmpty();
        SlotNames.GaugeOf(Cases.Judge(engine, Cases.Dry(60)), engine).ShouldBeEmpty("without a maker's figure nobody knows that it is low");
        var two = SlotNames.GaugeOf(Cases.Judge(engine, Cases.Dry(200, 150)), engine);
        (two.Count, two[1], Math.Round(two[2], 6)).ShouldBe((2, 100, 75));
    }

    [Fact]
    public void One_low_gauge_reading_names_the_low_hump_the_surer_the_lower_it_is()
    {
        var engine = Cases.Inline(6, minimum: 140) with { FiringOrder = Six };
        SlotCandidate Best(double psi, params double[] humps)
        {
            var gauge = SlotNames.GaugeOf(Cases.Judge(engine, new DryCompressionTest { Unit = Core.Units.PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 2, Value = psi }] }), engine);
            return SlotNames.Candidates(Slots(humps), Six, gauge)[0];
        }
        var clear = Best(70, 100, 99, 38, 99, 100, 98);
        (clear.CylinderOfSlot[2], clear.Likelihood > 0.95).ShouldBe((2, true));
        var faint = Best(135, 100, 99, 76, 99, 100, 98);
        (faint.CylinderOfSlot[2], faint.Likelihood is > 0.3 and < 0.9).ShouldBe((2, true));
        Best(150, 100, 99, 38, 99, 100, 98).Likelihood.ShouldBe(1.0 / 6, 1e-12, "a reading that is not low names nothing");
    }

    [Fact]
    public void Slots_have_letters_that_nobody_takes_for_cylinders() => Enumerable.Range(1, 16).Select(SlotNames.Letter).ShouldBe([.. "ABCDEFGHIJKLMNOP".Select(c => c.ToString())]);
}
