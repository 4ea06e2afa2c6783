using CsCheck;
using Zandrik.Core.Physics;
using Zandrik.Core.RelativeCompression;
using Zandrik.Core.Simulation;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class RelativeAnalysisTests
{
    private static readonly SimulatedEngine Four = SimulatedEngine.InlineFour;

    private static RelativeSlot Cylinder(RelativeAnswer answer, int cylinder) => answer.Slots.Single(s => s.Cylinder == cylinder);

    private static IEnumerable<CaptureCode> Codes(RelativeAnswer answer) => answer.Warnings.Select(w => w.Code);

    [Fact]
    public void An_even_engine_is_even_and_its_speed_and_currents_are_right()
    {
        var answer = Captures.Answer(Captures.EvenFour);
        answer.Refused.ShouldBeNull();
        answer.Synchronised.ShouldBeTrue();
        answer.Confidence.ShouldBe(Confidence.High);
        answer.Slots.ShouldAllBe(s => s.Verdict == RelativeVerdict.Even && s.RelativePercent > 94);
        answer.CrankingRpm.ShouldBe(CrankingRun.Of(Four).MeanRpm, 2);
        answer.MeanAmps!.Value.ShouldBe(161, 5);
        answer.InrushAmps!.Value.ShouldBe(663, 30);
        answer.Warnings.ShouldBeEmpty();
        answer.Slots.Select(s => s.Cylinder).ShouldBe([1, 3, 4, 2]);
        answer.Battery!.RestV!.Value.ShouldBe(12.6, 0.1);
        answer.Battery.LowestV.ShouldBeLessThan(answer.Battery.CrankingV);
    }

    [Fact]
    public void A_leaking_cylinder_is_found_with_its_number_and_its_pressure()
    {
        var answer = Captures.Answer(Captures.WeakThird);
        Cylinder(answer, 3).RelativePercent.ShouldBe(Captures.WeakThirdTruth, 4);
        Cylinder(answer, 3).Verdict.ShouldBe(RelativeVerdict.Low);
        answer.Slots.Where(s => s.Cylinder != 3).ShouldAllBe(s => s.Verdict == RelativeVerdict.Even);
    }

    // Each way of being weak, on engines whose humps overlap: the right cylinder, near the truth, and no neighbour blamed.
    public static TheoryData<string, int, string> Faults => new()
    {
        { "3.0 V6", 4, "leak" }, { "3.0 V6", 2, "filling" }, { "3.0 V6", 5, "short" }, { "3.0 V6", 2, "dead" },
        { "5.0 V8 diesel", 7, "leak" }, { "5.0 V8 diesel", 3, "short" }, { "5.0 V8 diesel", 6, "dead" },
        { "9.5 inline six, truck diesel", 2, "leak" }, { "9.5 inline six, truck diesel", 5, "dead" }, { "1.2 inline three", 2, "filling" },
    };

    [Theory]
    [MemberData(nameof(Faults))]
    public void Overlapping_humps_are_separated(string name, int cylinder, string fault)
    {
        var engine = SimulatedEngine.All.Single(e => e.Name == name);
        var condition = fault switch
        {
            "leak" => new CylinderCondition { ExhaustValveM2 = 1.8e-6 * engine.Size },
            "filling" => new CylinderCondition { IntakeLift = 0.1 },
            "short" => new CylinderCondition { VolumeM3 = 0.3 * engine.ClearanceM3 },
            _ => new CylinderCondition { RingM2 = 60e-6 },
        };
        var truth = CrankingRun.Of(engine, Captures.Weak(cylinder, condition), new Cranking { Seconds = 5 }).RelativePercent;
        var answer = Captures.Answer(Captures.Of(engine, cylinder, condition, null, new Cranking { Seconds = 5 }), Captures.Question(engine));
        answer.Confidence.ShouldBe(Confidence.High);
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(cylinder);
        // A short stroke takes pressure next to top dead centre only, where the crank hardly feels it: what is unsure is said to be.
        Cylinder(answer, cylinder).RelativePercent.ShouldBe(truth[cylinder - 1], Math.Max(6, 2.5 * Cylinder(answer, cylinder).StandardErrorPercent));
        answer.Slots.ShouldAllBe(s => s.Cylinder == cylinder || s.Verdict != RelativeVerdict.Low);
        answer.Slots.ShouldAllBe(s => Math.Abs(s.RelativePercent - truth[s.Cylinder!.Value - 1]) < 3 * s.StandardErrorPercent + 1);
        if (fault == "dead")
        {
            Cylinder(answer, cylinder).Verdict.ShouldBe(RelativeVerdict.Dead);
        }
    }

    [Fact]
    public void The_worst_of_each_of_the_four_is_found()
    {
        for (var cylinder = 1; cylinder <= 4; cylinder++)
        {
            Captures.Answer(Captures.Of(Four, cylinder, new CylinderCondition { RingM2 = 2e-6 })).Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(cylinder);
        }
    }

    [Fact]
    public void Time_that_runs_otherwise_changes_the_speed_only()
    {
        var usual = Captures.Answer(Captures.WeakThird);
        Gen.Double[0.85, 1.2].Sample(factor =>
        {
            var answer = RelativeAnalysis.Of(Captures.Trace(Captures.WeakThird, time: factor), Captures.Four);
            answer.CrankingRpm.ShouldBe(usual.CrankingRpm / factor, 0.02 * usual.CrankingRpm);
            foreach (var slot in answer.Slots)
            {
                slot.RelativePercent.ShouldBe(usual.Slots[slot.Slot - 1].RelativePercent, 8);
            }
            answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(3);
        }, iter: 6);
    }

    [Fact]
    public void A_clamp_of_another_scale_changes_no_percent()
    {
        var usual = Captures.Answer(Captures.WeakThird);
        Gen.Double[0.01, 50].Sample(scale =>
        {
            var answer = RelativeAnalysis.Of(Captures.Trace(Captures.WeakThird, a => a * scale), Captures.Four with { ScaleKnown = false });
            answer.MeanAmps.ShouldBeNull();
            foreach (var slot in answer.Slots)
            {
                slot.RelativePercent.ShouldBe(usual.Slots[slot.Slot - 1].RelativePercent, 0.2);
            }
        }, iter: 6);
    }

    [Fact]
    public void A_clamp_that_is_off_zero_is_warned_of_and_changes_no_percent()
    {
        var usual = Captures.Answer(Captures.WeakThird);
        Gen.Double[8, 80].Sample(offset =>
        {
            foreach (var sign in (ReadOnlySpan<int>)[-1, 1])
            {
                var answer = RelativeAnalysis.Of(Captures.Trace(Captures.WeakThird, a => a + sign * offset), Captures.Four);
                Codes(answer).ShouldContain(CaptureCode.ClampNotZeroed);
                answer.ZeroA.ShouldBe(sign * offset, 1);
                foreach (var slot in answer.Slots)
                {
                    slot.RelativePercent.ShouldBe(usual.Slots[slot.Slot - 1].RelativePercent, 0.3);
                }
            }
        }, iter: 5);
    }

    [Fact]
    public void A_reversed_clamp_is_warned_of_and_turned_round()
    {
        var answer = RelativeAnalysis.Of(Captures.Trace(Captures.WeakThird, a => -a), Captures.Four);
        Codes(answer).ShouldContain(CaptureCode.ClampReversed);
        answer.Reversed.ShouldBeTrue();
        Cylinder(answer, 3).RelativePercent.ShouldBe(Cylinder(Captures.Answer(Captures.WeakThird), 3).RelativePercent, 0.5);
    }

    [Fact]
    public void Another_cylinder_named_for_the_sync_turns_the_slots()
    {
        var usual = Captures.Answer(Captures.WeakThird);
        foreach (var cylinder in Four.FiringOrder)
        {
            var answer = Captures.Answer(Captures.WeakThird, Captures.Four with { SyncCylinder = cylinder });
            answer.Slots[0].Cylinder.ShouldBe(cylinder);
            answer.Slots.Select(s => Math.Round(s.RelativePercent)).ShouldBe(usual.Slots.Select(s => Math.Round(s.RelativePercent)));
        }
    }

    [Fact]
    public void Without_sync_there_are_slots_and_no_cylinders()
    {
        var answer = Captures.Answer(Captures.WeakThird, Captures.Four with { Sync = SyncKind.None });
        answer.Synchronised.ShouldBeFalse();
        answer.Slots.ShouldAllBe(s => s.Cylinder == null);
        Codes(answer).ShouldContain(CaptureCode.NoSync);
        answer.Slots.Min(s => s.RelativePercent).ShouldBe(Captures.WeakThirdTruth, 5);
    }

    [Fact]
    public void Of_a_waste_spark_the_higher_event_is_the_compression_stroke()
    {
        foreach (var seed in (int[])[1, 2, 3])
        {
            var capture = Captures.Of(SimulatedEngine.VSix, 2, new CylinderCondition { RingM2 = 60e-6 }, new CaptureRecipe { SampleRateHz = 5000, Sync = SyncSignal.WasteSpark, Seed = seed });
            var answer = Captures.Answer(capture, Captures.Question(SimulatedEngine.VSix, SyncKind.WasteSpark));
            answer.Synchronised.ShouldBeTrue();
            Cylinder(answer, 2).Verdict.ShouldBe(RelativeVerdict.Dead);
            // Nobody said what the events are: an event a turn is a waste spark.
            Captures.Answer(capture, Captures.Question(SimulatedEngine.VSix) with { SyncAssumed = true }).Sync.ShouldBe(SyncKind.WasteSpark);
        }
    }

    [Fact]
    public void Sparks_that_are_alike_leave_two_candidates_and_no_cylinder()
    {
        var capture = Captures.Of(SimulatedEngine.VSix, 2, new CylinderCondition { RingM2 = 60e-6 }, new CaptureRecipe { SampleRateHz = 5000, Sync = SyncSignal.WasteSpark, WasteHeight = 1 });
        var answer = Captures.Answer(capture, Captures.Question(SimulatedEngine.VSix, SyncKind.WasteSpark));
        Codes(answer).ShouldContain(CaptureCode.SyncAmbiguous);
        answer.Slots.ShouldAllBe(s => s.Cylinder == null);
        answer.Candidates.ShouldBe([[1, 2, 3, 4, 5, 6], [4, 5, 6, 1, 2, 3]]);
    }

    [Fact]
    public void An_injectors_dips_are_found_on_a_moving_battery_voltage()
    {
        var answer = Captures.Answer(Captures.Of(Four, 3, new CylinderCondition { ExhaustValveM2 = 2e-6 }, new CaptureRecipe { SampleRateHz = 20_000, Sync = SyncSignal.Injector }), Captures.Four with { Sync = SyncKind.Injector });
        answer.Synchronised.ShouldBeTrue();
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(3);
    }

    [Fact]
    public void Missing_and_extra_events_do_no_harm_and_are_said()
    {
        var answer = Captures.Answer(Captures.Of(Four, 3, new CylinderCondition { ExhaustValveM2 = 2e-6 }, new CaptureRecipe { SampleRateHz = 5000, SyncMissing = 0.25, SyncExtra = 0.3, Seed = 4 }, new Cranking { Seconds = 6 }));
        Codes(answer).ShouldContain(CaptureCode.SyncIrregular);
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(3);
    }

    [Fact]
    public void A_sync_lead_that_hangs_loose_is_said_and_slots_are_given()
    {
        var loose = Captures.EvenFour with { SyncV = new double[Captures.EvenFour.SyncV.Length] };
        var answer = Captures.Answer(loose);
        Codes(answer).ShouldContain(CaptureCode.SyncMissing);
        answer.Slots.ShouldAllBe(s => s.Cylinder == null);
    }

    [Fact]
    public void Even_sync_events_that_do_not_keep_step_say_that_the_engine_is_another()
    {
        var answer = Captures.Answer(Captures.WeakThird, Captures.Four with { FiringOrder = [1, 2, 4, 5, 3] });
        answer.Confidence.ShouldBe(Confidence.Low);
        answer.Warnings.Single(w => w.Code == CaptureCode.SyncMissing).Says.ShouldContain("every 0.80 cycles of an engine of 5 cylinders");
        answer.Slots.ShouldAllBe(s => s.Cylinder == null && s.Verdict != RelativeVerdict.Low && s.Verdict != RelativeVerdict.Dead);
    }

    [Fact]
    public void A_capture_of_nothing_is_refused()
    {
        var random = new Random(3);
        var trace = new StarterTrace(0.001, false, false);
        trace.Add([.. Enumerable.Range(0, 4000).Select(_ => random.NextDouble())]);
        trace.Finish();
        Refused(RelativeAnalysis.Of(trace, Captures.Four), CaptureCode.NoCranking);
        var flat = new StarterTrace(0.001, false, false);
        flat.Add(new double[4000]);
        flat.Finish();
        Refused(RelativeAnalysis.Of(flat, Captures.Four), CaptureCode.NoCranking);
        Refused(RelativeAnalysis.Of(new StarterTrace(0.001, false, false), Captures.Four), CaptureCode.NoCranking);
    }

    [Fact]
    public void Under_two_settled_cycles_are_refused_with_what_to_do()
    {
        var answer = Captures.Answer(Captures.Of(Four, cranking: new Cranking { Seconds = 0.9 }));
        Refused(answer, CaptureCode.TooShort);
        answer.Refused!.Says.ShouldContain("four to five seconds");
    }

    [Fact]
    public void An_engine_that_fires_is_cut_off_or_refused()
    {
        Refused(Captures.Answer(Captures.Of(Four, recipe: new CaptureRecipe { SampleRateHz = 5000, FiresAtS = 0.8 })), CaptureCode.EngineStarted);
        var later = Captures.Answer(Captures.Of(Four, recipe: new CaptureRecipe { SampleRateHz = 5000, FiresAtS = 3 }));
        Codes(later).ShouldContain(CaptureCode.EngineStarted);
        later.Slots.ShouldAllBe(s => s.Verdict == RelativeVerdict.Even);
    }

    [Fact]
    public void Of_two_tries_of_the_starter_the_longer_is_used_and_said()
    {
        var (first, second) = (Captures.Of(Four, cranking: new Cranking { Seconds = 1 }), Captures.WeakThird);
        var both = new SimulatedCapture(first.IntervalS, [.. first.CurrentA, .. second.CurrentA], [.. first.SyncV, .. second.SyncV], [.. first.BatteryV, .. second.BatteryV]);
        var answer = Captures.Answer(both);
        Codes(answer).ShouldContain(CaptureCode.MultipleBursts);
        Cylinder(answer, 3).Verdict.ShouldBe(RelativeVerdict.Low);
    }

    [Fact]
    public void A_range_that_cuts_off_the_inrush_is_noted_and_one_that_cuts_off_the_humps_is_not_judged()
    {
        var inrush = Captures.Answer(Captures.Of(Four, recipe: new CaptureRecipe { SampleRateHz = 5000, RangeA = 400 }));
        Codes(inrush).ShouldContain(CaptureCode.Clipped);
        inrush.InrushAmps.ShouldBeNull();
        inrush.Slots.ShouldAllBe(s => s.Verdict == RelativeVerdict.Even);
        Refused(Captures.Answer(Captures.Of(Four, recipe: new CaptureRecipe { SampleRateHz = 5000, RangeA = 170 })), CaptureCode.Clipped);
    }

    [Fact]
    public void Coarse_steps_and_few_samples_are_warned_of()
    {
        Codes(Captures.Answer(Captures.Of(SimulatedEngine.VEightDiesel, recipe: new CaptureRecipe { SampleRateHz = 5000, Bits = 8, RangeA = 4000, NoiseA = 0.1, RippleA = 0 }), Captures.Question(SimulatedEngine.VEightDiesel))).ShouldContain(CaptureCode.LowResolution);
        Codes(Captures.Answer(Captures.Of(SimulatedEngine.VEightDiesel, recipe: new CaptureRecipe { SampleRateHz = 110 }), Captures.Question(SimulatedEngine.VEightDiesel))).ShouldContain(CaptureCode.LowSampleRate);
    }

    [Fact]
    public void A_battery_that_gives_way_is_warned_of_and_changes_little()
    {
        var answer = Captures.Answer(Captures.Of(Four, 3, new CylinderCondition { ExhaustValveM2 = 2e-6 }, null, new Cranking { Seconds = 6, SagVPerS = 0.45 }));
        Codes(answer).ShouldContain(CaptureCode.BatterySag);
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(3);
        answer.Speed[0].Rpm.ShouldBeGreaterThan(answer.Speed[^1].Rpm);
    }

    [Fact]
    public void The_wrong_number_of_cylinders_ends_in_low_confidence_or_a_refusal_and_blames_none()
    {
        var answer = Captures.Answer(Captures.EvenFour, Captures.Question(SimulatedEngine.VSix, SyncKind.None));
        (answer.Refused is not null || answer.Confidence == Confidence.Low || answer.Slots.All(s => s.Verdict is RelativeVerdict.Even or RelativeVerdict.Borderline)).ShouldBeTrue();
    }

    [Theory]
    [InlineData(0.05)]
    [InlineData(0.12)]
    public void A_slow_engine_is_not_taken_for_one_that_turns_twice_as_fast_with_every_other_cylinder_dead(double lift)
    {
        var engine = SimulatedEngine.All.Single(e => e.Name.Contains("truck", StringComparison.Ordinal));
        var run = CrankingRun.Of(engine, Captures.Weak(2, new CylinderCondition { IntakeLift = lift }), new Cranking { Seconds = 6, Cold = true, WeakBattery = 0.3 });
        var answer = Captures.Answer(SimulatedCapture.Of(engine, run, new CaptureRecipe { SampleRateHz = 4000 }), Captures.Question(engine));
        answer.Refused.ShouldBeNull();
        answer.CrankingRpm.ShouldBe(run.MeanRpm, 0.03 * run.MeanRpm);
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(2);
    }

    [Theory]
    [InlineData(SyncKind.EveryCycle)]
    [InlineData(SyncKind.None)]
    public void A_bank_that_is_low_as_a_whole_is_told_where_the_banks_fire_in_turn(SyncKind sync)
    {
        var engine = SimulatedEngine.VSix;
        var low = new CylinderCondition { ExhaustValveM2 = 4e-6 };
        var run = CrankingRun.Of(engine, new Dictionary<int, CylinderCondition> { [2] = low, [4] = low, [6] = low }, new Cranking { Seconds = 5 });
        var answer = Captures.Answer(SimulatedCapture.Of(engine, run, new CaptureRecipe { SampleRateHz = 5000 }), Captures.Question(engine, sync));
        answer.Refused.ShouldBeNull();
        answer.CrankingRpm.ShouldBe(run.MeanRpm, 0.02 * run.MeanRpm);
        answer.Slots.Select(s => s.RelativePercent).Order().Take(3).ShouldAllBe(p => Math.Abs(p - run.RelativePercent[1]) < 10);
        answer.Slots.Select(s => s.RelativePercent).Order().Skip(3).ShouldAllBe(p => p > 90);
    }

    [Fact]
    public void What_is_like_no_engine_of_so_many_cylinders_is_refused_with_what_to_check()
    {
        var answer = Captures.Answer(Captures.WeakThird, Captures.Question(SimulatedEngine.InlineFour) with { FiringOrder = [1, 2] });
        answer.Refused.ShouldNotBeNull().ShouldSatisfyAllConditions(r => r.Code.ShouldBe(CaptureCode.PoorFit), r => r.Says.ShouldContain("2 cylinders"), r => r.Says.ShouldContain("firing order"));
        answer.Slots.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(0.08, 0)]
    [InlineData(0.2, 0)]
    [InlineData(0, 1.2e-6)]
    public void A_slightly_weak_cylinder_among_eight_is_told_within_its_error(double shorter, double leak)
    {
        var engine = SimulatedEngine.All.Single(e => e.Cylinders == 8);
        var condition = new CylinderCondition { VolumeM3 = shorter * engine.ClearanceM3, ExhaustValveM2 = leak * engine.Size };
        var truth = CrankingRun.Of(engine, Captures.Weak(5, condition)).RelativePercent;
        var answer = Captures.Answer(Captures.Of(engine, 5, condition), Captures.Question(engine));
        foreach (var slot in answer.Slots)
        {
            Math.Abs(slot.RelativePercent - truth[slot.Cylinder!.Value - 1]).ShouldBeLessThan(2 * slot.StandardErrorPercent, $"cylinder {slot.Cylinder}");
        }
        answer.Slots.MinBy(s => s.RelativePercent)!.Cylinder.ShouldBe(5);
    }

    [Fact]
    public void Marks_and_cycle_are_there_to_be_drawn()
    {
        var answer = Captures.Answer(Captures.WeakThird);
        answer.MeanCycle.Count.ShouldBe(RelativeAnalysis.CyclePoints);
        answer.EachCycle.Count.ShouldBeGreaterThanOrEqualTo(answer.Cycles);
        answer.Marks.Zip(answer.Marks.Skip(1)).ShouldAllBe(m => m.Second.TimeS > m.First.TimeS && m.Second.Slot == m.First.Slot % 4 + 1);
        answer.Events.Count.ShouldBeGreaterThanOrEqualTo(answer.Cycles - 1);
        // The event stands six degrees before the top dead centre of slot 1.
        var first = answer.Events[1].TimeS;
        var top = answer.Marks.First(m => m.Slot == 1 && m.TimeS > first - 0.01).TimeS;
        ((top - first) * answer.CrankingRpm * 6).ShouldBe(6, 6);
        answer.Settled.From.ShouldBeGreaterThan(0.6);
    }

    [Theory]
    [InlineData(1, "1", null, "/cylinders")]
    [InlineData(4, "1-3-3-2", null, "/firingOrder")]
    [InlineData(4, "1-3-4-2", "0-100-90-500", "/firingAngles")]
    public void An_engine_that_cannot_be_is_named_by_its_field(int cylinders, string order, string? angles, string pointer)
    {
        var question = new CaptureQuestion { FiringOrder = [.. order.Split('-').Select(int.Parse)], FiringAngles = angles?.Split('-').Select(double.Parse).ToList() };
        question.Cylinders.ShouldBe(cylinders);
        question.Problem()!.Pointer.ShouldBe(pointer);
    }

    private static void Refused(RelativeAnswer answer, CaptureCode code)
    {
        answer.Refused!.Code.ShouldBe(code);
        answer.Refused.Says.ShouldContain(" ");
        answer.Slots.ShouldBeEmpty();
    }
}
