using System.Reflection;

namespace Zandrik.Web.Front;

/// <summary>Which Zandrik this is.</summary>
public static class AppVersion
{
    /// <summary>Major, minor and patch, as in 0.2.0; no unit. From Directory.Build.props, one for all parts.</summary>
    public static string Whole { get; } = Assembly.GetExecutingAssembly().GetName().Version!.ToString(3);

    /// <summary>As people say it: without a patch that is 0, as in 0.2.</summary>
    public static string Short { get; } = Whole.EndsWith(".0", StringComparison.Ordinal) ? Whole[..^2] : Whole;
}
