using System.Security.Cryptography;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Starting;
using Microsoft.AspNetCore.Identity;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage.Mirror;

/// <summary>What was made anew.</summary>
/// <param name="Rows">Rows by table.</param>
/// <param name="Left">Rows that did not fit: their table and key, and why.</param>
/// <param name="Missing">Saves whose content is not in the store, by exact name or the name that they came under.</param>
/// <param name="Unnamed">Contents that no save names; they can be had by their hash.</param>
/// <param name="SetAside">Where what was in the database's place lies now; null where nothing was.</param>
/// <param name="Passwords">By initials, the first passwords of owners; everyone else gets one from an owner.</param>
public sealed record Rebuilt(
    IReadOnlyDictionary<string, int> Rows,
    IReadOnlyList<string> Left,
    IReadOnlyList<string> Missing,
    int Unnamed,
    string? SetAside,
    IReadOnlyDictionary<string, string> Passwords
);

/// <summary>Makes a studio's database anew from what the content store keeps of its records.</summary>
public sealed class StudioRebuild(DataFolder data, ContentStore store, TimeProvider time)
{
    /// <exception cref="StudioUnusableException">The database that is there is whole, or the store tells of no studio.</exception>
    public async Task<Rebuilt> RunAsync(bool evenIfSound, CancellationToken cancel = default)
    {
        var file = new DatabaseFile(data.Database, time);
        if (!evenIfSound && file.Look(out _) == DatabaseState.Sound)
            throw new StudioUnusableException(
                $"The records in {data.Database} are whole, so nothing was done. Where they are the wrong ones, add --replace: they "
                    + $"are set aside, not deleted."
            );
        var all = store.ReadNotes().Select(RecordNote.Read).OfType<RecordNote>().ToList();
        var notes = all.Where(n => n.Row is not null).ToLookup(n => n.Table);
        if (notes["Studio"].FirstOrDefault() is null)
            throw new StudioUnusableException(
                $"The content in {data.Content} tells of no studio, so nothing was done. Restore the folder from a backup; single "
                    + $"contents can be had with ./chronotype content get."
            );
        var (rows, left) = (new Dictionary<string, int>(), new List<string>());
        var passwords = new Dictionary<string, string>();
        // Made and filled beside its place first, so that a failure leaves what is there as it is.
        string? aside = null;
        await file.MakeAsync(
            async db =>
            {
                await db.Database.OpenConnectionAsync(cancel);
                var connection = (SqliteConnection)db.Database.GetDbConnection();
                RecordMirror.Run(connection, "PRAGMA foreign_keys=OFF");
                using (var transaction = connection.BeginTransaction())
                {
                    // All of it is there already, as notes.
                    foreach (var table in MirroredTable.All)
                        rows[table.Name] = RecordRows.Fill(connection, table, notes[table.Name], left);
                    RecordMirror.NoteBeyond(connection, all.Max(n => n.Number));
                    transaction.Commit();
                }
                await GivePasswordsAsync(db, passwords, cancel);
                aside = file.SetAside();
            },
            cancel
        );
        await using var made = file.Context(data.Database);
        var files = await made
            .SaveFiles.Join(made.Saves, f => f.SaveId, s => s.Id, (f, s) => new { f.Hash, Name = s.ExactName ?? s.ReceivedName })
            .Concat(made.FileContents.Select(c => new { c.Hash, Name = c.ReceivedName }))
            .ToListAsync(cancel);
        var missing = files.Where(f => !store.Has(f.Hash)).Select(f => f.Name).Distinct().ToList();
        var named = files.Select(f => f.Hash).ToHashSet();
        return new Rebuilt(rows, left, missing, store.Maintenance.Contents().Count(c => !named.Contains(c.Hash)), aside, passwords);
    }

    private static async Task GivePasswordsAsync(StudioDb db, Dictionary<string, string> passwords, CancellationToken cancel)
    {
        foreach (var person in await db.Users.ToListAsync(cancel))
        {
            person.SecurityStamp = Guid.NewGuid().ToString("N").ToUpperInvariant();
            person.ConcurrencyStamp = Guid.NewGuid().ToString();
            if (!person.IsOwner)
                continue;
            var password = RandomNumberGenerator.GetString("abcdefghjkmnpqrstuvwxyz23456789", 16);
            person.PasswordHash = new PasswordHasher<Person>().HashPassword(person, password);
            passwords[person.Initials] = password;
        }
        await db.SaveChangesAsync(cancel);
    }
}
