using Dapper;
using Npgsql;

namespace Zandrik.Storage.Backups;

/// <summary>Adds up every table, so that what was restored can be held against what was saved.</summary>
internal static class TableSums
{
    // A row's text depends on these.
    public const string Settings = "set datestyle = 'ISO, MDY'; set timezone = 'UTC'; set intervalstyle = 'postgres'; set extra_float_digits = 1; set bytea_output = 'hex'";

    public static async Task<IReadOnlyList<TableSum>> OfAsync(NpgsqlConnection connection, CancellationToken cancel)
    {
        await connection.ExecuteAsync(new CommandDefinition(Settings, cancellationToken: cancel));
        var tables = await connection.QueryAsync<(string Schema, string Name)>(new CommandDefinition("""
            select n.nspname, c.relname from pg_class c join pg_namespace n on n.oid = c.relnamespace
            where c.relkind = 'r' and c.relpersistence <> 't' and n.nspname not in ('pg_catalog', 'information_schema') order by 1, 2
            """, cancellationToken: cancel));
        var sums = new List<TableSum>();
        foreach (var (schema, name) in tables.ToList())
        {
            static string Quoted(string word) => $"\"{word.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
            var (rows, sum) = await connection.QuerySingleAsync<(long, string)>(new CommandDefinition(
                $"select count(*), coalesce(sum(('x' || substr(md5(t::text), 1, 15))::bit(60)::bigint::numeric), 0)::text from {Quoted(schema)}.{Quoted(name)} t", commandTimeout: 0, cancellationToken: cancel));
            sums.Add(new TableSum(schema == "public" ? name : $"{schema}.{name}", rows, sum));
        }
        return sums;
    }
}
