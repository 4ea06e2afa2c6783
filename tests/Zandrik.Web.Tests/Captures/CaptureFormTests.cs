using System.Text;
using Zandrik.Core.Records;
using Zandrik.Core.RelativeCompression;
using Zandrik.Web.Captures;
using Zandrik.Web.Front;

namespace Zandrik.Web.Tests.Captures;

public sealed class CaptureFormTests
{
    private static readonly EngineSheet Four = new() { Cylinders = 4, Fuel = Fuel.Petrol, FiringOrder = [1, 3, 4, 2], DisplacementCc = 2000 };

    private static async Task<CaptureInspection> FoundAsync(string file) => await CaptureFile.InspectAsync(new MemoryStream(Encoding.UTF8.GetBytes(file)), cancel: TestContext.Current.CancellationToken);

    private static (CaptureLayout Layout, CaptureQuestion Question, TypedFields Fields) Read(CaptureForm form, CaptureInspection found, EngineSheet? engine = null)
    {
        var fields = new TypedFields();
        var (layout, question) = form.Read(found, engine ?? Four, 85, fields);
        return (layout, question, fields);
    }

    [Theory]
    [InlineData("A", null, 1, true)]
    [InlineData("mA", null, 0.001, true)]
    [InlineData("V", 1.0, 1000, true)]
    [InlineData("V", 10.0, 100, true)]
    [InlineData("mV", 1.0, 1, true)]
    [InlineData("mV", 10.0, 0.1, true)]
    [InlineData("V", null, 1000, false)]
    [InlineData("mV", null, 1, false)]
    public async Task Shown_and_read_back_unchanged_the_scale_is_what_unit_and_clamp_say(string unit, double? clamp, double ampsPerUnit, bool known)
    {
        var found = await FoundAsync($"t (s),I ({unit}),Sync (V)\n0,1,0\n0.001,2,0\n0.002,3,5\n");
        var (layout, question, fields) = Read(CaptureForm.Of(found, found.Layout, null, Four, clamp), found);
        fields.Problems.ShouldBeEmpty();
        layout.AmpsPerUnit.ShouldBe(ampsPerUnit, 1e-12);
        (layout.ScaleKnown, question.ScaleKnown).ShouldBe((known, known));
        (layout.TimeColumn, layout.CurrentColumn, layout.SyncColumn).ShouldBe((0, 1, 2));
        (question.FiringOrder.Count, question.SweptCc, question.LimitPercent).ShouldBe((4, 500, 85));

        // And once more from what was judged: nothing drifts.
        var again = Read(CaptureForm.Of(found, layout, question, Four, clamp), found);
        again.Layout.ShouldBe(layout);
        again.Question.Sync.ShouldBe(question.Sync);
    }

    [Fact]
    public async Task A_column_without_a_unit_keeps_the_scale_it_was_judged_with()
    {
        var found = await FoundAsync("0,1,0\n0.001,2,0\n0.002,3,5\n0.003,4,0\n");
        var judged = found.Layout with { AmpsPerUnit = 100, ScaleKnown = true };
        var form = CaptureForm.Of(found, judged, null, Four, clampScale: 1);
        (form.CurrentUnit, form.Clamp).ShouldBe(("V", "10"));
        Read(form, found).Layout.AmpsPerUnit.ShouldBe(100);
    }

    [Fact]
    public async Task Each_field_says_what_it_needs()
    {
        var found = await FoundAsync("1,0\n2,0\n3,5\n4,0\n");
        var form = CaptureForm.Of(found, found.Layout, null, Four with { FiringOrder = null }, null);
        (form.Roles, form.Rate, form.FiringOrder, form.SyncAngle) = (["sync", "sync"], "", "1-2", "800");
        var fields = Read(form, found, Four with { FiringOrder = null }).Fields;
        fields.Problem("role-0").ShouldBe("Say which column is the starter current.");
        fields.Problem("role-1").ShouldBe("Only one column can be sync.");
        fields.Problem("rate")!.ShouldContain("how many samples a second");
        fields.Problem("firing-order")!.ShouldContain("all 4 cylinders");
        fields.Problem("sync-angle")!.ShouldContain("-720 to 720");
    }

    [Theory]
    [InlineData(Fuel.Diesel, false, "injector")]
    [InlineData(Fuel.Petrol, true, "waste-spark")]
    [InlineData(Fuel.Petrol, false, "every-cycle")]
    public async Task The_engine_says_what_a_second_channel_most_likely_is(Fuel fuel, bool wasteSpark, string sync)
    {
        var found = await FoundAsync("t (s),I (A),Sync (V)\n0,1,0\n0.001,2,0\n0.002,3,5\n");
        CaptureForm.Of(found, found.Layout, null, Four with { Fuel = fuel, Features = wasteSpark ? [EngineFeature.WasteSpark] : [] }, null).Sync.ShouldBe(sync);
        CaptureForm.Of(found, found.Layout with { SyncColumn = null }, null, Four, null).Sync.ShouldBe("none");
    }

    [Fact]
    public async Task A_plug_that_was_out_counts_only_where_no_sync_tells()
    {
        var found = await FoundAsync("t (s),I (A),Sync (V)\n0,1,0\n0.001,2,0\n0.002,3,5\n");
        var form = CaptureForm.Of(found, found.Layout, null, Four, null);
        form.Unplugged = "3";
        Read(form, found).Question.Unplugged.ShouldBeNull();
        form.Roles = ["time", "current", "ignored"];
        Read(form, found).Question.Unplugged.ShouldBe(3);
        form.Unplugged = "7";
        Read(form, found).Fields.Problem("unplugged")!.ShouldContain("1 to 4");
    }
}
