using System.Text.Json;
using System.Text.Json.Serialization;

namespace Zandrik.Storage.Backups;

/// <summary>What a backup holds, as it stands in its first member.</summary>
public sealed record BackupManifest
{
    /// <summary>The word every backup begins with.</summary>
    public const string FormatWord = "zandrik-backup";

    /// <summary>The version this program writes, and the highest it reads.</summary>
    public const int CurrentVersion = 1;

    /// <summary>The name of the manifest in the file.</summary>
    public const string Name = "manifest.json";

    /// <summary>The name of the database's dump in the file.</summary>
    public const string Dump = "database.dump";

    /// <summary><see cref="FormatWord"/>.</summary>
    public string Format { get; init; } = "";

    /// <summary>The version of the format.</summary>
    public int Version { get; init; }

    /// <summary>The program that made it, as in 0.2.0.</summary>
    public string Program { get; init; } = "";

    /// <summary>The last migration of its database, as in 0020-sessions.sql.</summary>
    public string Schema { get; init; } = "";

    /// <summary>When: the moment whose state it holds, UTC.</summary>
    public DateTimeOffset Made { get; init; }

    /// <summary>The server version of the database it was made from, as in 15.9.</summary>
    public string Database { get; init; } = "";

    /// <summary>Every table with its rows and their sum, to hold against what was restored.</summary>
    public IReadOnlyList<TableSum> Tables { get; init; } = [];

    /// <summary>Every other member of the file.</summary>
    public IReadOnlyList<BackupMember> Members { get; init; } = [];

    internal static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };
}

/// <summary>One table of a backup.</summary>
/// <param name="Table">Its name.</param>
/// <param name="Rows">How many rows.</param>
/// <param name="Sum">The sum over its rows of the first 60 bits of each row's MD5, decimal; the order of the rows does not matter.</param>
public sealed record TableSum(string Table, long Rows, string Sum);

/// <summary>One member of a backup beside the manifest.</summary>
/// <param name="Name">Its name in the file.</param>
/// <param name="Bytes">How long it is.</param>
/// <param name="Sha256">Its SHA-256, 64 hexadecimal digits.</param>
public sealed record BackupMember(string Name, long Bytes, string Sha256);

/// <summary>A backup that is not restored, with what is wrong and what to do.</summary>
public sealed class BackupException : Exception
{
    /// <summary>Without a reason; of no use to anybody.</summary>
    public BackupException()
    {
    }

    /// <summary>With what is wrong and what to do.</summary>
    public BackupException(string message)
        : base(message)
    {
    }

    /// <summary>With what is wrong and what was thrown.</summary>
    public BackupException(string message, Exception inner)
        : base(message, inner)
    {
    }
}
