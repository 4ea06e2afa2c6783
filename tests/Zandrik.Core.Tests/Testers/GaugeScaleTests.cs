using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;

namespace Zandrik.Core.Tests.Testers;

public sealed class GaugeScaleTests
{
    private static readonly EngineSheet InBar = new() { Cylinders = 4, Spec = new EngineSpec { Unit = PressureUnit.Bar, Nominal = 13 } };

    private static ShopTester Gauge(PressureUnit unit) => new() { Kind = TesterKind.Gauge, Unit = unit };

    [Fact]
    public void A_job_starts_on_the_scale_of_the_gauges_and_else_on_that_of_the_sheet()
    {
        GaugeScale.Of([Gauge(PressureUnit.Psi), Gauge(PressureUnit.Psi), new ShopTester { Kind = TesterKind.LeakDown, Unit = PressureUnit.KPa }], InBar).ShouldBe(PressureUnit.Psi);
        GaugeScale.Of([Gauge(PressureUnit.Psi), Gauge(PressureUnit.KPa)], InBar).ShouldBe(PressureUnit.Bar);
        GaugeScale.Of([], new EngineSheet { Cylinders = 4 }).ShouldBeNull();
    }
}
