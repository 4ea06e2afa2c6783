using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Plugs;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The plugs, read as they come out: signs, smell, keep or replace, a photo.</summary>
[RequestSizeLimit(PlugPicture.LargestFile + 1024 * 1024)]
public sealed class PlugsModel(Visitor visitor, WorkspaceStore workspaces, PlugStore plugs, TimeProvider clock) : JobPage(visitor, workspaces)
{
    protected override string Step => "plugs";

    [BindProperty(SupportsGet = true)]
    public int Cylinder { get; set; }

    public IReadOnlyDictionary<int, PlugReading> Readings { get; private set; } = new Dictionary<int, PlugReading>();

    public ILookup<int, PlugPhoto> Photos { get; private set; } = Array.Empty<PlugPhoto>().ToLookup(p => p.Cylinder);

    public string? Problem { get; private set; }

    [TempData]
    public string? Done { get; set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await FindAsync(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(List<string> signs, string? smell, string? keep, string? entry, IFormFile? photo, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        var fields = new TypedFields();
        var seen = signs.Select(s => RecordWords.TryParse<PlugSign>(s, out var sign) ? sign : (PlugSign?)null).OfType<PlugSign>().Distinct().ToList();
        if (PlugSignMeaning.Contradiction(seen) is { } contradiction)
        {
            fields.Add("signs", contradiction);
        }
        var smells = fields.Text(smell, "smell", 200);
        PlugPicture? picture = null;
        if (photo is { Length: > 0 })
        {
            if (photo.Length > PlugPicture.LargestFile)
            {
                fields.Add("photo", "The photo is larger than 12 MB: take a smaller one.");
            }
            else
            {
                using var bytes = new MemoryStream();
                await photo.CopyToAsync(bytes, cancel);
                (picture, var wrong) = PlugPicture.Read(bytes.ToArray());
                if (wrong is not null)
                {
                    fields.Add("photo", wrong);
                }
            }
        }
        if (seen.Count == 0 && smells is null && string.IsNullOrEmpty(keep) && picture is null)
        {
            fields.Add("signs", "Tap what you see on the plug.");
        }
        var reading = new PlugReading { Cylinder = Cylinder, Signs = seen.Count > 0 ? seen : null, Smell = smells, Keep = keep switch { "keep" => true, "replace" => false, _ => null } };
        if (fields.Problems.Count > 0)
        {
            Problem = string.Join(" ", fields.Problems.Values);
            // What was tapped stays tapped.
            Readings = new Dictionary<int, PlugReading>(Readings) { [Cylinder] = reading with { Smell = smell } };
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }
        if (seen.Count > 0 || smells is not null || reading.Keep is not null)
        {
            var key = EntryKey.Of($"{entry}|plug|{Cylinder}|{string.Join(' ', seen)}|{smells}|{keep}");
            if (!await plugs.ReadAsync(Who, Number, reading, key, clock.GetUtcNow(), cancel))
            {
                return NotFound();
            }
        }
        if (picture is not null && await plugs.AddPhotoAsync(Who, Number, Cylinder, picture.Picture, picture.Thumbnail, picture.Width, picture.Height, clock.GetUtcNow(), cancel) is null)
        {
            return NotFound();
        }
        Done = $"Plug {Cylinder} kept.";
        var next = Enumerable.Range(1, Job.Record.Engine.Cylinders).Select(i => (Cylinder - 1 + i) % Job.Record.Engine.Cylinders + 1).FirstOrDefault(c => c != Cylinder && !Readings.ContainsKey(c), Cylinder);
        return Redirect($"/jobs/{Number}/plugs?cylinder={next}");
    }

    public async Task<IActionResult> OnPostRemoveAsync(long photo, CancellationToken cancel)
    {
        await plugs.RemovePhotoAsync(Who, Number, photo, clock.GetUtcNow(), cancel);
        return Redirect($"/jobs/{Number}/plugs?cylinder={Cylinder}");
    }

    /// <summary>The bytes of a photo, which is JPEG whatever was sent.</summary>
    public async Task<IActionResult> OnGetPhotoAsync(long photo, bool small, CancellationToken cancel)
    {
        if (await plugs.BytesAsync(Who, Number, photo, small, cancel) is not { } bytes)
        {
            return NotFound();
        }
        Response.Headers.CacheControl = "private, max-age=86400";
        return File(bytes, "image/jpeg");
    }

    private async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        var readings = (Job.Record.Tests ?? []).OfType<PlugInspection>().SelectMany(t => t.Readings ?? []);
        Readings = readings.GroupBy(r => r.Cylinder).ToDictionary(g => g.Key, g => g.Last());
        Photos = await plugs.PhotosAsync(Who, Number, cancel);
        if (Cylinder < 1 || Cylinder > Job.Record.Engine.Cylinders)
        {
            Cylinder = Enumerable.Range(1, Job.Record.Engine.Cylinders).FirstOrDefault(c => !Readings.ContainsKey(c), 1);
        }
        return true;
    }
}
