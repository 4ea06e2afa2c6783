using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;

namespace Zandrik.Core.Tests.RelativeCompression;

public sealed class RelativeHeadlineTests
{
    private static readonly CaptureQuestion Four = new() { FiringOrder = [1, 3, 4, 2] };

    private static RelativeAnswer Answer(bool synchronised, Confidence confidence, params double[] percent) => new()
    {
        Synchronised = synchronised, Cycles = 7, CrankingRpm = 231, Confidence = confidence,
        Slots = [.. percent.Select((p, i) => new RelativeSlot(i + 1, synchronised ? Four.FiringOrder[i] : null, p, 1.4, RelativeAnalysis.Verdict(p, 1.4, 85, confidence), p, i / 4.0))],
    };

    private static RelativeHeadline Of(params double[] percent) => RelativeHeadline.Of(Answer(true, Confidence.High, percent), Four);

    [Fact]
    public void One_weak_cylinder_is_named_with_its_figure_and_leads_to_a_leak_down()
    {
        var says = Of(100, 71.2, 99, 98);
        (says.Says, says.Sure, says.Next, says.Cylinder).ShouldBe(("Cylinder 3 pumps 29 % less than the best", "sure", RelativeNext.LeakDown, 3));
        says.Why[0].ShouldBe("Cylinder 3: 71 ± 1 %. The limit is 85 %.");
        says.Why[1].ShouldContain("7 cycles at 231 rpm");
        says.Why.ShouldNotContain(CaptureGuide.NoParts);
    }

    [Fact]
    public void A_dead_one_forbids_buying_parts_yet()
    {
        var says = Of(100, 99, 3, 98);
        says.Says.ShouldBe("Cylinder 4 has no compression");
        says.Why.ShouldContain(CaptureGuide.NoParts);
    }

    [Fact]
    public void Several_are_named_the_weakest_first() => Of(100, 80, 60, 98).Says.ShouldBe("Cylinders 4 and 3 pump less than the best");

    [Fact]
    public void Near_the_limit_it_asks_for_another_capture() =>
        (Of(100, 85.5, 99, 98).Says, Of(100, 85.5, 86, 98).Says, Of(100, 85.5, 99, 98).Next).ShouldBe(("Cylinder 3 is borderline", "Cylinders 3 and 4 are borderline", RelativeNext.CaptureAgain));

    [Fact]
    public void Even_says_what_it_cannot_show()
    {
        var says = Of(100, 97, 99, 98);
        (says.Says, says.Next).ShouldBe(("Even: none below 85 %", RelativeNext.Gauge));
        says.Why.ShouldContain(CaptureGuide.EvenlyWorn);
        says.Why[0].ShouldBe("Lowest is cylinder 3 with 97 ± 1 %.");
    }

    [Fact]
    public void With_low_confidence_no_cylinder_is_called_low()
    {
        var says = RelativeHeadline.Of(Answer(true, Confidence.Low, 100, 60, 99, 98), Four);
        (says.Says, says.Next, says.Cylinder).ShouldBe(("Not sure enough to call a cylinder low", RelativeNext.CaptureAgain, null));
    }

    [Fact]
    public void A_refusal_carries_its_reason_and_no_figure()
    {
        var says = RelativeHeadline.Of(new RelativeAnswer { Refused = new(CaptureCode.TooShort, "Too short: hold it longer.") }, Four);
        (says.Says, says.Sure, says.Next).ShouldBe(("This capture cannot be judged", "", RelativeNext.CaptureAgain));
        says.Why.ShouldBe(["Too short: hold it longer."]);
    }

    [Fact]
    public void Without_sync_the_slot_is_a_letter_and_the_way_to_its_cylinder_is_told()
    {
        var blind = Answer(false, Confidence.High, 100, 99, 71, 98);
        var says = RelativeHeadline.Of(blind, Four);
        (says.Says, says.Next, says.Cylinder).ShouldBe(("Hump C pumps 29 % less than the best", RelativeNext.FindCylinder, null));
        says.Why[^1].ShouldBe("It may be any cylinder.");
        says.NextSays.ShouldContain("Take the plug out of one cylinder");
        RelativeHeadline.Of(blind, Four, new Dictionary<int, double> { [1] = 99, [2] = 72, [3] = 100, [4] = 98 }).Why[^1].ShouldStartWith("By the gauge readings it is most likely cylinder 2 (");
        RelativeHeadline.Of(Answer(false, Confidence.High, 71, 99, 70, 98), Four).Why[^1].ShouldBe("It may be 1 and 4, or 2 and 3.");
        RelativeHeadline.Of(blind with { Candidates = [[1, 3, 4, 2], [4, 2, 1, 3]] }, Four).Why[^1].ShouldBe("It may be 4, or 1.");
    }

    [Fact]
    public void A_test_in_a_record_speaks_for_itself()
    {
        static RelativeCompressionTest Test(params (double Percent, double? Error)[] read) => new() { Readings = [.. read.Select((r, i) => new RelativeReading { Cylinder = i + 1, RelativePercent = r.Percent, StandardErrorPercent = r.Error })] };
        RelativeHeadline.OfRecord(Test((100, 1), (61, 2), (99, 1)), 85).ShouldBe("Low against the best: cylinder 2 with 61 %");
        RelativeHeadline.OfRecord(Test((100, 1), (83, null)), 85).ShouldBe("Cylinder 2 is borderline at 83 %");
        RelativeHeadline.OfRecord(Test((100, 1), (96, 1)), 85).ShouldStartWith("Even: lowest 96 %");
        RelativeHeadline.OfRecord(Test((100, 1), (83, 0.5)), 80).ShouldStartWith("Even");
        RelativeHeadline.OfRecord(new RelativeCompressionTest(), 85).ShouldStartWith("Captured");
    }
}
