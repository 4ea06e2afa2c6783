using System.Text;
using Microsoft.AspNetCore.Mvc;
using Zandrik.Core.Records;

namespace Zandrik.Web.Front;

/// <summary>A list as a CSV file to take along.</summary>
public static class CsvAnswer
{
    /// <summary>Most rows in one file.</summary>
    public const int MostRows = 20_000;

    /// <summary>The file. It begins with the mark by which spreadsheets know UTF-8.</summary>
    public static FileContentResult Of(string name, IReadOnlyList<string> headers, IEnumerable<IReadOnlyList<string?>> rows) => Of(name, CsvText.Write(headers, rows));

    /// <summary>The same of a text that is CSV already.</summary>
    public static FileContentResult Of(string name, string csv) =>
        new([.. Encoding.UTF8.Preamble, .. Encoding.UTF8.GetBytes(csv)], "text/csv") { FileDownloadName = $"zandrik-{name}.csv" };
}
