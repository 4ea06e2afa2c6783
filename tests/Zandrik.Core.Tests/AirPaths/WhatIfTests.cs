using Zandrik.Core.AirPaths;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Tests.Diagnosis;

namespace Zandrik.Core.Tests.AirPaths;

public sealed class WhatIfTests
{
    private static readonly TestRecord Job = Whiteboard.Job("petrol 4; nominal 190; dry 190 188 131 191; leak 3 80 exhaust 3; leak 1 9; wet 3 136");
    private static readonly AirFit Fit = AirFit.Of(JobEvidence.Of(Job));
    private static readonly WhatIf Fitted = WhatIf.Of(Fit.Cylinders[2]);

    private static WhatIfReadings Read(WhatIf what) => WhatIfReadings.Of(Fit, Job.Engine, 3, 10, what)[0];

    [Fact]
    public void As_fitted_it_reads_what_was_read()
    {
        var read = Read(Fitted);
        read.DryPsi.ShouldBe(131, 8);
        read.WetPsi.ShouldBe(136, 8);
        read.LossPercent.ShouldBe(80, 4);
        read.FirstPsi.ShouldBeLessThan(read.DryPsi);
        read.IdlePsi!.Value.ShouldBeLessThan(read.SnapPsi!.Value);
    }

    // The middle of each place by itself would leak nowhere: what is drawn and turned must read what was read.
    [Fact]
    public void With_the_place_open_the_likeliest_is_turned_and_reads_what_was_read()
    {
        var job = Whiteboard.Job("petrol 4; nominal 190; dry 190 188 131 191; wet 3 137");
        var fit = AirFit.Of(JobEvidence.Of(job));
        fit.Cylinders[2].PlaceIsOpen.ShouldBeTrue();
        fit.Cylinders[2].AsShown.Count(p => p.More).ShouldBe(1);
        var read = WhatIfReadings.Of(fit, job.Engine, 3, 10, WhatIf.Of(fit.Cylinders[2]))[0];
        read.DryPsi.ShouldBe(131, 10);
        read.WetPsi.ShouldBe(137, 10);
    }

    [Fact]
    public void Every_slider_does_what_the_trade_knows()
    {
        var at = Read(Fitted);
        Read(Fitted with { Throttle = 0 }).DryPsi.ShouldBeLessThan(at.DryPsi);
        Read(Fitted with { Cold = true }).DryPsi.ShouldBeLessThan(at.DryPsi);
        Read(Fitted with { WeakBattery = 1 }).Rpm.ShouldBeLessThan(at.Rpm);
        Read(Fitted with { Compressions = 2 }).DryPsi.ShouldBeLessThan(at.DryPsi);
        Read(Fitted with { Compressions = 1 }).DryPsi.ShouldBe(at.FirstPsi, 1e-9);
        var sound = Read(Fitted with { Mm2 = new Dictionary<LeakPlace, double> { [LeakPlace.Rings] = 0.27, [LeakPlace.Intake] = 0.035, [LeakPlace.Exhaust] = 0.035 } });
        sound.DryPsi.ShouldBe(Fit.SoundPsi, 0.04 * Fit.SoundPsi);
        Read(Fitted with { ToNeighbours = new Dictionary<int, double> { [2] = 3 } }).LossPercent.ShouldBeGreaterThan(at.LossPercent);
        Read(Fitted with { ToNeighbours = new Dictionary<int, double> { [4] = 3 } }).DryPsi.ShouldBeLessThan(at.DryPsi);
    }

    [Fact]
    public void Several_ways_are_read_as_each_by_itself()
    {
        var other = Fitted with { Throttle = 0.3, Compressions = 5 };
        WhatIfReadings.Of(Fit, Job.Engine, 3, 10, Fitted, other).ShouldBe([Read(Fitted), Read(other)]);
    }

    [Fact]
    public void A_diesel_is_not_run()
    {
        var job = Whiteboard.Job("diesel 4; nominal 400; dry 400 395 280 402; leak 3 80 exhaust 3; leak 1 9");
        var fit = AirFit.Of(JobEvidence.Of(job));
        WhatIfReadings.Of(fit, job.Engine, 3, 10, WhatIf.Of(fit.Cylinders[2]))[0].IdlePsi.ShouldBeNull();
    }
}
