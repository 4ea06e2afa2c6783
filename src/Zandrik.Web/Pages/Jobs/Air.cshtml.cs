using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.AirPaths;
using Zandrik.Core.Compression;
using Zandrik.Core.Diagnosis;
using Zandrik.Core.LeakDown;
using Zandrik.Core.Records;
using Zandrik.Core.Simulation;
using Zandrik.Core.Units;
using Zandrik.Storage;
using Zandrik.Web.Drawings;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>Where the air of each cylinder goes: the leak areas that explain the readings of a job, drawn, and what the model would read if they were others. It explains; the judgement judges.</summary>
public sealed class AirModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "air";

    protected override string Part => "_Air";

    /// <summary>The fit; absent where there are not yet readings of two kinds of test.</summary>
    public AirFit? Fit { get; private set; }

    /// <summary>The cylinder that is shown; the one that lets by most unless one is chosen.</summary>
    public FittedCylinder At { get; private set; } = null!;

    /// <summary>What the judgement says of it.</summary>
    public CylinderDiagnosis Judged => Assessment.Diagnosis.Cylinders[At.Cylinder - 1];

    /// <summary>How the cylinder is set, from the sliders.</summary>
    [BindProperty(SupportsGet = true)]
    public AirSliders Set { get; set; } = new();

    /// <summary>True when somebody moved a slider.</summary>
    public bool Moved { get; private set; }

    /// <summary>What the model reads as it was fitted, and as it is set.</summary>
    public (WhatIfReadings Fitted, WhatIfReadings Set) Read { get; private set; }

    /// <summary>Its neighbours, front first.</summary>
    public IReadOnlyList<int> Beside => [.. new[] { Neighbours.Of(Engine, At.Cylinder).Before, Neighbours.Of(Engine, At.Cylinder).Behind }.OfType<int>()];

    /// <summary>True where the engine has a throttle plate that may be left shut.</summary>
    public bool HasThrottle => Engine.Fuel != Fuel.Diesel && Engine.Throttle != ThrottleControl.None;

    /// <summary>The arrows of the cylinder as it was fitted.</summary>
    public IReadOnlyList<AirArrow> Arrows => [.. At.AsShown.Select(p => new AirArrow(p.Path.Path, p.Path.To, p.Mm2, p.More))];

    /// <summary>The arrows of the cylinder as it is set.</summary>
    public IReadOnlyList<AirArrow> SetArrows
    {
        get
        {
            var set = Set.Of(Beside);
            var usual = At.Paths.Where(p => p.UsualMm2 > 0).ToDictionary(p => p.Path, p => p.UsualMm2);
            return [.. set.Mm2.Select(p => new AirArrow(p.Key, null, p.Value, p.Value > 2 * usual.GetValueOrDefault(p.Key))), .. set.ToNeighbours.Select(n => new AirArrow(LeakPlace.Neighbour, n.Key, n.Value, true))];
        }
    }

    /// <summary>Where fit and judgement do not say the same of the cylinder; absent where they do.</summary>
    public string? Differs
    {
        get
        {
            var leading = Judged.Leading;
            return At.Agrees(leading.Fault) ? null : $"These areas {(At.Main is { } main ? $"have its air go {AirSection.Name(main.Path, main.To)}" : At.PlaceIsOpen ? "have it leak somewhere" : "find no leak beyond a sound cylinder's")}; the judgement leads with {FaultWords.Of(leading.Fault, leading.With, At.Cylinder)}, {ShopText.Percent(leading.Probability)} %. Go by the judgement: it also weighs what was seen, plugs and slips of the test.";
        }
    }

    /// <summary>A pressure in the unit the job is shown in.</summary>
    public string Pressure(double psi) => $"{new GaugePressure(psi, PressureUnit.Psi).Text(Unit)} {Unit.Symbol()}";

    protected override string Here => Address + "?cylinder=" + At.Cylinder;

    /// <summary>The readings of the model for the sliders, and its arrows.</summary>
    public async Task<IActionResult> OnGetWhatIfAsync(CancellationToken cancel)
    {
        if (!await FindAsync(cancel) || Fit is null)
        {
            return NotFound();
        }
        return Request.IsHtmx() ? Partial("_AirWhatIf", this) : Page();
    }

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        Fit = Assessment.Air;
        if (Fit is null)
        {
            return true;
        }
        At = Cylinder is { } c && c >= 1 && c <= Fit.Cylinders.Count ? Fit.Cylinders[c - 1] : Fit.Cylinders.MaxBy(x => (x.Main is { } m ? 1 + m.Mm2 - m.UsualMm2 : 0) + x.Leaks + 0.5 * x.Otherwise)!;
        var fitted = WhatIf.Of(At);
        // Until a slider is moved nothing differs from what was fitted, not even by where sliders can stand.
        Moved = Set.IsSet;
        Set = Moved ? Set : AirSliders.Of(fitted, Beside);
        var read = Moved ? WhatIfReadings.Of(Fit, Engine, At.Cylinder, OilAmount.For(Engine).Ml, fitted, Set.Of(Beside)) : WhatIfReadings.Of(Fit, Engine, At.Cylinder, OilAmount.For(Engine).Ml, fitted);
        Read = (read[0], read[^1]);
        return true;
    }
}
