using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;

namespace Zandrik.Core.Tests.Diagnosis;

public sealed class JobEvidenceTests
{
    private static JobEvidence Of(string text) => JobEvidence.Of(Whiteboard.Job(text));

    private static CylinderEvidence At(string text, int cylinder) => Of(text).Cylinders[cylinder - 1];

    private static double Ln(double psi) => Math.Log(psi);

    [Fact]
    public void A_dry_reading_is_its_logarithm_with_the_usual_spread()
    {
        var c = At("petrol 4; dry 190 188 131 191", 3);
        c.LnDry!.Value.ShouldBe(Ln(131), 1e-9);
        c.DrySpread.ShouldBe(0.031);
        c.TestErrorFactor.ShouldBe(1);
    }

    [Fact]
    public void Only_what_is_named_is_excluded()
    {
        var job = Whiteboard.Job("petrol 4; dry 190 188 131 191; seen milky-oil");
        JobEvidence With(params RuledOut[] ruled) => JobEvidence.Of(job with { RuledOut = ruled, Engine = job.Engine with { Features = [EngineFeature.OilCooler, EngineFeature.EgrCooler] } });
        With(new RuledOut { Item = RuledOutItem.Spark }, new RuledOut { Item = RuledOutItem.Fuel }, new RuledOut { Item = RuledOutItem.Injector }).RuledOut.ShouldBe(2);
        With(new RuledOut { Item = RuledOutItem.OilCooler, How = "blanked" }).ShouldSatisfyAllConditions(
            e => e.RuledOut.ShouldBe(0), e => e.Suspected.Features.ShouldBe([EngineFeature.EgrCooler]), e => e.Seen.ShouldContain(Observation.MilkyOil));
        // Looked at later, and none found.
        JobEvidence.Of(job with { Tests = [.. job.Tests!, new FluidsCheck { Findings = [FluidFinding.NoCoolantInOil] }] }).Seen.ShouldNotContain(Observation.MilkyOil);
    }

    [Fact]
    public void Repeats_that_agree_make_it_surer_and_a_slip_less_likely()
    {
        var c = At("petrol 4; dry 190 188 131 191; repeat 3 130", 3);
        (c.DrySpread, c.TestErrorFactor).ShouldBe((0.027, 0.1));
    }

    [Fact]
    public void Repeats_that_do_not_agree_make_it_wide_and_a_slip_likely()
    {
        var c = At("petrol 4; dry 190 188 150 191; repeat 3 189", 3);
        c.DrySpread.ShouldBe(0.031 + (189.0 - 150) / 189 / 2, 1e-9);
        c.TestErrorFactor.ShouldBe(8);
    }

    // g(n) = 1 − 0.48·exp(−(n − 1)/1.25): two compressions reach 78.4 %, six 99.1 %.
    [Fact]
    public void Fewer_compressions_than_the_others_are_reckoned_up()
    {
        var c = At("petrol 4; dry 190 189 150 191; pulses 6 6 2 6", 3);
        var missed = Math.Log(0.99121 / 0.78432);
        c.LnDry!.Value.ShouldBe(Ln(150) + missed, 1e-4);
        c.DrySpread.ShouldBe(0.031 + 0.6 * missed + 0.005, 1e-4);
        c.TestErrorFactor.ShouldBe(4);
    }

    [Theory]
    [InlineData("with throttle-closed", -0.09, 0.04)]
    [InlineData("with head-valve", -0.18, 0.05)]
    [InlineData("with battery-weak", -0.06, 0.05)]
    [InlineData("with not-at-zero", 0, 0.06)]
    [InlineData("pulses 3 3 3 3", -0.05, 0.05)]
    [InlineData("pulses 2 2 2 2", -0.12, 0.05)]
    [InlineData("with throttle-closed head-valve", -0.27, 0.0640)] // √(0.04² + 0.05²)
    public void A_slip_that_is_recorded_shifts_the_level_that_is_expected(string slip, double shift, double spread)
    {
        var found = Of(slip.StartsWith("with", StringComparison.Ordinal) ? $"petrol 4; {slip}; dry 170 168 171 169" : $"petrol 4; dry 170 168 171 169; {slip}").Slip!.Value;
        found.Shift.ShouldBe(shift, 1e-9);
        found.Spread.ShouldBe(spread, 1e-4);
    }

    [Fact]
    public void A_cold_engine_and_plugs_one_at_a_time_are_no_slip_but_expected()
    {
        var job = Of("petrol 4; with cold one-at-a-time; dry 170 168 171 169");
        job.Slip.ShouldBeNull();
        job.Everywhere.Shift.ShouldBe(-0.105, 1e-9);
        job.Everywhere.Spread.ShouldBe(Math.Sqrt(0.035 * 0.035 + 0.03 * 0.03), 1e-9);
    }

    [Theory]
    [InlineData("petrol 4; nominal 200", 200, 0.05)]
    [InlineData("petrol 4; nofigures", 187, 0.14)]
    [InlineData("diesel 4; nofigures", 420, 0.16)]
    public void What_is_expected_stands_on_the_best_figure_there_is(string text, double psi, double spread)
    {
        var job = Of(text);
        Math.Exp(job.ExpectedLn).ShouldBe(psi, 0.5);
        job.ExpectedSpread.ShouldBe(spread);
    }

    [Fact]
    public void A_doubtful_reading_is_no_evidence()
    {
        At("petrol 4; dry 13 188 190 191", 1).LnDry.ShouldBeNull();
        At("petrol 4; dry 190 188 189 191; leak 3 96 exhaust 3 intake 3", 3).Leak.ShouldBeNull();
        At("petrol 4; dry 190 188 600 191", 3).LnDry.ShouldBeNull();
    }

    // ln ρ of the design's table, supply 100 psi: 20 % −0.06, 60 % 0.74, 85 % 1.35.
    [Theory]
    [InlineData(20, -0.06)]
    [InlineData(60, 0.74)]
    [InlineData(85, 1.35)]
    public void A_loss_is_the_area_it_takes(double percent, double ln) =>
        At($"petrol 4; dry 190 188 131 191; leak 3 {percent}", 3).Leak!.LnRatio!.Value.ShouldBe(ln, 0.01);

    [Fact]
    public void Near_everything_lost_the_needle_tells_little()
    {
        double Spread(double percent) => At($"petrol 4; dry 190 188 100 191; leak 3 {percent}", 3).Leak!.SpreadOfSound;
        Spread(50).ShouldBeInRange(0.28, 0.30);
        Spread(97).ShouldBeGreaterThan(0.47);
        At("petrol 4; dry 190 188 100 191; leak 3 50", 3).Leak!.Spread.ShouldBeInRange(0.55, 0.56, "the amount of a leak is coupled loosely");
    }

    [Fact]
    public void The_ear_of_a_job_is_learnt_from_the_cylinders_that_hold()
    {
        LeakEvidence Third(string others) => At($"petrol 4; dry 190 188 100 191; leak 3 85 exhaust 3; {others}", 3).Leak!;
        Third("").ShouldSatisfyAllConditions(l => l.EarDb.ShouldBe(0), l => l.EarSpreadDb.ShouldBe(8));
        // About 5 dB is expected at the oil filler of a cylinder that loses 8 %: faint.
        var usual = Third("leak 1 8 crankcase 1; leak 2 8 crankcase 1");
        usual.EarDb.ShouldBeInRange(-3, 3);
        usual.EarSpreadDb.ShouldBe(4);
        Third("leak 1 8 crankcase 3; leak 2 8 crankcase 3").EarDb.ShouldBeGreaterThan(usual.EarDb + 5, "an ear that hears everything loud");
        Third("leak 1 8 nowhere; leak 2 8 nowhere").EarDb.ShouldBeLessThan(usual.EarDb - 2, "one that hears little");
        Third("leak 1 60 crankcase 3").EarSpreadDb.ShouldBe(8, "nothing is learnt from one that leaks");
    }

    [Theory]
    [InlineData("petrol 4; dry 190 188 188 191; leak 3 60", 1)]
    [InlineData("petrol 4; dry 190 188 120 191; leak 3 80", 0)]
    [InlineData("petrol 4; rel 100 99 98 100; leak 3 60", 1)]
    [InlineData("petrol 4; leak 3 80", 0.2)]
    public void What_is_low_anyway_needs_no_slip_of_the_crank_to_lose_its_air(string job, double pumpsWell) =>
        At(job, 3).Leak!.PumpsWell.ShouldBe(pumpsWell, 0.01);

    [Fact]
    public void Listening_everywhere_is_silence_where_nothing_was_heard_and_half_of_it_is_not()
    {
        var everywhere = At("petrol 4; dry 190 188 131 191; leak 3 85 exhaust 3", 3).Leak!.Heard;
        everywhere.ShouldBe([0, 3, 0, 0, 0, 0]);
        At("petrol 4; dry 190 188 131 191; leak 3 85", 3).Leak!.Heard.ShouldAllBe(h => h == null);
        // The last cylinder of a row has no neighbour behind.
        At("petrol 4; dry 190 188 191 131; leak 4 85 exhaust 3", 4).Leak!.Heard[LeakEvidence.Behind].ShouldBeNull();
    }

    [Fact]
    public void Air_at_a_neighbours_hole_that_came_round_by_the_intake_counts_less()
    {
        At("petrol 4; dry 190 131 188 191; leak 2 85 plughole3 2", 2).Leak!.Heard[LeakEvidence.Behind].ShouldBe(2);
        At("petrol 4; dry 190 131 188 191; leak 2 85 intake 3 plughole3 2", 2).Leak!.Heard[LeakEvidence.Behind].ShouldBe(1);
    }

    [Fact]
    public void A_tester_that_reads_all_cylinders_high_is_seen_through()
    {
        Of("petrol 4; dry 190 188 191 189; leak 1 12; leak 2 11; leak 3 12; leak 4 11").LeakOffset.ShouldBeInRange(-0.05, 0.1);
        Of("petrol 4; dry 190 188 191 189; leak 1 30; leak 2 31; leak 3 29; leak 4 30").LeakOffset.ShouldBe(0.349, 0.002);
        // But not without end: all of them leaking is wear, too.
        Of("petrol 4; dry 190 188 191 189; leak 1 60; leak 2 62; leak 3 61; leak 4 60").LeakOffset.ShouldBe(0.35);
        // The odd one stands out and does not move it; two readings say nothing of the tester.
        Of("petrol 4; dry 190 188 131 189; leak 1 12; leak 2 11; leak 3 85; leak 4 11").LeakOffset.ShouldBeInRange(-0.05, 0.1);
        Of("petrol 4; dry 190 188 191 189; leak 1 30; leak 2 31").LeakOffset.ShouldBe(0);
    }

    [Fact]
    public void Oil_that_lifts_the_others_is_taken_for_the_gain_of_a_sound_cylinder()
    {
        At("petrol 4; dry 190 188 131 191; wet 3 160", 3).LnWet!.Value.ShouldBe(Math.Log(160.0 / 131), 1e-9);
        Of("petrol 4; dry 190 188 131 191; wet 3 160").Nodes.SoundGain.ShouldBe(0.04, 0.002);
        Of("petrol 4; dry 190 188 131 191; wet 1 209 2 207 3 160").Nodes.SoundGain.ShouldBeGreaterThan(0.05);
        At("petrol 4; dry 190 188 50 191; wet 3 52", 3).NearlyDead.ShouldBeTrue();
    }

    [Fact]
    public void Running_readings_stand_against_what_a_sound_cylinder_gives_here()
    {
        var two = Of("petrol 4; dry 190 188 189 191; run 1 70 75; run 2 100 163");
        two.Cylinders[1].LnIdle!.Value.ShouldBe(Ln(100 / 0.53 / 190), 0.02);
        // Of three and more the middle says how this engine idles.
        var four = Of("petrol 4; dry 190 188 189 191; run 1 70 75; run 2 110 180; run 3 110 180; run 4 110 180");
        four.Cylinders[1].LnIdle!.Value.ShouldBeLessThan(Ln(110 / 0.53 / 190));
        four.RanCylinders.ShouldBe(4);
        // One diesel cylinder has nothing to be compared with.
        At("diesel 4; dry 420 418 419 421; run 1 300", 1).LnIdle.ShouldBeNull();
        At("diesel 4; dry 420 418 419 421; run 1 300; run 2 330; run 3 330", 1).LnIdle!.Value.ShouldBe(Ln(300.0 / 330), 1e-9);
    }

    [Fact]
    public void What_checks_found_counts_as_noticed_once()
    {
        var record = Whiteboard.Job("petrol 4; dry 190 188 191 189; seen blow-by") with { };
        var job = JobEvidence.Of(record with
        {
            Tests =
            [
                .. record.Tests!, new FluidsCheck { Findings = [FluidFinding.MilkyOil], BlowBy = BlowBy.Much }, new CrankSoundCheck { Result = CrankSoundResult.Uneven },
                new OilUseCheck { Litres = 1, Distance = new Odometer { Value = 1000, Unit = DistanceUnit.Km } },
                new ManifoldVacuumTest { Behaviour = VacuumBehaviour.Low }, new OilPressureTest { Readings = [new() { Value = 10, Minimum = 30 }] },
            ],
        });
        job.Seen.ShouldBe([Observation.BlowBy, Observation.MilkyOil, Observation.UnevenCrank, Observation.OilUse], ignoreOrder: true);
        job.Gauges.ShouldBe((5, 2));
        JobEvidence.Of(record with { Tests = [new OilUseCheck { Litres = 0.4, Distance = new Odometer { Value = 1000, Unit = DistanceUnit.Km } }] }).Seen.ShouldBe([Observation.BlowBy]);
    }

    [Fact]
    public void The_last_look_at_a_plug_counts()
    {
        var record = Whiteboard.Job("petrol 4; dry 190 188 131 191; plug 3 oil-wet; plug 3 normal");
        JobEvidence.Of(record).Cylinders[2].Plug.ShouldBe([PlugSign.Normal]);
    }

    [Fact]
    public void Nothing_measured_is_nothing_measured()
    {
        Of("petrol 4; seen misfire").AnythingMeasured.ShouldBeFalse();
        Of("petrol 4; rel 100 99 70 98").AnythingMeasured.ShouldBeTrue();
        At("petrol 4; rel 100 99 70 98", 3).Relative!.Ln.ShouldBe(Math.Log(0.70 / 0.995), 1e-9);
    }

    [Fact]
    public void A_count_of_no_compressions_is_a_count_nobody_took()
    {
        var c = At("petrol 4; dry 190 189 150 191; pulses 6 6 0 6", 3);
        double.IsFinite(c.LnDry!.Value).ShouldBeTrue();
        (c.LnDry.Value, c.DrySpread).ShouldBe((Ln(150), 0.031));
    }
}
