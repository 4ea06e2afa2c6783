using Npgsql;

namespace Zandrik.Storage;

/// <summary>Tells a database that serves nobody for the moment from a fault of the program.</summary>
public static class DatabaseAway
{
    // Classes of SQLSTATE: connection, resources (a full disk), the operator, the system, and the database's own faults (a
    // file that does not grow); a database that takes no connections, and one that only reads.
    private static readonly string[] Classes = ["08", "53", "57", "58", "XX"];

    /// <summary>True where what broke, or what it was broken by, says that the database does not answer.</summary>
    /// <param name="broken">What was thrown.</param>
    public static bool Is(Exception broken) => broken switch
    {
        PostgresException said => Classes.Contains(said.SqlState[..2]) || said.SqlState is PostgresErrorCodes.ObjectNotInPrerequisiteState or PostgresErrorCodes.ReadOnlySqlTransaction,
        NpgsqlException => true,
        _ => broken.InnerException is { } inner && Is(inner),
    };
}
