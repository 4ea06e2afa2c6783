using Microsoft.AspNetCore.Mvc.RazorPages;
using Zandrik.Storage;
using Zandrik.Storage.Backups;
using Zandrik.Web.Front;

namespace Zandrik.Web.Pages.Shop;

/// <summary>Which backups there are, how old the newest is, and how one is made and restored. None is handed out: keys are in it.</summary>
[ForemanOnly]
public sealed class BackupsModel(Visitor visitor, IConfiguration configuration, TimeProvider clock) : PageModel
{
    // One night may be missed; a second is a reason to look.
    private static readonly TimeSpan TooOld = TimeSpan.FromDays(2);

    public ShopPerson Who => visitor.Person;

    /// <summary>Where they are; absent where none are made by themselves.</summary>
    public string? Folder => configuration["ZANDRIK_BACKUPS"] is { Length: > 0 } folder ? folder : null;

    /// <summary>True where the package is installed, false where it is started out of its folder.</summary>
    public bool IsInstalled => configuration["ZANDRIK_INSTALLED"] is { Length: > 0 };

    public IReadOnlyList<ShelvedBackup> Shelf { get; private set; } = [];

    /// <summary>True where the newest is older than it should be.</summary>
    public bool IsOld => Shelf.Count > 0 && clock.GetUtcNow() - Shelf[0].Made > TooOld;

    public void OnGet() => Shelf = Folder is { } folder ? BackupShelf.List(folder) : [];
}
