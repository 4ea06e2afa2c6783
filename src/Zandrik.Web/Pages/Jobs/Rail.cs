using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Zandrik.Core.Assessment;
using Zandrik.Core.Checks;
using Zandrik.Core.Records;
using Zandrik.Storage;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The job's steps in the order of its plan, how far each is, and how long it takes.</summary>
/// <param name="Job">The job's number.</param>
/// <param name="Steps">The steps.</param>
/// <param name="SpentMinutes">Minutes spent so far.</param>
/// <param name="LeftMinutes">Minutes of the plan's steps that are still to be done, about.</param>
/// <param name="IfNeededMinutes">Minutes of those that wait for what the readings show, about.</param>
public sealed record Rail(int Job, IReadOnlyList<RailStep> Steps, int SpentMinutes, int LeftMinutes, int IfNeededMinutes)
{
    /// <summary>Nothing to show yet.</summary>
    public static readonly Rail Empty = new(0, [], 0, 0, 0);

    /// <summary>The cylinder under air, which every page of the job says; absent while the air is off.</summary>
    public int? AirOnAt { get; init; }

    /// <summary>What is so on the job, for a tablet that nobody answers.</summary>
    public string Facts { get; init; } = "";

    /// <summary>Where to go from here; absent where the page itself is what is done next.</summary>
    public NextBar? Next { get; init; }

    /// <summary>The rail of a job.</summary>
    /// <param name="found">The job.</param>
    /// <param name="current">The word of the step that is shown.</param>
    public static Rail Of(Workspace found, string current) =>
        Drawn.GetOrCreateValue(found).GetOrAdd(current, word => Make(found, word));

    // As long as a workspace is kept, so are its rails: a job has as many as pages.
    private static readonly ConditionalWeakTable<Workspace, ConcurrentDictionary<string, Rail>> Drawn = [];

    private static Rail Make(Workspace found, string current)
    {
        var (number, job) = (found.Job.Number, found.Assessment);
        var steps = new List<RailStep>();
        void Plain(string word, string name, bool done) => steps.Add(new RailStep(word, name, $"/jobs/{number}/{word}", "", done, current == word));
        var practising = PracticeNumbers.PurposeOf(number) == JobPurpose.Practice;
        if (!practising)
        {
            Plain("intake", "Intake", done: true);
        }
        Plain("plan", "Plan", done: false);
        // What was done beside the plan comes after its steps, and so does the step that is open; liquid stays until the end of the job.
        foreach (var kind in job.Plan.Select(p => p.Kind).Concat((job.Record.Tests ?? []).Select(StepProgress.KindOf)).Append(KindOf(current) ?? StepKind.Refit).Where(k => k != StepKind.Refit && (!practising || OnTheBench(k))).Distinct())
        {
            if (Step(kind) is { } step)
            {
                steps.Add(step);
            }
        }
        Plain("checks", "Other checks", done: false);
        Plain("judgement", "Judgement", done: false);
        if (practising)
        {
            steps.Add(new RailStep("call", "Call it", $"/practice/{number}/call", "", found.Job.ClosedAt is not null, false));
        }
        else
        {
            Plain("verdict", "Verdict", found.Verdict is { Stands: true });
            Plain("decide", "Decide", done: false);
            steps.Add(Step(StepKind.Refit)!);
        }
        if (!practising && job.StepOf(StepKind.Liquid).IsOver && steps.All(s => s.Word != "liquid"))
        {
            Plain("liquid", "Liquid out", done: true);
        }
        var spent = job.Spent;
        var (left, ifNeeded) = job.MinutesLeft;
        return new Rail(number, [.. steps.Select(s => s with { Minutes = (int)Math.Round((KindOf(s.Word) is { } kind ? spent.GetValueOrDefault(kind) : default).TotalMinutes) })],
            (int)Math.Round(spent.Values.Sum(t => t.TotalMinutes)), left, ifNeeded)
        {
            AirOnAt = job.Safety.AirOnAt,
            Facts = string.Join(' ', job.Safety.Facts),
            Next = NextBar.Of(found, current),
        };

        RailStep? Step(StepKind kind)
        {
            var (word, name, page) = kind switch
            {
                StepKind.Liquid => ("liquid", "Liquid out", "liquid"),
                StepKind.Prepare => ("prepare", "Prepare", "prepare"),
                StepKind.Refit => ("refit", "Reassembly", "refit"),
                StepKind.Relative => ("relative-compression", "Relative compression", "relative-compression"),
                StepKind.Plugs => ("plugs", "Plugs", "plugs"),
                StepKind.Dry => ("dry", "Dry", "dry"),
                StepKind.LeakDown => ("leak-down", "Leak-down", "leak-down"),
                StepKind.Wet => ("wet", "Wet", "wet"),
                StepKind.Running => ("running", "Running", "running"),
                _ => (RecordWords.Of(kind), SupportingCheck.Of(kind)?.Short, $"checks/{RecordWords.Of(kind)}"),
            };
            if (name is null)
            {
                return null;
            }
            var at = job.StepOf(kind);
            return new RailStep(word, name, $"/jobs/{number}/{page}", at.Of > 0 ? $"{at.Done}/{at.Of}" : "", at.IsOver, word == current);
        }
    }

    // What is simulated: tests, and the checks that the bench can do.
    internal static bool OnTheBench(StepKind kind) => kind is StepKind.Prepare or StepKind.Relative or StepKind.Dry or StepKind.LeakDown or StepKind.Wet or StepKind.Running or StepKind.AirOff || Core.Practice.PracticeBench.Checks.Contains(kind);

    /// <summary>The number a step has in the rail, from 1; absent for one that is not in it.</summary>
    /// <param name="kind">The step.</param>
    public int? NumberOf(StepKind kind) => Steps.Select((s, i) => (s, i)).Where(x => KindOf(x.s.Word) == kind || x.s.Word == RecordWords.Of(kind)).Select(x => (int?)(x.i + 1)).FirstOrDefault();

    // The step from the word in its address; absent for a page that is none.
    internal static StepKind? KindOf(string word) => word switch
    {
        "liquid" => StepKind.Liquid,
        "plugs" => StepKind.Plugs,
        "dry" => StepKind.Dry,
        "wet" => StepKind.Wet,
        "running" => StepKind.Running,
        _ => RecordWords.TryParse<StepKind>(word, out var kind) ? kind : null,
    };
}

/// <summary>One step of the rail.</summary>
/// <param name="Word">Its word.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Address">Where it is.</param>
/// <param name="Count">How far it is, as in 4/6; empty for nothing to count.</param>
/// <param name="Done">True when nothing is left of it.</param>
/// <param name="Current">True for the step that is shown.</param>
/// <param name="Minutes">Minutes spent on it so far.</param>
public sealed record RailStep(string Word, string Name, string Address, string Count, bool Done, bool Current, int Minutes = 0);
