using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Plugs;
using Zandrik.Core.Records;
using Zandrik.Storage;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Jobs;

/// <summary>The plugs, read as they come out: signs, smell, keep or replace, a photo.</summary>
[RequestSizeLimit(PlugPicture.LargestFile + 1024 * 1024)]
public sealed class PlugsModel(Visitor visitor, WorkspaceStore workspaces, StepStore steps, PlugStore plugs, PhotoDesk desk, TimeProvider clock) : StepPage(visitor, workspaces, steps, clock)
{
    protected override string Step => "plugs";

    protected override string Part => "_Plugs";

    /// <summary>The plug that is read.</summary>
    public int At { get; private set; } = 1;

    /// <summary>What is kept of each plug.</summary>
    public IReadOnlyDictionary<int, PlugReading> Readings { get; private set; } = new Dictionary<int, PlugReading>();

    public ILookup<int, PlugPhoto> Photos { get; private set; } = Array.Empty<PlugPhoto>().ToLookup(p => p.Cylinder);

    /// <summary>What was tapped and not taken, shown again; absent for none.</summary>
    public PlugReading? Typed { get; private set; }

    protected override string Here => $"{Address}?cylinder={At}";

    /// <summary>What is seen on one plug.</summary>
    public async Task<IActionResult> OnPostAsync(List<string> signs, string? smell, string? keep, string? says, string? entry, string? at, CancellationToken cancel)
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
        var words = fields.Text(says, "says", 500);
        var reading = new PlugReading { Cylinder = At, Signs = seen.Count > 0 ? seen : null, Smell = smells, Says = words, Keep = keep switch { "keep" => true, "replace" => false, _ => null } };
        if (seen.Count == 0 && smells is null && words is null && reading.Keep is null && fields.Problems.Count == 0)
        {
            fields.Add("signs", "Tap what you see on the plug.");
        }
        if (fields.Problems.Count > 0)
        {
            // What was tapped stays tapped.
            Typed = reading with { Smell = smell, Says = says };
            return await RefuseAsync(string.Join(" ", fields.Problems.Values), fields.Problems.Keys.First(), cancel);
        }
        var when = TypedAt.Of(at, Clock);
        var answer = await Steps.KeepAsync<PlugInspection, PlugReading>(Who, Number, At, _ => new PlugInspection(), (_, _, _) => (reading with { At = when, By = Who.Person }, null),
            Key(entry, $"plug|{At}|{string.Join(' ', seen)}|{smells}|{words}|{keep}"), when, cancel: cancel);
        var read = At;
        if (answer is { Found: true, Refused: null })
        {
            Cylinder = Enumerable.Range(1, Engine.Cylinders).Select(i => (read - 1 + i) % Engine.Cylinders + 1).FirstOrDefault(c => c != read && !Readings.ContainsKey(c), read);
            At = Cylinder.Value;
        }
        return await AnswerAsync(answer, $"Plug {read} saved.", cancel);
    }

    /// <summary>A photo of the plug.</summary>
    public async Task<IActionResult> OnPostPhotoAsync(IFormFile? photo, CancellationToken cancel)
    {
        if (!await FindAsync(cancel))
        {
            return NotFound();
        }
        if (Safety.ForbidsWriting is { } closed)
        {
            return await RefuseAsync(closed, null, cancel);
        }
        if (photo is not { Length: > 0 })
        {
            return await RefuseAsync("Choose a photo first.", "photo", cancel);
        }
        if (photo.Length > PlugPicture.LargestFile)
        {
            return await RefuseAsync("The photo is larger than 12 MB: take a smaller one.", "photo", cancel);
        }
        var (picture, wrong) = await desk.ReadAsync(photo, cancel);
        if (picture is null)
        {
            return await RefuseAsync(wrong!, "photo", cancel);
        }
        return await plugs.AddPhotoAsync(Who, Number, At, picture.Picture, picture.Thumbnail, picture.Width, picture.Height, Clock.GetUtcNow(), cancel) is null ? NotFound() : await AfterAsync($"Photo of plug {At} saved.", cancel);
    }

    public async Task<IActionResult> OnPostRemoveAsync(long photo, CancellationToken cancel)
    {
        await plugs.RemovePhotoAsync(Who, Number, photo, Clock.GetUtcNow(), cancel);
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

    protected override async Task<bool> FindAsync(CancellationToken cancel)
    {
        if (!await LoadAsync(cancel))
        {
            return false;
        }
        var readings = (Job.Record.Tests ?? []).OfType<PlugInspection>().SelectMany(t => t.Readings ?? []);
        Readings = readings.GroupBy(r => r.Cylinder).ToDictionary(g => g.Key, g => g.Last());
        Photos = await plugs.PhotosAsync(Who, Number, cancel);
        At = Cylinder is { } c && c >= 1 && c <= Engine.Cylinders ? c : Enumerable.Range(1, Engine.Cylinders).FirstOrDefault(x => !Readings.ContainsKey(x), 1);
        return true;
    }
}
