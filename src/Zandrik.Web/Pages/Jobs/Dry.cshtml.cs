using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Compression;
using Zandrik.Core.Engines;
using Zandrik.Core.Records;
using Zandrik.Core.Testers;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The dry test on the job's workspace. Every entry is kept the moment it is made.</summary>
public sealed class DryModel(Visitor visitor, JobStore jobs, DryTestStore tests, WorkspaceStore workspaces, TesterStore testers, TimeProvider clock) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    [BindProperty(SupportsGet = true)]
    public long? Test { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? Cylinder { get; set; }

    public Bench Bench { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) =>
        await ShowAsync(visitor.Person, b => b, cancel);

    /// <summary>What was put right on how the test was done after something had been read: who, when, what it was and is.</summary>
    public async Task<IActionResult> OnGetChangesAsync(CancellationToken cancel)
    {
        if (Test is not { } test)
        {
            return NotFound();
        }
        var who = visitor.Person;
        return Partial("_TestChanges", (await tests.ChangesAsync(who, Number, test, cancel)).SelectMany(c => ConditionsForm.Differences(c.Before, c.After)
            .Select(says => $"{ShopText.Time(c.Made.At, who)}, {c.Made.By ?? "a script"}: {says}.")).ToList());
    }

    /// <summary>The trace of a reading, as a drawing. A row never changes, so neither does it.</summary>
    public async Task<IActionResult> OnGetTraceAsync(long row, string? unit, CancellationToken cancel)
    {
        if (await tests.TraceAsync(visitor.Person, Number, row, cancel) is not { } trace)
        {
            return NotFound();
        }
        Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return Content(TraceDrawing.Draw(trace, RecordWords.Parse(unit, PressureUnit.Psi), Request.Query["night"] == "true"), "image/svg+xml");
    }

    /// <summary>One entry of the pad.</summary>
    /// <param name="value">What was typed.</param>
    /// <param name="kind">What it is meant as.</param>
    /// <param name="unit">The unit the pad stood in when it was typed.</param>
    /// <param name="entry">Made with each form, so that a form sent twice is kept once.</param>
    /// <param name="seen">The row of the cylinder that was on the screen, 0 for none.</param>
    /// <param name="at">When it was typed, where it waited for the network; absent for now.</param>
    /// <param name="place">Which of the cylinder's readings is chosen, where two have the same figure.</param>
    /// <param name="noted">What was noted about this reading before it was kept.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostEnterAsync(string? value, PadEntryKind kind, string? unit, string? entry, long? seen, string? at, int? place, DetailsForm noted, CancellationToken cancel)
    {
        var who = visitor.Person;
        // An empty pad with "again" or "first pulse" says what the next figure will be.
        if (string.IsNullOrWhiteSpace(value) && kind is PadEntryKind.Repeat or PadEntryKind.FirstPulse)
        {
            return await ShowAsync(who, b => b with { Kind = kind }, cancel);
        }
        var read = RecordWords.Parse(unit, PressureUnit.Psi);
        var typed = PressureEntry.Read(value, read);
        if (typed.Pressure is not { } pressure)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { Kind = kind, Typed = value, Problem = typed.Problem }, cancel);
        }
        var fields = new TypedFields();
        var details = noted.Read(fields, read);
        if (fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { Kind = kind, Typed = value, Details = noted, DetailsProblem = string.Join(" ", fields.Problems.Values) }, cancel);
        }
        // The store knows job, test and engine: it refuses what is not there, so nothing is read twice.
        var cylinder = Cylinder ?? 1;
        var answer = await tests.EnterAsync(who, Number, Test, new PadEntry(cylinder, kind, pressure) { Details = details, Place = place }, Key(entry, cylinder, kind, pressure), TypedAt.Of(at, clock), seen, cancel: cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b with { Kind = kind, Typed = value }, cancel);
        }
        Test = answer.Test;
        return await AfterAsync(who, cylinder, b => kind is PadEntryKind.Reading or PadEntryKind.Repeat ? b.NextAfter(cylinder) ?? cylinder : cylinder,
            $"Cylinder {cylinder}: {pressure.Text(pressure.Unit)} {pressure.Unit.Symbol()} saved.", cancel, answer.Added);
    }

    /// <summary>Strikes one of a cylinder's readings out: it stays on record and counts for nothing.</summary>
    /// <param name="value">The reading, as it was read.</param>
    /// <param name="unit">Its unit.</param>
    /// <param name="place">Which of the cylinder's readings it is, 0 for the one that stands.</param>
    /// <param name="reason">Why, one of the closed list.</param>
    /// <param name="words">What else is to be said.</param>
    /// <param name="entry">Made with each form, so that a form sent twice is kept once.</param>
    /// <param name="at">When it was asked for, where it waited for the network; absent for now.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostStrikeAsync(string? value, string? unit, int? place, string? reason, string? words, string? entry, string? at, CancellationToken cancel)
    {
        var who = visitor.Person;
        var fields = new TypedFields();
        var says = fields.Text(words, "words", 300);
        var pressure = PressureEntry.Read(value, RecordWords.Parse(unit, PressureUnit.Psi)).Pressure;
        var problem = pressure is null ? "Choose the reading to strike out again."
            : !RecordWords.TryParse<StruckReason>(reason, out var why) ? "Say why it is struck out."
            : why == StruckReason.Other && says is null ? "Say in a few words why it is struck out."
            : fields.Problem("words");
        if (problem is not null || pressure is not { } meant)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { StrikeProblem = problem }, cancel);
        }
        var cylinder = Cylinder ?? 1;
        var struck = new PadEntry(cylinder, PadEntryKind.Strike, meant) { Place = place, Struck = new StruckOut { Reason = RecordWords.Parse(reason, StruckReason.Other), Says = says } };
        var answer = await tests.EnterAsync(who, Number, Test, struck, EntryKey.Of($"{entry}|strike|{cylinder}"), TypedAt.Of(at, clock), cancel: cancel);
        Test = answer.Test ?? Test;
        return answer.Test is null ? await RefusedAsync(who, answer, b => b, cancel)
            : await AfterAsync(who, cylinder, _ => cylinder, $"Cylinder {cylinder}: {meant.Text(meant.Unit)} {meant.Unit.Symbol()} struck out. It stays on record.", cancel, answer.Added);
    }

    /// <summary>Takes the person's own last entry back.</summary>
    /// <param name="entry">Made with each form, so that an undo sent twice takes back one entry.</param>
    /// <param name="at">When it was asked for, where it waited for the network; absent for now.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostUndoAsync(string? entry, string? at, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var (undone, refused) = bench.TestId is { } test ? await tests.UndoAsync(who, Number, test, EntryKey.Of($"{entry}|undo"), TypedAt.Of(at, clock), cancel) : (null, null);
        if (refused is not null)
        {
            return await RefusedAsync(who, new TestAnswer(null, refused), b => b, cancel);
        }
        return await AfterAsync(who, undone ?? bench.Cylinder, _ => undone ?? bench.Cylinder,
            undone is { } c ? $"Cylinder {c}: last entry undone. It stays on record." : "Nothing left to undo.", cancel);
    }

    /// <summary>Shows pressures in another unit; what was read stays as it was read.</summary>
    public async Task<IActionResult> OnPostUnitAsync(string? unit, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (!RecordWords.TryParse<PressureUnit>(unit, out var u) || !await jobs.ShowInAsync(who, Number, u, cancel))
        {
            return NotFound();
        }
        return await AfterAsync(who, Cylinder ?? 1, _ => Cylinder ?? 1, $"Shown in {u.Symbol()}.", cancel);
    }

    /// <summary>Says which unit a doubtful figure was read in.</summary>
    public async Task<IActionResult> OnPostConfirmAsync(string? unit, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench || !RecordWords.TryParse<PressureUnit>(unit, out var u))
        {
            return NotFound();
        }
        foreach (var question in bench.Judged.Questions)
        {
            var at = question.Reading.Cylinder;
            var pressure = new GaugePressure(question.Reading.Value.Value, u);
            if (!PressureEntry.IsPossible(pressure.Value, u))
            {
                continue;
            }
            var answer = await tests.EnterAsync(who, Number, bench.TestId, new PadEntry(at, PadEntryKind.ConfirmUnit, pressure), Guid.NewGuid(), clock.GetUtcNow(), cancel: cancel);
            if (answer.Test is null)
            {
                return await RefusedAsync(who, answer, b => b, cancel);
            }
            Test = answer.Test;
        }
        return await AfterAsync(who, bench.Cylinder, b => b.NextAfter(0) ?? bench.Cylinder, $"Unit confirmed: {u.Symbol()}.", cancel);
    }

    /// <summary>Notes something about a cylinder's reading beside its figure.</summary>
    /// <param name="form">What was typed.</param>
    /// <param name="unit">The unit the pad stood in.</param>
    /// <param name="entry">Made with each form, so that a form sent twice is kept once.</param>
    /// <param name="at">When it was typed, where it waited for the network; absent for now.</param>
    /// <param name="cancel">Cancels the request.</param>
    public async Task<IActionResult> OnPostDetailsAsync(DetailsForm form, string? unit, string? entry, string? at, CancellationToken cancel)
    {
        var who = visitor.Person;
        var cylinder = Cylinder ?? 1;
        var fields = new TypedFields();
        var typedIn = RecordWords.Parse(unit, PressureUnit.Psi);
        var details = form.Read(fields, typedIn);
        if (fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { Details = form, DetailsProblem = string.Join(" ", fields.Problems.Values) }, cancel);
        }
        var answer = await tests.DescribeAsync(who, Number, Test, cylinder, details, EntryKey.Of($"{entry}|details|{cylinder}"), TypedAt.Of(at, clock), typedIn, cancel);
        Test = answer.Test ?? Test;
        return answer.Test is null ? await RefusedAsync(who, answer, b => b with { Details = form }, cancel) : await AfterAsync(who, cylinder, _ => cylinder, $"Cylinder {cylinder}: noted.", cancel, answer.Added);
    }

    /// <summary>Says which gauge the test is done with from here on, or that all of it was.</summary>
    public async Task<IActionResult> OnPostTesterAsync(int? tester, bool all, CancellationToken cancel)
    {
        var who = visitor.Person;
        var gauge = (await testers.ListAsync(who, cancel)).FirstOrDefault(t => t.Id == tester)?.Tester;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var answer = await tests.SetTesterAsync(who, Number, bench.TestId, gauge?.ForRecord(), all, bench.Unit, clock.GetUtcNow(), cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b, cancel);
        }
        Test = answer.Test;
        // Before the first reading the job starts in the gauge's own unit.
        if (gauge is not null && gauge.Unit != bench.Unit && !(bench.Job.Record.Tests ?? []).OfType<DryCompressionTest>().Any(t => t.Readings is { Count: > 0 }))
        {
            await jobs.ShowInAsync(who, Number, gauge.Unit, cancel);
        }
        return await AfterAsync(who, bench.Cylinder, _ => bench.Cylinder, gauge is null ? "No gauge noted." : $"Measured with {gauge.Label}.", cancel);
    }

    /// <summary>Says that this test only compares gauges, or that it judges the engine after all.</summary>
    public async Task<IActionResult> OnPostRoleAsync(string? role, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var check = RecordWords.TryParse<TestRole>(role, out var wanted) ? wanted : (TestRole?)null;
        var answer = await tests.SetRoleAsync(who, Number, bench.TestId, check, bench.Unit, clock.GetUtcNow(), cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b, cancel);
        }
        Test = answer.Test;
        return await AfterAsync(who, bench.Cylinder, _ => bench.Cylinder, check is null ? "This test judges the engine." : "A gauge check: no cylinder is judged by it.", cancel);
    }

    /// <summary>Says in which order the cylinders are tested.</summary>
    public async Task<IActionResult> OnPostOrderAsync(string? order, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var engine = bench.Job.Record.Engine;
        var wanted = CylinderList.Read(order);
        var problem = wanted is null ? "Write cylinder numbers with dashes between: 1-3-4-2."
            : wanted.Count == 0 ? null
            : EngineRules.OnceEach(wanted, engine.Cylinders);
        if (problem is not null)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { OrderTyped = order, OrderProblem = problem }, cancel);
        }
        var answer = await tests.SetOrderAsync(who, Number, bench.TestId, wanted!.Count == 0 ? null : wanted, bench.Unit, clock.GetUtcNow(), cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b, cancel);
        }
        Test = answer.Test;
        Cylinder = null;
        return await AfterAsync(who, null, b => b.Cylinder, "Order saved.", cancel);
    }

    /// <summary>Says how many compressions each cylinder was given, where a reading does not say its own.</summary>
    public async Task<IActionResult> OnPostCountAsync(string? count, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var fields = new TypedFields();
        var whole = fields.Whole(count, "count", 1, 100);
        if (fields.Problem("count") is { } problem)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { CountTyped = count, CountProblem = problem }, cancel);
        }
        var answer = await tests.SetCountAsync(who, Number, bench.TestId, whole, bench.Unit, clock.GetUtcNow(), cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b, cancel);
        }
        Test = answer.Test;
        return await AfterAsync(who, bench.Cylinder, _ => bench.Cylinder, whole is { } n ? $"{n} compressions each, where a reading does not say its own." : "No count for the whole test.", cancel);
    }

    /// <summary>Writes down how the test is done.</summary>
    public async Task<IActionResult> OnPostConditionsAsync(ConditionsForm form, CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var fields = new TypedFields();
        var conditions = form.Over(bench.Test.Conditions, fields, Request.Form.ContainsKey);
        if (fields.Problem("barometer") is { } problem)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return await ShowAsync(who, b => b with { Test = b.Test with { Conditions = conditions }, BarometerTyped = form.BarometricKPa, BarometerProblem = problem }, cancel);
        }
        var answer = await tests.SetConditionsAsync(who, Number, bench.TestId, conditions, bench.Unit, clock.GetUtcNow(), cancel);
        if (answer.Test is null)
        {
            return await RefusedAsync(who, answer, b => b, cancel);
        }
        Test = answer.Test;
        return await AfterAsync(who, bench.Cylinder, _ => bench.Cylinder, "Conditions saved.", cancel);
    }

    /// <summary>Starts a further dry test, done like this one until said otherwise.</summary>
    public async Task<IActionResult> OnPostStartAsync(CancellationToken cancel)
    {
        var who = visitor.Person;
        if (await BenchAsync(who, cancel) is not { } bench)
        {
            return NotFound();
        }
        var test = await tests.StartAsync(who, Number,
            new DryCompressionTest { Unit = bench.Unit, Conditions = bench.Test.Conditions, Tester = bench.Test.Tester, TestOrder = bench.Test.TestOrder }, clock.GetUtcNow(), cancel);
        return test.Test is { } started ? Redirect($"/jobs/{Number}/dry?test={started}") : await RefusedAsync(who, test, b => b, cancel);
    }

    /// <summary>Closes the job, or opens it again.</summary>
    public async Task<IActionResult> OnPostCloseAsync(bool open, CancellationToken cancel)
    {
        // Closing is asked once, beside what is still to be put back.
        if (!open)
        {
            return Redirect($"/jobs/{Number}/refit?close=true");
        }
        return (await jobs.CloseAsync(visitor.Person, Number, null, cancel: cancel)).Found ? Redirect($"/jobs/{Number}/dry") : NotFound();
    }

    /// <summary>The open record of the job, as a file.</summary>
    public async Task<IActionResult> OnGetRecordAsync(CancellationToken cancel) =>
        await jobs.RecordAsync(visitor.Person, Number, superseded: false, cancel) is { } record
            ? File(Encoding.UTF8.GetBytes(TestRecordJson.Write(CorrectedRecord.Of(record))), "application/json", $"zandrik-job-{Number:0000}.json")
            : NotFound();

    // Asked before anything is changed, the job is as it was when the request came in.
    private Task<Bench?> BenchAsync(ShopPerson who, CancellationToken cancel) => BenchAsync(who, visitor.BeforeAnyChange(Number), cancel);

    private async Task<Bench?> BenchAsync(ShopPerson who, JobStamp? stamp, CancellationToken cancel)
    {
        if (await workspaces.FindAsync(who, Number, stamp, cancel) is not { } found || Bench.Of(who, found.JobState, Test, Cylinder) is not { } bench)
        {
            return null;
        }
        bench = bench.Ghost is null && found.Earlier is { } earlier ? bench.WithGhostOf(earlier, found.EarlierTests!) : bench;
        return bench with
        {
            Testers = found.Testers,
            Today = ShopText.Today(clock, who),
            PreparationBegun = found.JobState.Ticked(TickStore.Prepare).Count > 0,
            Workshop = found.Workshop,
            Rail = Rail.Of(found, "dry"),
        };
    }

    private async Task<IActionResult> ShowAsync(ShopPerson who, Func<Bench, Bench> change, CancellationToken cancel)
    {
        if (await BenchAsync(who, visitor.StampOf(Number), cancel) is not { } bench)
        {
            return NotFound();
        }
        Bench = change(bench);
        return Request.IsHtmx() ? Partial("_Bench", Bench) : Page();
    }

    // What was not taken is shown as it was typed, with the reason; what is not there is not found.
    private async Task<IActionResult> RefusedAsync(ShopPerson who, TestAnswer answer, Func<Bench, Bench> change, CancellationToken cancel)
    {
        if (answer.Refused is not { } why)
        {
            return NotFound();
        }
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return await ShowAsync(who, b => change(b) with { Problem = why }, cancel);
    }

    // After something was kept: the new bench where htmx asked, a fresh page (safe to reload) where a form was posted.
    private async Task<IActionResult> AfterAsync(ShopPerson who, int? cylinder, Func<Bench, int> next, string done, CancellationToken cancel, AddedReading? added = null)
    {
        if (Request.WantsNoPart())
        {
            return new NoContentResult();
        }
        Cylinder = cylinder;
        if (await BenchAsync(who, workspaces.Follow(who, added), cancel) is not { } bench)
        {
            return NotFound();
        }
        Cylinder = next(bench);
        return Request.IsHtmx()
            ? Partial("_Bench", bench with { Cylinder = Cylinder.Value, Done = done })
            : Redirect($"/jobs/{Number}/dry?{(Test is { } t ? $"test={t}&" : "")}cylinder={Cylinder}");
    }

    // The same form with the same figure is the same entry however often it arrives; a figure changed on a
    // page that the browser kept is another one.
    private static Guid Key(string? form, int cylinder, PadEntryKind kind, GaugePressure pressure) => string.IsNullOrEmpty(form)
        ? Guid.NewGuid()
        : EntryKey.Of(FormattableString.Invariant($"{form}|{cylinder}|{kind}|{pressure.Value:R}|{pressure.Unit}"));
}
