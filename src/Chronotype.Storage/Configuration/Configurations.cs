using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace Chronotype.Storage.Configuration;

internal sealed class PersonConfiguration : IEntityTypeConfiguration<Person>
{
    public void Configure(EntityTypeBuilder<Person> person)
    {
        person.ToTable("People");
        person.Property(p => p.Name).HasMaxLength(120);
        person.Property(p => p.Initials).HasMaxLength(4);
        person.HasIndex(p => p.Initials).IsUnique();
    }
}

internal sealed class ClientConfiguration : IEntityTypeConfiguration<Client>
{
    public void Configure(EntityTypeBuilder<Client> client) => client.HasIndex(c => c.Code).IsUnique();
}

internal sealed class CodeEntryConfiguration : IEntityTypeConfiguration<CodeEntry>
{
    public void Configure(EntityTypeBuilder<CodeEntry> code) => code.HasIndex(c => new { c.List, c.Code }).IsUnique();
}

internal sealed class StudioPlanConfiguration : IEntityTypeConfiguration<StudioPlan>
{
    public void Configure(EntityTypeBuilder<StudioPlan> plan)
    {
        plan.ToTable("Plans");
        plan.HasIndex(p => p.Key).IsUnique();
    }
}

internal sealed class ProjectConfiguration : IEntityTypeConfiguration<Project>
{
    public void Configure(EntityTypeBuilder<Project> project)
    {
        project.Property(p => p.Code).UseCollation("NOCASE");
        project.HasIndex(p => p.Code).IsUnique();
        project.HasQueryFilter(StudioDb.Standing, p => p.DeletedAt == null);
        project.HasOne(p => p.Client).WithMany().HasForeignKey(p => p.ClientId).OnDelete(DeleteBehavior.Restrict);
        project.HasMany(p => p.Entries).WithOne().HasForeignKey(e => e.ProjectId);
    }
}

internal sealed class PieceConfiguration : IEntityTypeConfiguration<Piece>
{
    public void Configure(EntityTypeBuilder<Piece> piece)
    {
        // Windows and macOS take two names that differ only in case for one file.
        piece.Property(p => p.CurrentName).UseCollation("NOCASE");
        piece.HasIndex(p => new { p.ProjectId, p.CurrentName }).IsUnique().HasFilter("\"DeletedAt\" IS NULL");
        // What was deleted is nowhere but where it is asked for.
        piece.HasQueryFilter(StudioDb.Standing, p => p.DeletedAt == null);
        piece.Ignore(p => p.Line);
        piece.HasIndex(p => p.FromEntryId).HasFilter("\"FromEntryId\" IS NOT NULL");
        piece.HasIndex(p => p.FromSaveId).HasFilter("\"FromSaveId\" IS NOT NULL");
        piece.HasMany(p => p.Lines).WithOne().HasForeignKey(l => l.PieceId);
        piece.HasOne(p => p.Project).WithMany(p => p.Pieces).HasForeignKey(p => p.ProjectId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class SaveConfiguration : IEntityTypeConfiguration<Save>
{
    public void Configure(EntityTypeBuilder<Save> save)
    {
        save.HasOne(s => s.Piece).WithMany(p => p.Saves).HasForeignKey(s => s.PieceId).OnDelete(DeleteBehavior.Restrict);
        save.HasMany(s => s.Files).WithOne().HasForeignKey(f => f.SaveId);
        save.HasMany(s => s.Faces).WithOne().HasForeignKey(f => f.SaveId);
        save.HasMany(s => s.Companions).WithOne().HasForeignKey(c => c.SaveId);
        save.Ignore(s => s.SeenHash);
        save.HasOne(s => s.Milestone).WithOne().HasForeignKey<Milestone>(m => m.SaveId).OnDelete(DeleteBehavior.Restrict);
        save.HasOne(s => s.Master).WithOne().HasForeignKey<Master>(m => m.SaveId).OnDelete(DeleteBehavior.Restrict);
        save.HasIndex(s => new { s.PieceId, s.Sequence }).IsUnique();
        // The database itself refuses a number that is used twice.
        save.HasIndex(s => new { s.LineId, s.Number }).IsUnique();
        save.HasOne(s => s.Line).WithMany().HasForeignKey(s => s.LineId).OnDelete(DeleteBehavior.Restrict);
        // Whether a version of the piece holds the same, and what came loose, are asked for every piece of a page.
        save.HasIndex(s => new { s.Identity, s.PieceId });
        save.HasIndex(s => new { s.PieceId, s.Sequence }, "IX_Saves_Loose").HasFilter("Number IS NULL");
        save.HasIndex(s => s.PieceId, "IX_Saves_Current").IsUnique().HasFilter("\"IsCurrent\"");
        save.HasQueryFilter(StudioDb.Standing, s => s.DiscardedAt == null);
    }
}

internal sealed class SaveFileConfiguration : IEntityTypeConfiguration<SaveFile>
{
    // Who else holds a content is asked before it is said what deleting frees.
    public void Configure(EntityTypeBuilder<SaveFile> file) => file.HasIndex(f => f.Hash);
}

internal sealed class FaceConfiguration : IEntityTypeConfiguration<Face>
{
    public void Configure(EntityTypeBuilder<Face> face) => face.HasIndex(f => f.Hash);
}

internal sealed class OutputConfiguration : IEntityTypeConfiguration<Output>
{
    public void Configure(EntityTypeBuilder<Output> output)
    {
        output.HasIndex(o => o.EntryId);
        output.HasIndex(o => o.PieceId);
        output.HasIndex(o => o.SaveId);
        output.HasIndex(o => o.Source);
    }
}

internal sealed class RecipeEntryConfiguration : IEntityTypeConfiguration<RecipeEntry>
{
    public void Configure(EntityTypeBuilder<RecipeEntry> recipe)
    {
        recipe.HasIndex(r => new { r.ProjectId, r.Key }).IsUnique();
        // Nothing equals nothing for an index.
        recipe.HasIndex(r => r.Key, "IX_Recipes_Studio").IsUnique().HasFilter("\"ProjectId\" IS NULL");
    }
}

internal sealed class ColourProfileEntryConfiguration : IEntityTypeConfiguration<ColourProfileEntry>
{
    public void Configure(EntityTypeBuilder<ColourProfileEntry> profile)
    {
        profile.Property(p => p.Name).UseCollation("NOCASE");
        profile.HasIndex(p => p.Name).IsUnique();
        profile.HasIndex(p => p.Hash);
    }
}

internal sealed class SaveCompanionConfiguration : IEntityTypeConfiguration<SaveCompanion>
{
    public void Configure(EntityTypeBuilder<SaveCompanion> companion)
    {
        companion.HasIndex(c => new { c.SaveId, c.EntryId }).IsUnique();
        companion.HasIndex(c => c.EntryId);
        companion.HasIndex(c => c.Hash);
    }
}

internal sealed class LineConfiguration : IEntityTypeConfiguration<Line>
{
    public void Configure(EntityTypeBuilder<Line> line)
    {
        line.Property(l => l.Name).UseCollation("NOCASE");
        line.HasIndex(l => new { l.PieceId, l.Name }).IsUnique();
        line.HasQueryFilter(StudioDb.Standing, l => l.DroppedAt == null);
        line.HasIndex(l => l.PieceId).IsUnique().HasFilter("\"IsCurrent\"");
    }
}

internal sealed class TreeEntryConfiguration : IEntityTypeConfiguration<TreeEntry>
{
    public void Configure(EntityTypeBuilder<TreeEntry> entry)
    {
        entry.ToTable("Entries");
        entry.Ignore(e => e.MayReplace);
        // Windows and macOS take two names that differ only in case for one file.
        entry.HasIndex(e => new { e.ProjectId, e.PathKey }).IsUnique().HasFilter("\"DeletedAt\" IS NULL");
        // What stands in one folder is asked for by every look into it, and how much stands in each by every look at the plan.
        entry
            .HasIndex(e => new
            {
                e.ProjectId,
                e.FolderKey,
                e.Kind,
            })
            .HasFilter("\"DeletedAt\" IS NULL");
        entry.HasIndex(e => e.PieceId);
        entry.HasIndex(e => e.SaveId);
        entry.HasMany(e => e.Contents).WithOne().HasForeignKey(c => c.EntryId);
        entry.HasOne<Piece>().WithMany().HasForeignKey(e => e.PieceId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class FileContentConfiguration : IEntityTypeConfiguration<FileContent>
{
    public void Configure(EntityTypeBuilder<FileContent> content)
    {
        content.HasIndex(c => new { c.EntryId, c.Sequence }).IsUnique();
        content.HasIndex(c => c.Hash);
    }
}

internal sealed class PastPlaceConfiguration : IEntityTypeConfiguration<PastPlace>
{
    public void Configure(EntityTypeBuilder<PastPlace> place)
    {
        place.HasIndex(p => new { p.ProjectId, p.PathKey });
        place.HasOne<TreeEntry>().WithMany().HasForeignKey(p => p.EntryId);
    }
}

internal sealed class LinkConfiguration : IEntityTypeConfiguration<Link>
{
    public void Configure(EntityTypeBuilder<Link> link)
    {
        link.HasOne<Save>().WithMany().HasForeignKey(l => l.SaveId);
        link.HasOne<SaveFile>().WithMany().HasForeignKey(l => l.SaveFileId);
        link.HasOne<FileContent>().WithMany().HasForeignKey(l => l.FileContentId);
        // Who uses a file is asked by where it stands, and of versions by what they saw.
        link.HasIndex(l => new { l.ProjectId, l.TargetKey });
        link.HasIndex(l => l.SeenEntryId).HasFilter("\"SeenEntryId\" IS NOT NULL");
        link.HasIndex(l => l.SeenHash).HasFilter("\"SeenHash\" IS NOT NULL");
    }
}

internal sealed class RenameRunConfiguration : IEntityTypeConfiguration<RenameRun>
{
    public void Configure(EntityTypeBuilder<RenameRun> run)
    {
        run.HasMany(r => r.Names).WithOne().HasForeignKey(n => n.RunId);
        run.HasOne<Project>().WithMany().HasForeignKey(r => r.ProjectId).OnDelete(DeleteBehavior.Restrict);
    }
}

internal sealed class RenamedNameConfiguration : IEntityTypeConfiguration<RenamedName>
{
    public void Configure(EntityTypeBuilder<RenamedName> name)
    {
        name.Property(n => n.From).UseCollation("NOCASE");
        name.HasIndex(n => new { n.ProjectId, n.From });
    }
}

internal sealed class SessionConfiguration : IEntityTypeConfiguration<Session>
{
    public void Configure(EntityTypeBuilder<Session> session)
    {
        session.HasOne<Person>().WithMany().HasForeignKey(s => s.PersonId);
        session.Property(s => s.Browser).HasMaxLength(300);
    }
}

internal sealed class ConventionDraftConfiguration : IEntityTypeConfiguration<ConventionDraft>
{
    public void Configure(EntityTypeBuilder<ConventionDraft> draft)
    {
        draft.HasKey(d => d.PersonId);
        draft.HasOne<Person>().WithOne().HasForeignKey<ConventionDraft>(d => d.PersonId);
    }
}

internal sealed class ContentFactsConfiguration : IEntityTypeConfiguration<ContentFacts>
{
    public void Configure(EntityTypeBuilder<ContentFacts> facts)
    {
        facts.HasKey(f => new { f.Content, f.Reader });
        facts.ComplexProperty(f => f.Measures);
    }
}

internal sealed class ContentComparisonConfiguration : IEntityTypeConfiguration<ContentComparison>
{
    public void Configure(EntityTypeBuilder<ContentComparison> comparison)
    {
        comparison.ToTable("Comparisons");
        // Looked for by what came later: a version, against the one before it.
        comparison.HasKey(c => new { c.After, c.Before });
    }
}

internal sealed class JobConfiguration : IEntityTypeConfiguration<Job>
{
    public void Configure(EntityTypeBuilder<Job> job)
    {
        // The same job is never there twice; the filter's numbers are those of waiting and running.
        job.HasIndex(j => new { j.Kind, j.Subject }).IsUnique().HasFilter("\"State\" IN (0, 1)");
        job.HasIndex(j => new
        {
            j.State,
            j.Priority,
            j.Id,
        });
    }
}

internal sealed class StoreCheckConfiguration : IEntityTypeConfiguration<StoreCheck>
{
    public void Configure(EntityTypeBuilder<StoreCheck> check)
    {
        check.HasMany(c => c.Damaged).WithOne().HasForeignKey(d => d.CheckId);
        check.HasIndex(c => c.EndedAt);
    }
}

internal sealed class DeviceKeyConfiguration : IEntityTypeConfiguration<DeviceKey>
{
    public void Configure(EntityTypeBuilder<DeviceKey> key)
    {
        key.HasOne<Person>().WithMany().HasForeignKey(k => k.PersonId);
        key.HasIndex(k => k.Hash).IsUnique();
    }
}

internal sealed class ProjectAccessConfiguration : IEntityTypeConfiguration<ProjectAccess>
{
    public void Configure(EntityTypeBuilder<ProjectAccess> access)
    {
        access.HasOne<Person>().WithMany().HasForeignKey(a => a.PersonId);
        access.HasOne<Project>().WithMany().HasForeignKey(a => a.ProjectId);
        access.HasIndex(a => new { a.PersonId, a.ProjectId }).IsUnique();
    }
}

internal sealed class SharedFileConfiguration : IEntityTypeConfiguration<SharedFile>
{
    public void Configure(EntityTypeBuilder<SharedFile> file)
    {
        file.HasOne<Project>().WithMany().HasForeignKey(f => f.ProjectId);
        file.HasQueryFilter(StudioDb.Standing, f => f.DeletedAt == null);
        file.HasIndex(f => new { f.ProjectId, f.PathKey }).IsUnique().HasFilter("\"DeletedAt\" IS NULL");
        file.HasIndex(f => new { f.ProjectId, f.FolderKey });
        file.HasIndex(f => f.At);
        file.HasIndex(f => new
        {
            f.PieceId,
            f.LineId,
            f.Within,
        });
    }
}

internal sealed class SharedPropertyConfiguration : IEntityTypeConfiguration<SharedProperty>
{
    public void Configure(EntityTypeBuilder<SharedProperty> property)
    {
        property.HasOne<Project>().WithMany().HasForeignKey(p => p.ProjectId);
        property
            .HasIndex(p => new
            {
                p.ProjectId,
                p.PathKey,
                p.Name,
            })
            .IsUnique();
    }
}
