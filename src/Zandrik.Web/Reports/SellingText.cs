using System.Globalization;
using Zandrik.Core.Compression;
using Zandrik.Core.Deciding;
using Zandrik.Core.Reports;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Reports;

/// <summary>Writes the sheet for buying or selling of a job: made of the job sheet, so that the two never say different things, with percent of the maker's figures, what is missing, and what it would cost.</summary>
public static class SellingText
{
    /// <summary>The sheet of a job as it stands.</summary>
    /// <param name="workspace">The job.</param>
    /// <param name="verdict">The verdict that stands; absent while none is signed.</param>
    /// <param name="who">The shop and person.</param>
    /// <param name="now">The time.</param>
    /// <param name="repairs">What was done on the job.</param>
    public static SellingSheet Of(Workspace workspace, KeptVerdict? verdict, ShopPerson who, DateTimeOffset now, IReadOnlyList<KeptRepair> repairs)
    {
        var banks = Core.Engines.CylinderLayout.Of(workspace.Job.Record.Engine).Banks.Count;
        var job = workspace.Job;
        var sheet = JobSheet.Of(workspace.JobState, who, now, verdict);
        var parts = sheet.Parts.Select(p => new SellingPart(p.Title, p.Says, p.How, p.Headers, p.Rows, p.Notes)).ToList();
        if (OfSpec(workspace) is { } percent)
        {
            parts.Insert(verdict is null ? 0 : 1, percent);
        }
        return new(who.Shop, sheet.Number, sheet.Vehicle, sheet.Engine, job.Record.Engine.Serial, [.. sheet.Facts.Where(f => f.Name is not ("Complaint" or "Opened")).Select(f => new SellingFact(f.Name, f.Value)), .. repairs.Select(r => new SellingFact("Done", $"{r.Done.Title(banks)}, {ShopText.Day(r.DoneAt, who)}"))],
            $"{workspace.Assessment.Headline.TrimEnd('.')}. {(verdict is null ? "No verdict is signed yet." : "")}".TrimEnd(), repairs.Count > 0 ? "It was repaired after these tests, see above. A new test shows what is left." : Cost(workspace), parts, SellingGaps.Of(workspace.Assessment), ShopText.Time(now, who), who.Person);
    }

    // Dry readings against the maker's figures.
    private static SellingPart? OfSpec(Workspace workspace)
    {
        var engine = workspace.Job.Record.Engine;
        var rules = Core.Readings.JudgingRules.For(engine, workspace.Job.Record.JudgeBy);
        if (workspace.Assessment.Tests.Dry is not { } dry || rules is { NominalPa: null, MinimumPa: null } || dry.Cylinders.All(c => c.JudgedPa is null))
        {
            return null;
        }
        var unit = workspace.Job.Unit;
        string Of(double pa, double? of) => of is { } o ? $"{(100 * pa / o).ToString("0", CultureInfo.CurrentCulture)} %" : "–";
        return new("Dry compression against the maker’s figures", "", "By the gauge’s check and at sea level where those are known.", ["Cylinder", unit.Symbol(), "of nominal", "of minimum", "State"],
            [.. dry.Cylinders.Where(c => c.JudgedPa is not null).Select(c => (IReadOnlyList<string>)[$"{c.Cylinder}", GaugePressure.Figure(c.JudgedPa!.Value, unit), Of(c.JudgedPa.Value, rules.NominalPa), Of(c.JudgedPa.Value, rules.MinimumPa), StateWord(c.State)])], []);
    }

    private static string StateWord(CylinderState state) => Drawings.StateLook.Word(state);

    private static string Cost(Workspace workspace)
    {
        var decide = DecisionSheet.Of(workspace.Assessment);
        var cost = new CostText(decide.Book.Rate, workspace.Shop.Currency);
        var best = decide.Options.FirstOrDefault(o => o.IsBest) ?? decide.Options[0];
        if (workspace.Assessment.LeastSound is null)
        {
            return "Nothing was measured, so nothing can be said.";
        }
        var early = decide.Test is null ? "" : " A further test is asked for first: it may change this.";
        return best.Option.IsLeave ? $"Nothing has to be opened, as far as it was measured.{early}"
            : $"{best.Title}: about {cost.Of(best.Total.Likely)}, {cost.Range(best.Total)}, parts and machining as far as they can be known before it is open. Afterwards {Math.Clamp((int)Math.Round(10 * best.Cured), 0, 10)} of 10 such engines are right.{early}";
    }
}
