using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Safety;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>
/// The crank caller, for two people: one cranks after the count-in, one taps each compression, on a phone of
/// their own if they like. What was counted goes with the cylinder's reading.
/// </summary>
public sealed class CallerModel(Visitor visitor, StepStore steps) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Number { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? Cylinder { get; set; }

    public Job Job { get; private set; } = null!;

    /// <summary>What is locked: nothing is cranked under air, and nothing written on a closed job.</summary>
    public JobSafety Safety { get; private set; } = null!;

    public IReadOnlyList<int> Order { get; private set; } = [];

    public long? TestId { get; private set; }

    /// <summary>The count of the cylinders before; absent for the first.</summary>
    public int? Target { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await steps.StateAsync(visitor.Person, Number, cancel) is not { Job: var job } standing)
        {
            return NotFound();
        }
        (Job, Safety) = (job, standing.Safety);
        var latest = job.LatestDry;
        TestId = latest.Test is null ? null : latest.Id;
        Order = latest.Test?.TestOrder ?? [.. Enumerable.Range(1, job.Record.Engine.Cylinders)];
        var counts = (latest.Test?.Readings ?? []).ToDictionary(r => r.Cylinder, r => r.Pulses);
        Target = counts.Values.Max();
        if (Cylinder is not { } c || !Order.Contains(c))
        {
            Cylinder = Order.FirstOrDefault(o => counts.GetValueOrDefault(o) is null, Order[0]);
        }
        return Page();
    }
}
