using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Engines;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Intake;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Intake: the vehicle, the engine and why it is here; of a new job, or of one that is open.</summary>
public sealed class IntakeModel(Visitor visitor, JobStore jobs, StepStore steps, SheetStore sheets, VehicleStore vehicles, EngineStore engines, LifeStore lives, TimeProvider clock) : PageModel
{
    [BindProperty]
    public IntakeForm Form { get; set; } = new();

    public ShopPerson Who { get; private set; } = null!;

    public Job? Job { get; private set; }

    public bool IsNew => Job is null;

    /// <summary>The cylinder under air; absent while the air is off, or for a new job.</summary>
    public int? AirOnAt { get; private set; }

    /// <summary>Who changed the intake and when, oldest first.</summary>
    public IReadOnlyList<Change> Changes { get; private set; } = [];

    /// <summary>What is not clear about the engine of this job and its vehicle; absent where it sits in it.</summary>
    public (string Says, int Vehicle)? EngineQuestion { get; private set; }

    /// <summary>What the typed odometer does not fit, asked before the intake is saved; absent where it fits, or was asked.</summary>
    public OdometerConflict? Odometer { get; private set; }

    /// <summary>Why the intake was not saved, with what to do; absent for none.</summary>
    public string? Refused { get; private set; }

    /// <summary>Engine sheets to choose from.</summary>
    public IReadOnlyList<SheetLine> Sheets { get; private set; } = [];

    /// <summary>Vehicles that were here before, by name, for the field of a new job.</summary>
    public IReadOnlyList<string> Vehicles { get; private set; } = [];

    /// <summary>The last job of the vehicle, where the engine was taken from it; absent for none.</summary>
    public Job? FromJob { get; private set; }

    public IReadOnlyList<FieldProblem> Problems { get; private set; } = [];

    /// <summary>The message of a field by its JSON pointer; null when nothing is wrong with it.</summary>
    public string? Problem(string pointer) =>
        Problems.FirstOrDefault(p => p.Pointer == pointer)?.Says;

    public async Task<IActionResult> OnGetAsync(int? number, CancellationToken cancel)
    {
        if (!await FindAsync(number, cancel))
        {
            return NotFound();
        }
        if (Job is not null)
        {
            Form = IntakeForm.Of(Job.Record);
            (Form.Vehicle, Form.Seen) = (Job.VehicleNow ?? Form.Vehicle, Job.IntakeVersion);
        }
        else
        {
            Form.SpecUnit = Who.Unit;
            await BeginWithAsync(cancel);
        }
        return Page();
    }

    private async Task<(string, int)?> QuestionAsync(int engine, int vehicle, CancellationToken cancel)
    {
        var stays = await engines.OfVehicleAsync(Who, vehicle, cancel);
        var now = stays.Where(s => s.Until is null).ToList();
        return stays.Any(s => s.EngineId == engine) || now.Count == 0 ? null
            : (now is [var one] ? $"This job is on a different engine from the one fitted in {one.Vehicle}{(one.Serial is { } number ? $" ({number})" : "")}. Was it swapped?" : $"{now[0].Vehicle} has {now.Count} engines, and this job does not say which one: enter its serial number or tag.", vehicle);
    }

    // A vehicle that was here before begins with its name and the engine of its last job.
    private async Task BeginWithAsync(CancellationToken cancel)
    {
        if (int.TryParse(Request.Query["vehicle"], NumberStyles.None, CultureInfo.InvariantCulture, out var id) && await vehicles.FindAsync(Who, id, cancel) is { } vehicle)
        {
            await BeginWithAsync(vehicle, cancel);
        }
    }

    // True where a vehicle without a job brought its engine along.
    private bool IsFilled { get; set; }

    private async Task BeginWithAsync(VehicleLine vehicle, CancellationToken cancel)
    {
        var id = vehicle.Id;
        var (lines, _) = await jobs.LinesAsync(Who, new JobFilter { Vehicle = id }, 1, cancel);
        if (lines is [var last] && await jobs.FindAsync(Who, last.Number, cancel) is { } before)
        {
            var typed = Form;
            // The engine that sits in it now, which may not be that of its last job.
            var now = (await engines.OfVehicleAsync(Who, id, cancel)).Where(s => s.Until is null).ToList();
            Form = IntakeForm.Of(new TestRecord { Engine = before.Record.Engine with { Serial = now is [var one] ? one.Serial : null }, Vehicle = before.Record.Vehicle });
            // What was typed of this visit stays.
            (Form.Once, Form.Odometer, Form.Complaint, Form.Observations, Form.RuledOut, Form.Ruled) = (typed.Once, typed.Odometer, typed.Complaint, typed.Observations, typed.RuledOut, typed.Ruled);
            FromJob = before;
        }
        else if ((await engines.OfVehicleAsync(Who, id, cancel)).Where(s => s.Until is null).ToList() is [var sits] && await engines.FindAsync(Who, sits.EngineId, cancel) is { } engine)
        {
            // No job yet, but its engine is known, as after an import.
            Form.Serial = engine.Serial;
            if (engine.SheetId is { } sheet && await sheets.FindAsync(Who, sheet, cancel) is { RetiredAt: null } version)
            {
                Form.Fill(version.Document.Engine);
                Form.Sheet = version.VersionId;
            }
            IsFilled = Form.Sheet is not null || Form.Serial is not null;
        }
        Form.Vehicle = vehicle.Label;
    }

    /// <summary>A vehicle that was here before, by the name that was typed: its engine as of its last job; nothing is saved yet.</summary>
    public async Task<IActionResult> OnPostVehicleAsync(CancellationToken cancel)
    {
        if (!await FindAsync(null, cancel))
        {
            return NotFound();
        }
        // What is typed of an engine already is not written over.
        if (string.IsNullOrWhiteSpace(Form.Cylinders) && Form.Sheet is null && Form.Vehicle?.Trim() is { Length: > 0 } label && await vehicles.ByLabelAsync(Who, label, cancel) is { } vehicle)
        {
            await BeginWithAsync(vehicle, cancel);
        }
        ModelState.Clear();
        // Nothing to fill in: the page stays as it is, with whatever is typed by now.
        return !Request.IsHtmx() ? Page() : FromJob is null && !IsFilled ? StatusCode(StatusCodes.Status204NoContent) : Partial("_EngineFields", this);
    }

    /// <summary>Fills the engine in from the sheet that was chosen; nothing is saved yet.</summary>
    public async Task<IActionResult> OnPostSheetAsync(int? number, CancellationToken cancel)
    {
        if (!await FindAsync(number, cancel))
        {
            return NotFound();
        }
        if (await ChosenSheetAsync(cancel) is { } version)
        {
            Form.Fill(version.Document.Engine);
        }
        ModelState.Clear();
        return Request.IsHtmx() ? Partial("_EngineShape", this) : Page();
    }

    private Task<SheetVersion?> ChosenSheetAsync(CancellationToken cancel) =>
        Form.Sheet is { } version ? sheets.VersionAsync(Who, version, cancel) : Task.FromResult<SheetVersion?>(null);

    /// <summary>Fills the engine's shape from the preset that was chosen; nothing is saved yet.</summary>
    public async Task<IActionResult> OnPostPresetAsync(int? number, CancellationToken cancel)
    {
        if (!await FindAsync(number, cancel))
        {
            return NotFound();
        }
        if (EnginePreset.All.FirstOrDefault(p => p.Id == Form.Preset) is { } preset)
        {
            Form.Fill(preset);
        }
        // What was typed is shown as it now stands, not as it was sent.
        ModelState.Clear();
        return Request.IsHtmx() ? Partial("_EngineShape", this) : Page();
    }

    public async Task<IActionResult> OnPostAsync(int? number, CancellationToken cancel)
    {
        if (!await FindAsync(number, cancel))
        {
            return NotFound();
        }
        var sheet = await ChosenSheetAsync(cancel);
        var (record, problems) = Form.Read(Job?.Record, sheet?.Document.Engine);
        if (record is null)
        {
            Problems = problems;
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        var conflict = await OdometerAsync(record, cancel);
        var said = conflict is not null && Form.OdometerSaid is IntakeForm.WasReplaced or IntakeForm.IsRight ? Form.OdometerSaid : null;
        if (conflict is not null && said is null && Form.OdometerAsked != Form.OdometerTyped)
        {
            // Now the vehicle is here and the odometer can be looked at; next month nobody can.
            (Odometer, Form.OdometerAsked) = (conflict, Form.OdometerTyped);
            Problems = [new FieldProblem("/vehicle/odometer", Says(conflict))];
            ModelState.Clear();
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        if (Job is null)
        {
            // The shop's methods and limits as they are today: changing them later leaves this job's verdict alone.
            record = record with { JudgeBy = Who.Settings.JudgeBy };
            var once = Form.Once is { Length: > 0 and <= 64 } o ? o : Guid.NewGuid().ToString("N");
            (number, var another) = await jobs.CreateOnceAsync(Who, $"form {once}",
                SHA256.HashData(Encoding.UTF8.GetBytes(TestRecordJson.Write(record))), record, clock.GetUtcNow(), sheet?.VersionId, cancel);
            if (another)
            {
                // A form that the browser kept, filled in for the next vehicle.
                number = await jobs.CreateAsync(Who, record, clock.GetUtcNow(), sheetVersion: sheet?.VersionId, cancel: cancel);
            }
            // A unit that was chosen holds for the pad too, where there are no figures to carry it.
            if (record.Engine.Spec is null && RecordWords.TryParse<PressureUnit>(Form.SpecUnit, out var unit) && RecordWords.Of(unit) != Who.Unit)
            {
                await jobs.ShowInAsync(Who, number.Value, unit, cancel);
            }
        }
        else
        {
            var answer = await jobs.ChangeIntakeAsync(Who, Job.Number, record, sheet?.VersionId, Form.Seen, cancel);
            if (answer.Refused is { } why)
            {
                Refused = why;
                // Looked at now: saved again, it is put over what somebody else wrote.
                Form.Seen = Job.IntakeVersion;
                ModelState.Clear();
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Page();
            }
        }
        if (said == IntakeForm.WasReplaced)
        {
            await lives.SayOdometerAsync(Who, number!.Value, true, clock.GetUtcNow(), cancel);
        }
        foreach (var doubted in said == IntakeForm.IsRight ? conflict!.Doubted : [])
        {
            await lives.SayOdometerAsync(Who, doubted.Job == 0 ? number!.Value : doubted.Job, false, clock.GetUtcNow(), cancel);
        }
        return Redirect($"/jobs/{number}/{(Job is null ? "plan" : "dry")}");
    }

    // What the odometer does not fit, where it was typed anew.
    private async Task<OdometerConflict?> OdometerAsync(TestRecord record, CancellationToken cancel) =>
        record.Vehicle is not { Label: { Length: > 0 } label, Odometer: { } odometer } || odometer == Job?.Record.Vehicle?.Odometer ? null
            : await lives.OdometersAsync(Who, label, cancel) is not { Count: > 0 } visits ? null
            : OdometerConflict.Of([.. visits.Where(v => v.Job != Job?.Number)], new Core.Life.Visit(Job?.Number ?? 0, Job?.OpenedAt ?? clock.GetUtcNow(), visits[0].Vehicle, odometer));

    private string Says(OdometerConflict conflict)
    {
        var other = $"Job {conflict.Other.Job:0000} of {ShopText.Day(conflict.Other.At, Who)} says {ShopText.Odometer(conflict.Other.Odometer)}";
        return conflict.IsOtherUnit ? $"{other}: one of both counts hours, the other a distance. Change the unit here, or answer below."
            : $"{other}, {(conflict.Other.At <= (Job?.OpenedAt ?? clock.GetUtcNow()) ? "and this is less" : "and this is more")}. Put the figure right here, or answer below.";
    }

    private async Task<bool> FindAsync(int? number, CancellationToken cancel)
    {
        Who = visitor.Person;
        (Sheets, _) = await sheets.ListAsync(Who, null, 500, cancel);
        if (number is null)
        {
            (var known, _) = await vehicles.ListAsync(Who, null, 500, cancel);
            Vehicles = [.. known.Select(v => v.Label)];
        }
        if (number is { } n)
        {
            if (await steps.StateAsync(Who, n, cancel) is not { } standing)
            {
                return false;
            }
            (Job, AirOnAt) = (standing.Job, standing.Safety.AirOnAt);
            EngineQuestion = Job.VehicleId is { } vehicle ? await QuestionAsync(Job.EngineId, vehicle, cancel) : null;
            Changes = Job.IntakeVersion > 0 ? await jobs.IntakeChangesAsync(Who, n, cancel) : [];
            return true;
        }
        return true;
    }
}
