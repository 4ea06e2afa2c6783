using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Core.Life;
using Zandrik.Core.Records;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Vehicles;

/// <summary>Two tests of an engine side by side, or its latest test against the shop's others of its sheet.</summary>
public sealed class CompareModel(Visitor visitor, EngineStore engines, LifeStore lives) : PageModel
{
    // So many others say what is usual.
    private const int MostOthers = 200;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? First { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Second { get; set; }

    public ShopPerson Who => visitor.Person;

    public KeptEngine Engine { get; private set; } = null!;

    public KeptLife Kept { get; private set; } = null!;

    public PressureUnit Unit => ShopText.UnitOf(Who);

    /// <summary>The comparison of two tests; absent where one is not among this engine's.</summary>
    public TestComparison? Found { get; private set; }

    /// <summary>This engine against the others; absent where that is not asked.</summary>
    public IReadOnlyList<AgainstOthers>? Others { get; private set; }

    /// <summary>How many others there are.</summary>
    public int OthersCount { get; private set; }

    /// <summary>The test that is held against them.</summary>
    public LifeTest? Mine { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await engines.FindAsync(Who, Id, cancel) is not { } engine || await lives.FindAsync(Who, Id, cancel) is not { } kept)
        {
            return NotFound();
        }
        (Engine, Kept) = (engine, kept);
        LifeTest? Of(string? id) => long.TryParse(id, NumberStyles.None, CultureInfo.InvariantCulture, out var row) ? kept.Life.Tests.FirstOrDefault(t => t.Id == row && t.IsCompared) : null;
        Mine = Of(First);
        if (Second == "others")
        {
            Mine = Mine is { Kind: TestKind.Dry } ? Mine : kept.Life.LatestDry;
            var others = (await lives.OthersAsync(Who, Id, MostOthers, cancel)).Select(o => o.Test).ToList();
            OthersCount = others.Count;
            Others = Mine is null ? [] : AgainstOthers.Of(Mine, others);
        }
        else if (Mine is not null && Of(Second) is { } second)
        {
            Found = TestComparison.Of(Mine, second);
        }
        return Page();
    }
}
