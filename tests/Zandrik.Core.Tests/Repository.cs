namespace Zandrik.Tests;

/// <summary>The checkout the tests run in.</summary>
internal static class Repository
{
    internal static string Root { get; } = Find();

    private static string Find()
    {
        var folder = AppContext.BaseDirectory;
        while (folder is not null && !File.Exists(Path.Combine(folder, "Zandrik.slnx")))
        {
            folder = Path.GetDirectoryName(folder);
        }
        return folder ?? throw new InvalidOperationException("The tests do not run inside a checkout.");
    }
}
