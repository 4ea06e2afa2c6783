using Zandrik.Core.Records;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Verdicts;

public sealed class OwnerReportTests
{
    private const string Burnt = "petrol 4; dry 205 163 160 208; leak 2 68 plughole3 3; leak 3 70 plughole2 3; leak 1 8";

    private static VerdictSnapshot Said(string text) => Whiteboard.Job(text).Verdict(PressureUnit.Psi);

    [Fact]
    public void What_it_means_comes_first_and_stands_once()
    {
        var said = Said(Burnt);
        var report = OwnerReport.Of(said);
        report.Means.ShouldContain("the head gasket is burnt through between cylinders 2 and 3.");
        report.Measured.ShouldNotContain(report.Means);
        said.Owner.ShouldBe($"{report.Measured} {report.Means}", "nothing of the verdict is lost and nothing is added");
        report.Cylinders.Select(c => c.Says).ShouldBe(["good", "low", "low", "good"]);
        report.Steps.ShouldContain(s => s.StartsWith("Take the cylinder head off", StringComparison.Ordinal));
        report.KeepOff.ShouldBe(OwnerReport.Harm);
    }

    [Fact]
    public void A_sound_engine_may_be_driven_and_nothing_has_to_be_done()
    {
        var report = OwnerReport.Of(Said("petrol 4; dry 205 204 206 203"));
        report.KeepOff.ShouldBeNull();
        report.Cylinders.ShouldAllBe(c => c.Says == "good");
        report.Asked.ShouldBeNull();
    }

    [Fact]
    public void A_dead_cylinder_nobody_can_explain_yet_is_measured_on_and_not_run_where_a_piston_may_be_broken()
    {
        // Half of the minimum, the crankcase breathes, and oil raised nothing: a ring land or a piston as well as a valve.
        var report = OwnerReport.Of(Said("seen blow-by; diesel 6; dry 508 512 520 190 510 515; wet 4 188"));
        report.Means.ShouldContain("more has to be measured before anything is opened");
        report.Steps[0].ShouldBe("Measure more before anything is opened.");
        report.Steps.ShouldAllBe(s => !s.Contains("run", StringComparison.OrdinalIgnoreCase), "one page does not say both");
        report.KeepOff.ShouldBe(OwnerReport.Harm);
    }

    [Fact]
    public void What_people_say_instead_takes_the_place_of_the_answer_and_of_what_follows_from_it()
    {
        var said = Said(Burnt);
        var people = VerdictAnswer.Of(said).Select(a => a.Cylinder is 2 or 3 ? a with { Fault = Fault.ExhaustValve, With = null, Probability = null } : a with { Probability = null }).ToList();
        var report = OwnerReport.Of(said.Overruled(people), people);
        report.Means.ShouldContain("Our technician's conclusion: an exhaust valve does not close tightly in cylinders 2 and 3.");
        report.Means.ShouldNotContain("gasket");
        report.Steps.ShouldBeEmpty();
        report.KeepOff.ShouldBeNull("an exhaust valve that leaks harms nothing else");
    }

    [Theory]
    [InlineData("seen misfire rough-idle; petrol 4; dry 205 163 160 208", "Noticed: misfire, rough idle.")]
    [InlineData("seen white-smoke; petrol 4", "Noticed: white smoke.")]
    public void The_owner_reads_what_he_came_with(string text, string asked) => OwnerReport.Of(Said(text)).Asked.ShouldBe(asked);

    [Theory]
    [InlineData(Burnt)]
    [InlineData("petrol 4; dry 190 188 40 191; leak 3 85 exhaust 3")]
    [InlineData("diesel 6; dry 420 300 420 420 420 420")]
    [InlineData("seen oil-use")]
    public void No_unit_no_abbreviation_no_number_of_strength_is_told(string text)
    {
        var report = OwnerReport.Of(Said(text));
        string.Join(" ", [report.Means, report.Measured, .. report.Steps, .. report.Cylinders.Select(c => c.Says)]).ShouldNotMatch(@"\b(psi|bar|kPa|TDC|dB|bits|rpm)\b");
        report.Means.ShouldNotBeNullOrWhiteSpace();
    }
}
