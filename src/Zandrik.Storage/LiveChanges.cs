using System.Globalization;
using Npgsql;

namespace Zandrik.Storage;

/// <summary>A change on a job, as the database tells it.</summary>
/// <param name="Shop">The shop.</param>
/// <param name="Job">The job's number.</param>
/// <param name="Row">Row of the reading that was added; 0 for anything else.</param>
public readonly record struct JobChange(int Shop, int Job, long Row);

/// <summary>
/// Listens for changes on jobs, on a connection of its own. PostgreSQL tells every copy of the server, so it
/// does not matter which of them a person is connected to.
/// </summary>
public sealed class LiveChanges(ShopDatabase database)
{
    /// <summary>Tells each change until cancelled or the connection breaks.</summary>
    /// <param name="listening">Called once the connection listens: changes from here on are told.</param>
    /// <param name="told">Called for each change, on the listening thread; it must be quick.</param>
    /// <param name="cancel">Ends it.</param>
    /// <exception cref="NpgsqlException">The connection broke: changes may have been missed.</exception>
    public async Task ListenAsync(Action listening, Action<JobChange> told, CancellationToken cancel)
    {
        await using var connection = new NpgsqlConnection(database.AloneConnectionString);
        connection.Notification += (_, e) =>
        {
            var parts = e.Payload.Split(' ');
            if (parts.Length == 3
                && int.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out var shop)
                && int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var job)
                && long.TryParse(parts[2], NumberStyles.None, CultureInfo.InvariantCulture, out var row))
            {
                told(new JobChange(shop, job, row));
            }
        };
        await connection.OpenAsync(cancel);
        await using (var listen = new NpgsqlCommand("listen zandrik_job", connection))
        {
            await listen.ExecuteNonQueryAsync(cancel);
        }
        listening();
        while (true)
        {
            await connection.WaitAsync(cancel);
        }
    }
}
