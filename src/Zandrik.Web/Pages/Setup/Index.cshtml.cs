using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Compression;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;
using Zandrik.Web.Pages.Shop;
using Zandrik.Web.Pages.Testers;

namespace Zandrik.Web.Pages.Setup;

/// <summary>
/// The first hour of a shop: a few questions, one at a time, each with an answer that works if it is skipped. What was
/// answered stays, so whoever leaves in the middle goes on where he was.
/// </summary>
[ForemanOnly]
public sealed class IndexModel(Visitor visitor, PeopleStore people, TesterStore testers, SheetStore sheets, ImportStore imports, TimeProvider clock) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Step { get; set; }

    [BindProperty]
    public SettingsForm Form { get; set; } = new();

    [BindProperty]
    public TesterForm Tester { get; set; } = new();

    [BindProperty]
    public FirstEngineForm Engine { get; set; } = new();

    public TypedFields Fields { get; } = new();

    public ShopPerson Who { get; private set; } = null!;

    /// <summary>The step that is shown; absent when all are done.</summary>
    public SetupStep? Here { get; private set; }

    public int? Sample { get; private set; }

    public IReadOnlyList<string> Testers { get; private set; } = [];

    public IReadOnlyList<string> Sheets { get; private set; } = [];

    /// <summary>What was set, name and value.</summary>
    public IReadOnlyList<(string Name, string Value)> Facts { get; private set; } = [];

    public string? Problem(string field) => Fields.Problem(field);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        await LookAsync(cancel);
        if (Step is null)
        {
            return Redirect(SetupStep.Next(Who) is { } next ? $"/setup/{next.Word}" : "/setup/ready");
        }
        if (Here is null && Step != "ready")
        {
            return NotFound();
        }
        if (Here is null)
        {
            // Whoever came to the end is asked no more.
            await people.NoteSetupAsync(Who, ShopPerson.SetupOver, cancel);
        }
        Form = SettingsForm.Of(Who);
        Tester.Unit = Who.Unit;
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(bool? sample, CancellationToken cancel)
    {
        await LookAsync(cancel);
        if (Here is not { } here)
        {
            return NotFound();
        }
        await (here.Word switch
        {
            "tester" => KeepTesterAsync(cancel),
            "engine" => KeepSheetAsync(cancel),
            "sample" => SetSampleAsync(sample == true, cancel),
            _ => KeepSettingsAsync(here.Word, cancel),
        });
        if (Fields.Problems.Count > 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        return await GoOnAsync(here, cancel);
    }

    public async Task<IActionResult> OnPostSkipAsync(CancellationToken cancel)
    {
        await LookAsync(cancel);
        return Here is { } here ? await GoOnAsync(here, cancel) : NotFound();
    }

    /// <summary>Leaves the set-up for now; the bays offer to go on.</summary>
    public IActionResult OnPostLater() => Redirect("/");

    /// <summary>Asks no more.</summary>
    public async Task<IActionResult> OnPostOverAsync(CancellationToken cancel)
    {
        await people.NoteSetupAsync(visitor.Person, ShopPerson.SetupOver, cancel);
        return Redirect("/");
    }

    private async Task<IActionResult> GoOnAsync(SetupStep step, CancellationToken cancel)
    {
        await people.NoteSetupAsync(Who, step.Word, cancel);
        // The step after this one, so that whoever goes through a second time sees all of them.
        return Redirect($"/setup/{step.After?.Word ?? "ready"}");
    }

    private async Task LookAsync(CancellationToken cancel)
    {
        Who = visitor.Person;
        Here = SetupStep.All.FirstOrDefault(s => s.Word == Step && s.Word != "foreman");
        Sample = await imports.SampleJobAsync(Who, cancel);
        Testers = [.. (await testers.ListAsync(Who, cancel)).Where(t => t.RetiredAt is null).Select(t => t.Tester.Label)];
        Sheets = [.. (await sheets.ListAsync(Who, null, 20, cancel)).Sheets.Select(s => s.Name)];
        Facts =
        [
            ("Shop", $"{Who.Shop}, {Who.TimeZone}"), ("Pressures", RecordWords.Parse(Who.Unit, PressureUnit.Psi).Symbol()),
            ("Spread decided by", Who.Settings.JudgeBy?.DecidingMethod is { } method ? SpreadFinding.NameOf(method) : "the maker's difference, else percent of the highest"),
            ("Testers", Testers.Count > 0 ? string.Join(", ", Testers) : "none yet"), ("Engine sheets", Sheets.Count > 0 ? string.Join(", ", Sheets.Take(5)) + (Sheets.Count > 5 ? " …" : "") : "none yet"),
            ("Sample job", Sample is { } number ? $"on, job {number:0000}" : "off"),
        ];
    }

    // Only what this step asks; everything else of the settings stays as it is.
    private async Task KeepSettingsAsync(string step, CancellationToken cancel)
    {
        var typed = Form;
        Form = SettingsForm.Of(Who);
        switch (step)
        {
            case "shop":
                (Form.Name, Form.TimeZone) = (typed.Name, typed.TimeZone);
                break;
            case "units":
                (Form.Unit, Form.Numbers, Form.Dates) = (typed.Unit, typed.Numbers, typed.Dates);
                break;
            default:
                (Form.Deciding, Form.LeakDown) = (typed.Deciding, typed.LeakDown);
                break;
        }
        var settings = Form.Read(Fields);
        if (Fields.Problems.Count == 0)
        {
            await people.SetSettingsAsync(Who, Form.Name!.Trim(), Form.TimeZone!.Trim(), RecordWords.Parse(Form.Unit, PressureUnit.Psi), settings, cancel);
        }
    }

    private async Task KeepTesterAsync(CancellationToken cancel)
    {
        var tester = Tester.Read(Fields, ShopText.Today(clock, Who));
        if (Fields.Problems.Count == 0 && await testers.SaveAsync(Who, null, tester, cancel) is null)
        {
            Fields.Add("label", "A tester of that name is here already: skip this step, or add a number.");
        }
    }

    private async Task KeepSheetAsync(CancellationToken cancel)
    {
        if (Engine.Read(Fields, Who) is { } document && await sheets.SaveAsync(Who, null, document, clock.GetUtcNow(), cancel) is null)
        {
            Fields.Add("engine-name", "An engine sheet of that name is here already: skip this step, or choose another name.");
        }
    }

    private async Task SetSampleAsync(bool on, CancellationToken cancel)
    {
        if (on)
        {
            await imports.SampleAsync(Who, await Preparation.SampleRecordAsync(cancel), clock.GetUtcNow(), cancel);
        }
        else
        {
            await imports.SampleOffAsync(Who, clock.GetUtcNow(), cancel);
        }
    }
}
