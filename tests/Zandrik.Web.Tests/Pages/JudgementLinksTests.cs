using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Shops;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Pages.Jobs;

namespace Zandrik.Web.Tests.Pages;

/// <summary>Where tests and readings stand, and what they are called.</summary>
public sealed class JudgementLinksTests
{
    [Theory]
    [InlineData(StepKind.Dry, 3, "/jobs/7/dry?cylinder=3")]
    [InlineData(StepKind.LeakDown, 3, "/jobs/7/leak-down?cylinder=3")]
    [InlineData(StepKind.Wet, null, "/jobs/7/wet")]
    [InlineData(StepKind.Running, 2, "/jobs/7/running?cylinder=2")]
    [InlineData(StepKind.Relative, 2, "/jobs/7/relative-compression")]
    [InlineData(StepKind.Plugs, 2, "/jobs/7/plugs")]
    [InlineData(StepKind.CombustionGas, null, "/jobs/7/checks/combustion-gas")]
    public void Each_kind_of_test_has_its_page(StepKind kind, int? cylinder, string page) => JudgementLinks.PageOf(7, kind, cylinder).ShouldBe(page);

    [Fact]
    public void A_line_of_the_ledger_leads_to_the_test_it_counts()
    {
        var record = new TestRecord { Engine = new EngineSheet { Cylinders = 4 }, Tests = [new DryCompressionTest(), new LeakDownTest(), new WetCompressionTest(), new RunningCompressionTest(), new RelativeCompressionTest(), new PlugInspection(), new CombustionGasTest(), new ValveClearanceCheck(), new FluidsCheck()] };
        string? Of(int? test) => JudgementLinks.ReadingOf(7, record, new EvidenceLine("x", "x", 1, test), 2);
        Enumerable.Range(0, 9).Select(i => Of(i)).ShouldBe(["/jobs/7/dry?cylinder=2", "/jobs/7/leak-down?cylinder=2", "/jobs/7/wet?cylinder=2", "/jobs/7/running?cylinder=2", "/jobs/7/relative-compression", "/jobs/7/plugs", "/jobs/7/checks/combustion-gas", "/jobs/7/checks/valve-clearance", null]);
        Of(null).ShouldBeNull();
        Of(9).ShouldBeNull("the record has become shorter");
    }

    [Fact]
    public void A_web_is_named_once_and_only_when_it_is_likelier_than_not()
    {
        static CylinderDiagnosis Cylinder(int c, int? with, double p) => new(c, CylinderState.Low, "", [new CylinderSuspect(with is null ? Fault.Rings : Fault.GasketAdjacent, p, with)], []);
        var webs = JudgementLinks.BurntWebs([Cylinder(1, 2, 0.4), Cylinder(2, 3, 0.9), Cylinder(3, 2, 0.9), Cylinder(4, null, 0.9)]);
        webs.ShouldHaveSingleItem().ShouldBe(new Zandrik.Web.Drawings.BurntWeb(2, 3, "Gasket between 2 and 3 suspected burnt"));
        FaultWords.Of(Fault.GasketAdjacent, 3, 2).ShouldBe("head gasket between 2 and 3");
        FaultWords.Of(Fault.Rings, 3, 2).ShouldBe("rings or bore");
    }

    [Fact]
    public void The_card_speaks_of_the_measured_cylinder_that_is_least_likely_sound()
    {
        var record = new TestRecord
        {
            Engine = new EngineSheet { Cylinders = 4, Fuel = Fuel.Petrol },
            Tests = [new DryCompressionTest { Unit = PressureUnit.Psi, Readings = [new CompressionReading { Cylinder = 1, Value = 190 }, new CompressionReading { Cylinder = 2, Value = 120 }, new CompressionReading { Cylinder = 3, Value = 189 }] }],
        };
        var job = new Zandrik.Storage.Job { Number = 7, Record = record, TestIds = [1], Unit = PressureUnit.Psi, OpenedAt = DateTimeOffset.UnixEpoch, OpenedBy = "M. Ostrel" };
        var card = new JudgementCard(new JobState(job, [], new ShopSettings()));
        card.At!.Cylinder.ShouldBe(2);
        card.Heaviest.Count.ShouldBeInRange(1, 4);
        card.Heaviest.ShouldBe(card.At.Leading.Evidence.Where(card.Heaviest.Contains), "in the order of the ledger");
        card.WhyOf("suspect:rings").ShouldBe("/jobs/7/judgement?cylinder=2&why=suspect%3Arings");
        new JudgementCard(new JobState(job with { Record = record with { Tests = null }, TestIds = [] }, [], new ShopSettings())).At.ShouldBeNull();
    }
}
