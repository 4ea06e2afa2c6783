using System.Data;
using System.Formats.Tar;
using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Dapper;
using Npgsql;

namespace Zandrik.Storage.Backups;

/// <summary>
/// Backups: one file with everything a workshop has, as it stood at one moment, made while people work; and the way back
/// into an empty place, looked over before anything is written. The file is a tar: the manifest first, then the database's
/// dump (captures, pictures and keys are in it), then the certificates of the network.
/// </summary>
public static class Backup
{
    /// <summary>How a backup's name ends.</summary>
    public const string Ending = ".zandrik-backup";

    private const string Certificates = "tls/";

    /// <summary>Makes a backup.</summary>
    /// <param name="ownerConnection">Connection string of the owner: row-level security hides rows from everybody else.</param>
    /// <param name="folder">Where to; made when it is not there.</param>
    /// <param name="program">The version of the program, as in 0.2.0.</param>
    /// <param name="certificates">The folder of the network's certificates; absent for none.</param>
    /// <param name="tools">Where pg_dump is; absent for the path.</param>
    /// <param name="now">The time, for the name.</param>
    /// <param name="cancel">Ends it; nothing is left behind.</param>
    /// <returns>The path of the file, which only its owner may read.</returns>
    /// <exception cref="BackupException">It could not be made; the message says why.</exception>
    public static async Task<string> MakeAsync(string ownerConnection, string folder, string program, string? certificates, string? tools, DateTimeOffset now, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var name = string.Create(CultureInfo.InvariantCulture, $"{now.UtcDateTime:yyyy-MM-dd'T'HHmmss'Z'}{Ending}");
        var (part, dump, path) = (Path.Combine(folder, $".{name}.part"), Path.Combine(folder, $".{name}.dump"), Path.Combine(folder, name));
        try
        {
            await using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(ownerConnection) { Pooling = false }.ConnectionString);
            await connection.OpenAsync(cancel);
            // What is added up is what is dumped: both see the same moment.
            await connection.ExecuteAsync(new CommandDefinition("begin isolation level repeatable read read only", cancellationToken: cancel));
            var snapshot = await connection.ExecuteScalarAsync<string>(new CommandDefinition("select pg_export_snapshot()", cancellationToken: cancel));
            var made = await connection.ExecuteScalarAsync<DateTime>(new CommandDefinition("select now()", cancellationToken: cancel));
            var schema = await connection.ExecuteScalarAsync<string>(new CommandDefinition("select max(scriptname) from schemaversions", cancellationToken: cancel));
            CreatePrivate(dump).Dispose();
            await new PostgresTool(tools).RunAsync("pg_dump", ownerConnection, ["-Fc", "-Z", "4", "--no-owner", $"--snapshot={snapshot}", "-f", dump], cancel);
            var sums = await TableSums.OfAsync(connection, cancel);
            var server = connection.ServerVersion;
            await connection.ExecuteAsync(new CommandDefinition("commit", cancellationToken: cancel));

            List<(string Name, string Path)> files = [(BackupManifest.Dump, dump), .. certificates is not null && Directory.Exists(certificates) ? Directory.GetFiles(certificates).Order(StringComparer.Ordinal).Select(f => (Certificates + Path.GetFileName(f), f)) : []];
            var members = new List<BackupMember>();
            foreach (var (member, file) in files)
            {
                await using var stream = File.OpenRead(file);
                members.Add(new BackupMember(member, stream.Length, Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel))));
            }
            var manifest = new BackupManifest
            {
                Format = BackupManifest.FormatWord, Version = BackupManifest.CurrentVersion, Program = program, Schema = Migrator.ShortName(schema ?? ""),
                Made = new DateTimeOffset(DateTime.SpecifyKind(made, DateTimeKind.Utc)), Database = server.Split(' ')[0], Tables = sums, Members = members,
            };
            await using (var file = CreatePrivate(part))
            {
                await using (var tar = new TarWriter(file, TarEntryFormat.Pax, leaveOpen: true))
                {
                    using var first = new MemoryStream(JsonSerializer.SerializeToUtf8Bytes(manifest, BackupManifest.Json));
                    await tar.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, BackupManifest.Name) { DataStream = first, Mode = UnixFileMode.UserRead | UnixFileMode.UserWrite }, cancel);
                    foreach (var (member, source) in files)
                    {
                        await using var data = File.OpenRead(source);
                        await tar.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, member) { DataStream = data, Mode = UnixFileMode.UserRead | UnixFileMode.UserWrite }, cancel);
                    }
                }
                // On the disk before it has its name: a backup that is there is whole.
                file.Flush(flushToDisk: true);
            }
            File.Move(part, path, overwrite: true);
            return path;
        }
        catch (Exception broken) when (broken is IOException or UnauthorizedAccessException or NpgsqlException)
        {
            throw new BackupException($"The backup was not made: {broken.Message}", broken);
        }
        finally
        {
            File.Delete(part);
            File.Delete(dump);
        }
    }

    /// <summary>Looks a backup over: whether it is one, whole, undamaged, and of a program this one can follow.</summary>
    /// <param name="path">The file.</param>
    /// <param name="unpackTo">Where its members are put on the way; absent to look only.</param>
    /// <param name="cancel">Ends it.</param>
    /// <returns>Its manifest.</returns>
    /// <exception cref="BackupException">What is wrong with it.</exception>
    public static async Task<BackupManifest> VerifyAsync(string path, string? unpackTo = null, CancellationToken cancel = default)
    {
        try
        {
            await using var file = File.OpenRead(path);
            await using var tar = new TarReader(file);
            TarEntry? first;
            try
            {
                first = await tar.GetNextEntryAsync(cancellationToken: cancel);
            }
            catch (EndOfStreamException)
            {
                throw new BackupException($"{path} is no backup of Zandrik, or was cut off at its very beginning.");
            }
            var manifest = Read(first, path);
            var left = manifest.Members.ToDictionary(m => m.Name);
            while (await tar.GetNextEntryAsync(cancellationToken: cancel) is { } entry)
            {
                if (!left.Remove(entry.Name, out var member) || entry.DataStream is not { } data)
                {
                    throw new BackupException($"{path} holds {entry.Name}, of which its list says nothing: it was changed after it was made. Take another copy.");
                }
                if (await HashAsync(data, unpackTo is null ? null : Path.Combine(unpackTo, entry.Name), cancel) is var (bytes, sum) && (bytes != member.Bytes || sum != member.Sha256))
                {
                    throw bytes < member.Bytes ? CutOff(path, null) : new BackupException($"{entry.Name} in {path} is damaged: its checksum is another. Take another copy, or an older backup.");
                }
            }
            return left.Count == 0 ? manifest : throw CutOff(path, left.Keys.First());
        }
        catch (Exception cut) when (cut is EndOfStreamException)
        {
            throw CutOff(path, null);
        }
        catch (Exception broken) when (broken is InvalidDataException or JsonException or FormatException)
        {
            throw new BackupException($"{path} is no backup of Zandrik, or is damaged: {broken.Message}", broken);
        }
        catch (Exception broken) when (broken is IOException or UnauthorizedAccessException)
        {
            throw new BackupException($"{path} cannot be read: {broken.Message}", broken);
        }
    }

    /// <summary>
    /// Restores a backup into a database that is not there yet, or is there and empty; anything wrong, and it is so afterwards too.
    /// </summary>
    /// <param name="path">The file.</param>
    /// <param name="ownerConnection">Connection string of the owner; its database is made where it is not there.</param>
    /// <param name="certificates">Where the network's certificates go; absent to leave them out.</param>
    /// <param name="tools">Where pg_restore is; absent for the path.</param>
    /// <param name="says">Told what is being done.</param>
    /// <param name="cancel">Ends it.</param>
    /// <returns>Its manifest. The schema is the one it was made with: migrate next.</returns>
    /// <exception cref="BackupException">What is wrong.</exception>
    public static async Task<BackupManifest> RestoreAsync(string path, string ownerConnection, string? certificates, string? tools, Action<string>? says = null, CancellationToken cancel = default)
    {
        var to = new NpgsqlConnectionStringBuilder(ownerConnection) { Pooling = false };
        var name = to.Database!;
        var server = new NpgsqlConnectionStringBuilder(to.ConnectionString) { Database = "postgres" }.ConnectionString;
        var unpacked = Directory.CreateTempSubdirectory("zandrik-restore-").FullName;
        // How what was begun is taken back: nothing, while nothing was.
        (string In, string Command)? undo = null;
        try
        {
            says?.Invoke("Looking the backup over …");
            Directory.CreateDirectory(Path.Combine(unpacked, Certificates));
            var manifest = await VerifyAsync(path, unpacked, cancel);
            if (await HasTablesAsync(to.ConnectionString, cancel) is { } hasTables)
            {
                if (hasTables)
                {
                    throw new BackupException($"There is a database {name} already, with tables in it. A backup is restored into an empty place only: name another folder, or put that one away first.");
                }
                // Somebody made it for us, on a server where we may make none: it stays, as empty as it was.
                undo = (to.ConnectionString, """
                    do $$ declare s text; begin
                        for s in select nspname from pg_namespace where nspname !~ '^pg_' and nspname <> 'information_schema' loop
                            execute format('drop schema %I cascade', s);
                        end loop;
                    end $$;
                    create schema public;
                    grant usage on schema public to public;
                    """);
            }
            else
            {
                await using var connection = new NpgsqlConnection(server);
                await connection.OpenAsync(cancel);
                await connection.ExecuteAsync(new CommandDefinition($"create database {Quoted(name)}", cancellationToken: cancel));
                undo = (server, $"drop database if exists {Quoted(name)} with (force)");
            }
            says?.Invoke("Restoring the database …");
            await new PostgresTool(tools).RunAsync("pg_restore", ownerConnection, ["--no-owner", "--exit-on-error", "-j", $"{Math.Clamp(Environment.ProcessorCount, 1, 4)}", Path.Combine(unpacked, BackupManifest.Dump)], cancel);
            says?.Invoke("Comparing every table with the backup …");
            await using (var connection = new NpgsqlConnection(to.ConnectionString))
            {
                await connection.OpenAsync(cancel);
                var there = await TableSums.OfAsync(connection, cancel);
                if (manifest.Tables.FirstOrDefault(t => !there.Contains(t)) is { } wrong)
                {
                    throw new BackupException($"Table {wrong.Table} is not what was saved ({there.FirstOrDefault(t => t.Table == wrong.Table)?.Rows ?? 0} rows, saved {wrong.Rows}). Nothing is kept of this restore.");
                }
                await connection.ExecuteAsync(new CommandDefinition("analyze", commandTimeout: 0, commandType: CommandType.Text, cancellationToken: cancel));
            }
            if (certificates is not null && Directory.GetFiles(Path.Combine(unpacked, Certificates)) is { Length: > 0 } files)
            {
                _ = OperatingSystem.IsWindows() ? Directory.CreateDirectory(certificates) : Directory.CreateDirectory(certificates, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
                foreach (var file in files)
                {
                    File.Copy(file, Path.Combine(certificates, Path.GetFileName(file)), overwrite: true);
                }
            }
            undo = null;
            return manifest;
        }
        catch (NpgsqlException broken)
        {
            throw new BackupException($"The backup was not restored: {broken.Message}", broken);
        }
        finally
        {
            Directory.Delete(unpacked, recursive: true);
            if (undo is { } back)
            {
                await using var connection = new NpgsqlConnection(back.In);
                await connection.OpenAsync(CancellationToken.None);
                await connection.ExecuteAsync(back.Command);
            }
        }
    }

    private static string Quoted(string name) => $"\"{name.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";

    // Nothing where there is no such database. What extensions brought along counts as empty.
    private static async Task<bool?> HasTablesAsync(string connectionString, CancellationToken cancel)
    {
        await using var connection = new NpgsqlConnection(connectionString);
        try
        {
            await connection.OpenAsync(cancel);
        }
        catch (PostgresException missing) when (missing.SqlState == PostgresErrorCodes.InvalidCatalogName)
        {
            return null;
        }
        return await connection.ExecuteScalarAsync<bool>(new CommandDefinition("""
            select exists (select 1 from pg_class c where c.relkind in ('r', 'p') and c.relnamespace = 'public'::regnamespace
                and not exists (select 1 from pg_depend d where d.objid = c.oid and d.classid = 'pg_class'::regclass and d.deptype = 'e'))
            """, cancellationToken: cancel));
    }

    private static BackupManifest Read(TarEntry? first, string path)
    {
        if (first is not { Name: BackupManifest.Name, DataStream: { } data, Length: < 10_000_000 } || JsonSerializer.Deserialize<BackupManifest>(data, BackupManifest.Json) is not { Format: BackupManifest.FormatWord } manifest)
        {
            throw new BackupException($"{path} is no backup of Zandrik. Those end in {Ending}.");
        }
        if (manifest.Version > BackupManifest.CurrentVersion || !Migrator.Knows(manifest.Schema))
        {
            throw new BackupException($"{path} was made by a newer Zandrik ({manifest.Program}, {manifest.Schema}), which this one does not know. Restore it with that one.");
        }
        return manifest.Members.Any(m => m.Name == BackupManifest.Dump) && manifest.Members.All(m => IsPlain(m.Name)) ? manifest : throw new BackupException($"{path} holds no database. Take another copy, or an older backup.");
    }

    // The dump, or a file right in the folder of the certificates: nothing that leads out of where it is unpacked.
    private static bool IsPlain(string name) =>
        name == BackupManifest.Dump || (name.StartsWith(Certificates, StringComparison.Ordinal) && name[Certificates.Length..] is { Length: > 0 } file && file == Path.GetFileName(file) && file is not ("." or ".."));

    private static BackupException CutOff(string path, string? missing) =>
        new($"{path} ends too early{(missing is null ? "" : $" ({missing} is missing)")}: it was cut off while it was copied. Take another copy, or an older backup.");

    private static async Task<(long Bytes, string Sha256)> HashAsync(Stream data, string? copyTo, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        await using var copy = copyTo is null ? Stream.Null : CreatePrivate(copyTo);
        var buffer = new byte[1 << 17];
        long bytes = 0;
        for (int read; (read = await data.ReadAsync(buffer, cancel)) > 0; bytes += read)
        {
            hash.AppendData(buffer.AsSpan(0, read));
            await copy.WriteAsync(buffer.AsMemory(0, read), cancel);
        }
        return (bytes, Convert.ToHexStringLower(hash.GetHashAndReset()));
    }

    // Password hashes and keys are in it: for its owner's eyes only, from the first byte.
    private static FileStream CreatePrivate(string path)
    {
        var how = new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
        {
            how.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        }
        return new FileStream(path, how);
    }
}
