using Zandrik.Core.Assessment;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.Records;
using Zandrik.Core.Tests.Diagnosis;
using Zandrik.Core.Units;
using Zandrik.Core.Verdicts;

namespace Zandrik.Core.Tests.Verdicts;

/// <summary>State, suspects, headline, the owner's text, what to do and what is next tell one story, at every step of any job.</summary>
public sealed class OneStoryTests
{
    // Told once for all that is asked of them.
    private static readonly Lazy<IReadOnlyList<(string Job, JobAssessment Said, string Owner)>> Told = new(() => [.. Stories(120)]);

    private static IReadOnlyList<(string Job, JobAssessment Said, string Owner)> Stories() => Told.Value;

    private static IEnumerable<(string Job, JobAssessment Said, string Owner)> Stories(int engines)
    {
        for (var seed = 1; seed <= engines; seed++)
        {
            var step = 0;
            foreach (var record in AnyEngine.Followed(seed, 6))
            {
                var job = JobAssessment.Of(record, progress: new JobProgress { Shown = PressureUnit.Psi });
                yield return ($"seed {seed}, step {step++}: {job.State}: {job.Headline}", job, VerdictSnapshot.Of(job).Owner);
            }
        }
    }

    private static bool IsFault(CylinderSuspect s) => s.Fault is not (Fault.Sound or Fault.TestError or Fault.Carbon) && s.Probability > FaultWords.Said;

    [Fact]
    public void No_cylinder_is_fine_and_faulty()
    {
        foreach (var (job, said, owner) in Stories())
        {
            foreach (var c in said.Diagnosis.Cylinders)
            {
                var all = $"{job}\n{c.Cylinder} {c.State} [{c.Says}] {c.Leading.Fault} {c.Leading.Probability:0.00}\n{owner}";
                if (IsFault(c.Leading))
                {
                    c.State.ShouldNotBe(CylinderState.Sound, all);
                    c.Says.ShouldNotContain("Seals", Case.Sensitive, all);
                    said.Headline.ShouldNotContain("Every cylinder seals", Case.Sensitive, all);
                    owner.ShouldNotContain("Nothing we measured points to a fault", Case.Sensitive, all);
                    owner.ShouldNotContain("the cylinders themselves hold", Case.Sensitive, all);
                    said.Diagnosis.Actions.ShouldAllBe(a => !a.Says.Contains("no cylinder is blamed", StringComparison.Ordinal), all);
                }
                if (c.State is CylinderState.Low or CylinderState.Dead)
                {
                    c.Suspects.ShouldAllBe(s => c.NameOf(s) != "sound", all);
                }
                if (c.Says == "Seals.")
                {
                    c.State.ShouldBeOneOf([CylinderState.Sound, CylinderState.High], all);
                }
                if (c.State == CylinderState.Dead && said.Tests.Dry?.Cylinders[c.Cylinder - 1].State == CylinderState.Dead)
                {
                    owner.ShouldContain("next to nothing", Case.Sensitive, all);
                }
            }
        }
    }

    [Fact]
    public void The_engine_is_what_its_cylinders_are()
    {
        foreach (var (job, said, owner) in Stories())
        {
            var accused = said.Diagnosis.Cylinders.Where(c => c.Leading is { Probability: > 0.8 } lead && IsFault(lead)).ToList();
            if (said.State == EngineState.Faulty)
            {
                said.Headline.ShouldNotContain("No bad cylinder", Case.Sensitive, $"{job}\n{string.Join("\n", said.Diagnosis.Cylinders.Select(c => $"{c.Cylinder} {c.State} [{c.Says}] {c.Leading.Fault} {c.Leading.Probability:0.00}"))}\n{owner}");
                said.Headline.ShouldNotContain("Every cylinder seals", Case.Sensitive, job);
            }
            if (said.State == EngineState.Sound)
            {
                accused.ShouldBeEmpty(job);
                said.Diagnosis.Cylinders.ShouldAllBe(c => c.State == CylinderState.Sound || c.State == CylinderState.Untested, job);
                owner.ShouldContain("Nothing we measured points to a fault", Case.Sensitive, job);
            }
            if (accused.Count > 0 && !said.Diagnosis.Headline.Contains(" are low by timing", StringComparison.Ordinal))
            {
                accused.ShouldContain(c => said.Headline.Contains($"{c.Cylinder}", StringComparison.Ordinal), job);
            }
        }
    }

    [Fact]
    public void What_to_do_does_not_send_back_to_a_reading_while_something_else_comes_next()
    {
        foreach (var (job, said, _) in Stories())
        {
            if (said.Diagnosis.Next is [{ Kind: StepKind.LeakDown }, ..])
            {
                said.Diagnosis.Actions.Where(a => a.Action == RepairAction.RepeatTest && a.Says.Contains("too early", StringComparison.OrdinalIgnoreCase)).ShouldBeEmpty(job);
            }
            if (said.State == EngineState.Sound)
            {
                said.Diagnosis.Actions.ShouldAllBe(a => a.Action == RepairAction.None || a.Action == RepairAction.CompleteTest, job);
            }
            if (said.State == EngineState.Inconclusive)
            {
                said.Diagnosis.Actions.ShouldNotContain(a => a.Action == RepairAction.None, job);
            }
        }
    }

    [Fact]
    public void The_owner_hears_of_every_test()
    {
        foreach (var (job, said, owner) in Stories())
        {
            foreach (var test in said.Record.Tests!)
            {
                var says = test switch
                {
                    DryCompressionTest => "builds up while the starter turns it",
                    RelativeCompressionTest => "current that the starter draws",
                    WetCompressionTest => "A little oil in",
                    RunningCompressionTest => "With the engine running",
                    CombustionGasTest => "ombustion gas",
                    PlugInspection => "plugs",
                    ValveClearanceCheck => "valve clearance",
                    _ => "",
                };
                if (test is LeakDownTest)
                {
                    owner.ShouldMatch("compressed air|air test", $"{job}\n{owner}");
                    continue;
                }
                owner.ShouldContain(says, Case.Sensitive, $"{job}\n{test.Kind}\n{owner}");
            }
            if (said.Record.Observations!.Contains(Observation.MilkyOil))
            {
                owner.ShouldContain("coolant in the oil", Case.Sensitive, job);
            }
        }
    }
}
