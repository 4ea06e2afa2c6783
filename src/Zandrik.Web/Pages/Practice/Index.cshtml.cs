using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Practice;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Practice;

/// <summary>The practice bench: what is set, what can be picked, what is open, and how far somebody is.</summary>
public sealed class IndexModel(Visitor visitor, PracticeStore runs, PeopleStore people, TimeProvider clock) : PageModel
{
    private const int MostRuns = 12;

    public ShopPerson Who => visitor.Person;

    public IReadOnlyList<PracticeExercise> Set { get; private set; } = [];

    public IReadOnlyList<PracticeRun> Runs { get; private set; } = [];

    public IReadOnlyList<PracticeStanding> Mine { get; private set; } = [];

    /// <summary>Everybody's standing, for the foreman.</summary>
    public IReadOnlyList<(string Person, IReadOnlyList<PracticeStanding> Standing)> Everyone { get; private set; } = [];

    /// <summary>Everything that is set, for the foreman.</summary>
    public IReadOnlyList<PracticeExercise> AllSet { get; private set; } = [];

    public IReadOnlyList<Colleague> People { get; private set; } = [];

    public int Next { get; private set; } = 1;

    public DateOnly Today => ShopText.Today(clock, Who);

    /// <summary>Why nothing was begun or set, by the field.</summary>
    public Dictionary<string, string> Problems { get; } = [];

    public string? TypedNumber { get; private set; }

    [TempData]
    public string? DoneBefore { get; set; }

    public Task OnGetAsync(CancellationToken cancel) => LoadAsync(cancel);

    /// <summary>Begins an exercise: one that was set, one of a number, or one of a level, theme and fuel.</summary>
    public async Task<IActionResult> OnPostBeginAsync(string? number, string? level, string? theme, string? engine, long? set, CancellationToken cancel)
    {
        TypedNumber = number;
        var fields = new TypedFields();
        int? wanted = string.IsNullOrWhiteSpace(number) ? null : fields.Whole(number, "number", 1, PracticeCases.Count);
        if (fields.Problem("number") is { } problem)
        {
            Problems["number"] = problem;
        }
        else if (wanted is null)
        {
            var called = (await runs.CalledAsync(Who, cancel)).Where(p => p.Key.Id == Who.PersonId).SelectMany(p => p).Select(c => c.Case).ToHashSet();
            // What was not done yet comes first, then the one done longest ago by its number.
            wanted = PracticeCases.All.Where(c => (!RecordWords.TryParse<PracticeLevel>(level, out var l) || c.Level == l) && (!RecordWords.TryParse<PracticeTheme>(theme, out var t) || c.Theme == t)
                    && (engine is not ("petrol" or "diesel") || (c.Intake.Engine.Fuel == Fuel.Diesel) == (engine == "diesel")))
                .OrderBy(c => called.Contains(c.Number)).ThenBy(c => c.Number).Select(c => (int?)c.Number).FirstOrDefault();
            if (wanted is null)
            {
                Problems["theme"] = "There is no such exercise: diesels are a theme of their own. Choose another engine or theme.";
            }
        }
        if (Problems.Count == 0 && PracticeCases.Find(wanted!.Value) is { } exercise)
        {
            return Redirect($"/practice/{await runs.BeginAsync(Who, exercise, set, clock.GetUtcNow(), cancel)}");
        }
        await LoadAsync(cancel);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    /// <summary>Sets an exercise for somebody, or for everyone.</summary>
    public async Task<IActionResult> OnPostSetAsync(string? number, int? person, string? due, string? says, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return new StatusCodeResult(StatusCodes.Status403Forbidden);
        }
        var fields = new TypedFields();
        var wanted = fields.Whole(number, "set-number", 1, PracticeCases.Count);
        var text = fields.Text(says, "set-says", PracticeStore.LongestSays);
        var day = fields.Day(due, "set-due");
        if (wanted is null && fields.Problem("set-number") is null)
        {
            fields.Add("set-number", $"Give the number of an exercise, 1 to {PracticeCases.Count}.");
        }
        if (day < Today)
        {
            fields.Add("set-due", "This day is over. Give one that is still to come.");
        }
        if (fields.Problems.Count == 0)
        {
            DoneBefore = await runs.SetAsync(Who, wanted!.Value, person, day, text, clock.GetUtcNow(), cancel) ? $"Exercise {wanted} is set." : "This person does not work here any more.";
            return Redirect("/practice#set-title");
        }
        foreach (var (field, problem) in fields.Problems)
        {
            Problems[field] = problem;
        }
        await LoadAsync(cancel);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }

    /// <summary>Takes an exercise back that was set.</summary>
    public async Task<IActionResult> OnPostWithdrawAsync(long id, CancellationToken cancel)
    {
        if (!Who.MayManage)
        {
            return new StatusCodeResult(StatusCodes.Status403Forbidden);
        }
        DoneBefore = await runs.WithdrawAsync(Who, id, clock.GetUtcNow(), cancel) ? "No longer set. What was done of it stays." : "It was taken back already.";
        return Redirect("/practice#set-title");
    }

    private async Task LoadAsync(CancellationToken cancel)
    {
        var called = await runs.CalledAsync(Who, cancel);
        var mine = called.Where(p => p.Key.Id == Who.PersonId).SelectMany(p => p).ToList();
        Set = [.. (await runs.SetAsync(Who, Who.PersonId, cancel)).Where(e => !e.DoneBy.Contains(Who.PersonId))];
        Runs = await runs.ListAsync(Who, Who.PersonId, MostRuns, cancel);
        Mine = PracticeStanding.Of(mine);
        Next = PracticeStanding.Next(mine);
        if (Who.MayManage)
        {
            Everyone = [.. called.OrderBy(p => p.Key.Name, StringComparer.CurrentCulture).Select(p => (p.Key.Name, PracticeStanding.Of([.. p])))];
            AllSet = await runs.SetAsync(Who, null, cancel);
            People = [.. (await people.ListAsync(Who, clock.GetUtcNow(), cancel)).Where(p => p.LeftAt is null)];
        }
    }
}
