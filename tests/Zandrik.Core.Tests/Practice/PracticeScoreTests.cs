using CsCheck;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Core.Repairs;

namespace Zandrik.Core.Tests.Practice;

public sealed class PracticeScoreTests
{
    private static PracticeCase Of(Fault fault) => PracticeCases.All.First(c => c.Truths is [var t] && t.Fault == fault && t.Or is null);

    // What is really so, as somebody would call it who knew.
    private static PracticeCall Right(PracticeCase exercise) => new(
        exercise.Theme == PracticeTheme.TestErrors ? [new(null, Fault.TestError)] : [.. exercise.Truths.Select(t => new PracticeSuspect(t.Cylinder, t.Fault, t.With, t.Or))],
        PracticeScore.Needed(exercise));

    private static readonly Gen<PracticeCase> Case = Gen.Int[1, PracticeCases.Count].Select(n => PracticeCases.Find(n)!);

    private static Gen<PracticeCall> CallOf(PracticeCase exercise) =>
        from suspects in Gen.Select(Gen.Int[1, exercise.Cylinders], Gen.Int[0, PracticeCall.OfCylinder.Count - 1].Select(i => PracticeCall.OfCylinder[i]), Gen.Bool, (c, f, or) => new PracticeSuspect(c, f, null, or && f != Fault.Rings ? Fault.Rings : null)).List[0, 3]
        from error in Gen.Frequency((4, Gen.Const(false)), (1, Gen.Const(true)))
        from repairs in Gen.Int[0, PracticeCall.Doable.Count - 1].Select(i => PracticeCall.Doable[i]).List[0, 3]
        select new PracticeCall([.. suspects.DistinctBy(s => s.Cylinder), .. error ? [new PracticeSuspect(null, Fault.TestError)] : Array.Empty<PracticeSuspect>()], [.. repairs.Distinct()]);

    private static readonly Gen<(PracticeCase Case, PracticeCall Call, double Minutes, int Hazards)> Tried =
        from c in Case
        from call in CallOf(c)
        from minutes in Gen.Double[5, 300]
        from hazards in Gen.Int[0, 3]
        select (c, call, minutes, hazards);

    [Fact]
    public void Knowing_everything_at_once_is_worth_a_hundred()
    {
        foreach (var c in PracticeCases.All)
        {
            Right(c).Problem(c.Intake.Engine).ShouldBeNull();
            PracticeScore.Of(c, Right(c), 50, 50, 0).Total.ShouldBe(100, $"{c.Number}");
        }
    }

    [Fact]
    public void Doing_one_thing_better_never_scores_less() => Tried.Sample(t =>
    {
        var (c, call, minutes, hazards) = t;
        var score = PracticeScore.Of(c, call, minutes, 60, hazards);
        score.Total.ShouldBe(score.Place + score.Repair + score.Minutes + score.Opened + score.Hazard);
        score.Total.ShouldBeInRange(0, 100);
        PracticeScore.Of(c, call, minutes - 4, 60, hazards).Total.ShouldBeGreaterThanOrEqualTo(score.Total, "quicker");
        PracticeScore.Of(c, call, minutes, 60, Math.Max(0, hazards - 1)).Total.ShouldBeGreaterThanOrEqualTo(score.Total, "safer");
        // The truth named in place of whatever was said there, or beside it.
        foreach (var truth in Right(c).Suspects)
        {
            var better = call with { Suspects = [.. call.Suspects.Where(s => s.Cylinder != truth.Cylinder && (truth.With is null || s.Cylinder != truth.With)), truth] };
            PracticeScore.Of(c, better, minutes, 60, hazards).Total.ShouldBeGreaterThanOrEqualTo(score.Total, $"{truth}");
        }
        // Whoever is accused for nothing let go.
        foreach (var wrong in call.Suspects.Where(s => s.Cylinder is { } at && !c.IsFaulty(at)))
        {
            PracticeScore.Of(c, call with { Suspects = [.. call.Suspects.Where(s => s != wrong)] }, minutes, 60, hazards).Total.ShouldBeGreaterThanOrEqualTo(score.Total, $"without {wrong}");
        }
        // The right repair and no other.
        PracticeScore.Of(c, call with { Repairs = PracticeScore.Needed(c) }, minutes, 60, hazards).Total.ShouldBeGreaterThanOrEqualTo(score.Total, "the right repair");
        PracticeScore.Of(c, Right(c), minutes, 60, hazards).Total.ShouldBeGreaterThanOrEqualTo(score.Total, "everything right");
    }, iter: 3000);

    [Fact]
    public void Half_right_is_worth_half()
    {
        var valve = Of(Fault.ExhaustValve);
        var at = valve.Truths[0].Cylinder;
        int Place(params PracticeSuspect[] said) => PracticeScore.Of(valve, new(said, [Repair.TopEnd]), 50, 50, 0).Place;
        Place(new PracticeSuspect(at, Fault.ExhaustValve)).ShouldBe(40);
        Place(new PracticeSuspect(at, Fault.ExhaustValve, null, Fault.Rings)).ShouldBe(28, "hedged where it could be told");
        Place(new PracticeSuspect(at, Fault.IntakeValve)).ShouldBe(24, "opened and mended alike");
        Place(new PracticeSuspect(at, Fault.Rings)).ShouldBe(14, "the right cylinder");
        Place(new PracticeSuspect(at, Fault.ExhaustValve), new PracticeSuspect(at % valve.Cylinders + 1, Fault.Rings)).ShouldBe(32, "one accused for nothing");
        Place().ShouldBe(0);
        PracticeScore Repairs(params Repair[] done) => PracticeScore.Of(valve, new([new(at, Fault.ExhaustValve)], done), 50, 50, 0);
        (Repairs(Repair.TopEnd).Repair, Repairs(Repair.TopEnd).Opened).ShouldBe((20, 15));
        (Repairs(Repair.TopEnd, Repair.BottomEnd).Repair, Repairs(Repair.TopEnd, Repair.BottomEnd).Opened).ShouldBe((10, 15));
        Repairs(Repair.Overhaul).Repair.ShouldBe(5);
        (Repairs().Repair, Repairs(Repair.Gasket).Opened).ShouldBe((0, 0), "head off for a gasket that is good");
        var sound = PracticeCases.All.First(c => c.Theme == PracticeTheme.NothingWrong);
        PracticeScore.Of(sound, new([], []), 40, 40, 0).Total.ShouldBe(100);
        PracticeScore.Of(sound, new([new(1, Fault.Rings)], [Repair.BottomEnd]), 40, 40, 2).Total.ShouldBeLessThan(30);
        var cannot = PracticeCases.All.First(c => c.Theme == PracticeTheme.CannotTell);
        PracticeScore.Of(cannot, new([new(cannot.Truths[0].Cylinder, Fault.Rings)], [Repair.RunAndRetest]), 50, 50, 0).Place.ShouldBe(32, "one of two that cannot be told apart");
        PracticeScore.Of(cannot, new([new(cannot.Truths[0].Cylinder, Fault.Rings)], [Repair.BottomEnd]), 50, 50, 0).Opened.ShouldBe(0, "opened before it could be told");
    }

    [Fact]
    public void A_call_that_cannot_be_is_sent_back_with_what_to_do()
    {
        var engine = Of(Fault.GasketAdjacent).Intake.Engine;
        new PracticeCall([], []).Problem(engine).ShouldBeNull();
        new PracticeCall([new(1, Fault.Rings), new(1, Fault.Piston)], []).Problem(engine).ShouldNotBeNull().ShouldContain("or");
        new PracticeCall([new(99, Fault.Rings)], []).Problem(engine).ShouldNotBeNull();
        new PracticeCall([new(1, Fault.Sound)], []).Problem(engine).ShouldNotBeNull();
        new PracticeCall([new(1, Fault.Rings, null, Fault.Rings)], []).Problem(engine).ShouldNotBeNull();
        new PracticeCall([new(1, Fault.GasketAdjacent, 1)], []).Problem(engine).ShouldNotBeNull().ShouldContain("no neighbour");
        new PracticeCall([new(null, Fault.Rings)], []).Problem(engine).ShouldNotBeNull();
        new PracticeCall([], [Repair.ClearExhaust]).Problem(engine).ShouldNotBeNull();
    }

    [Fact]
    public void What_else_it_could_have_been_is_worked_out_from_the_same_engine()
    {
        var c = Of(Fault.ExhaustValve);
        var others = PracticeReveal.Others(c, c.Truths[0].Cylinder);
        others[0].Fault.ShouldBe(Fault.Sound);
        others.Count(o => o.IsSo).ShouldBe(1);
        others.Single(o => o.IsSo).Fault.ShouldBe(Fault.ExhaustValve);
        others[0].DryPa.ShouldBeGreaterThan(others.Single(o => o.IsSo).DryPa);
        others.Single(o => o.Fault == Fault.Rings).WetPa.ShouldBeGreaterThan(others.Single(o => o.Fault == Fault.Rings).DryPa * 1.02);
        PracticeReveal.Says(c).ShouldContain("exhaust valve");
        PracticeReveal.Areas(c, c.Truths[0].Cylinder).Single(a => a.Place == Core.Simulation.LeakPlace.Exhaust).More.ShouldBeTrue();
        foreach (var exercise in PracticeCases.All)
        {
            PracticeReveal.Says(exercise).ShouldEndWith(exercise.Truths.Any(t => t.Or is not null) ? "both." : ".");
        }
    }
}
