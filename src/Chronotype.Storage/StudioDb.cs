using Chronotype.Core.Content;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;

namespace Chronotype.Storage;

/// <summary>The studio's records. Transactions begin as writers at once, so two people who keep wait for one another.</summary>
public sealed class StudioDb(DbContextOptions<StudioDb> options) : IdentityUserContext<Person, Guid>(options)
{
    public DbSet<StudioRecord> Studio => Set<StudioRecord>();
    public DbSet<Client> Clients => Set<Client>();
    public DbSet<CodeEntry> Codes => Set<CodeEntry>();
    public DbSet<StudioPlan> Plans => Set<StudioPlan>();
    public DbSet<Project> Projects => Set<Project>();
    public DbSet<Line> Lines => Set<Line>();
    public DbSet<TreeEntry> Entries => Set<TreeEntry>();
    public DbSet<FileContent> FileContents => Set<FileContent>();
    public DbSet<PastPlace> PastPlaces => Set<PastPlace>();
    public DbSet<Link> Links => Set<Link>();
    public DbSet<Piece> Pieces => Set<Piece>();
    public DbSet<Save> Saves => Set<Save>();
    public DbSet<SaveFile> SaveFiles => Set<SaveFile>();
    public DbSet<Output> Outputs => Set<Output>();
    public DbSet<RecipeEntry> Recipes => Set<RecipeEntry>();
    public DbSet<ColourProfileEntry> ColourProfiles => Set<ColourProfileEntry>();
    public DbSet<Master> Masters => Set<Master>();
    public DbSet<Face> Faces => Set<Face>();
    public DbSet<SaveCompanion> Companions => Set<SaveCompanion>();
    public DbSet<Milestone> Milestones => Set<Milestone>();
    public DbSet<RenameRun> RenameRuns => Set<RenameRun>();
    public DbSet<RenamedName> RenamedNames => Set<RenamedName>();
    public DbSet<ContentFacts> ContentFacts => Set<ContentFacts>();
    public DbSet<ContentComparison> Comparisons => Set<ContentComparison>();
    public DbSet<Job> Jobs => Set<Job>();
    public DbSet<Session> Sessions => Set<Session>();
    public DbSet<ProjectAccess> ProjectAccess => Set<ProjectAccess>();
    public DbSet<DeviceKey> DeviceKeys => Set<DeviceKey>();
    public DbSet<SharedFile> SharedFiles => Set<SharedFile>();
    public DbSet<SharedProperty> SharedProperties => Set<SharedProperty>();
    public DbSet<ConventionDraft> ConventionDrafts => Set<ConventionDraft>();
    public DbSet<StoreCheck> StoreChecks => Set<StoreCheck>();
    public DbSet<MirrorNote> MirrorQueue => Set<MirrorNote>();

    /// <summary>The filter that leaves out what was deleted or discarded, which is nowhere but where it is asked for.</summary>
    public const string Standing = "Standing";

    /// <summary>The filter that leaves out the projects that whoever asks does not see, and all that is in them.</summary>
    public const string Seen = "Seen";

    /// <summary>
    /// The projects that whoever asks sees; null for all of them. A query finds nothing of another one. It is set before anything is asked;
    /// where nobody has said who asks, nothing is found.
    /// </summary>
    public IReadOnlyCollection<Guid>? Sees { get; set; } = [];

    /// <summary>When what is being done is done: what stands in a tree stands there from then on. The present, unless told.</summary>
    public DateTimeOffset? DoneAt { get; set; }

    /// <summary>The line in which it stands to write; null where nobody else does.</summary>
    public WriteTurn? Turns { get; init; }

    /// <summary>Whether what it writes waits until no person's deed does.</summary>
    public bool GivesWay { get; set; }

    private IDisposable? turn;

    /// <summary>Waits for its turn to write, unless it has it. The caller ends the turn.</summary>
    internal async Task TakeTurnAsync(CancellationToken cancel)
    {
        if (Turns is not null && turn is null)
            turn = await Turns.TakeAsync(!GivesWay, cancel);
    }

    /// <summary>Lets others write, if it is its turn.</summary>
    internal void EndTurn() => Interlocked.Exchange(ref turn, null)?.Dispose();

    public override async Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        RecordPlaces(DoneAt ?? DateTimeOffset.UtcNow);
        var pieces = PiecesToSettle();
        if (Database.CurrentTransaction is not null || !ChangeTracker.HasChanges())
            return await SettlingAsync(pieces, acceptAllChangesOnSuccess, cancellationToken);
        await TakeTurnAsync(cancellationToken);
        try
        {
            return await SettlingAsync(pieces, acceptAllChangesOnSuccess, cancellationToken);
        }
        finally
        {
            EndTurn();
        }
    }

    // Whoever adds, discards or takes back a save, or has work go on elsewhere: no one can forget the current file.
    private async Task<int> SettlingAsync(IReadOnlyList<Guid> pieces, bool acceptAll, CancellationToken cancel)
    {
        var count = await base.SaveChangesAsync(acceptAll, cancel);
        foreach (var piece in pieces)
            await CurrentSaves.SettleAsync(this, piece, cancel);
        return count;
    }

    private List<Guid> PiecesToSettle() =>
        [
            .. ChangeTracker
                .Entries<Save>()
                .Where(e =>
                    e.State == EntityState.Added
                    || (
                        e.State == EntityState.Modified
                        && (e.Property(s => s.DiscardedAt).IsModified || e.Property(s => s.LineId).IsModified)
                    )
                )
                .Select(e => e.Entity.PieceId)
                .Concat(
                    ChangeTracker
                        .Entries<Line>()
                        .Where(e => e.State == EntityState.Modified && e.Property(l => l.IsCurrent).IsModified)
                        .Select(e => e.Entity.PieceId)
                )
                .Distinct(),
        ];

    // A save of a piece that was deleted is looked for by the piece, which is not found; nothing reads it on its own.
    protected override void OnConfiguring(DbContextOptionsBuilder options) =>
        options
            .ConfigureWarnings(w => w.Ignore(CoreEventId.PossibleIncorrectRequiredNavigationWithQueryFilterInteractionWarning))
            .ReplaceService<IModelCacheKeyFactory, ModelKey>();

    protected override void ConfigureConventions(ModelConfigurationBuilder conventions)
    {
        conventions.Properties<DateTimeOffset>().HaveConversion<UtcTicks>();
        conventions.Properties<ContentHash>().HaveConversion<HashText>();
        conventions.Properties<ProjectPath>().HaveConversion<PathText>();
    }

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.ApplyConfigurationsFromAssembly(typeof(StudioDb).Assembly);
        if (Sees is not null)
            FilterSeen(builder);
        builder.Entity<IdentityUserClaim<Guid>>().ToTable("PersonClaims");
        builder.Entity<IdentityUserLogin<Guid>>().ToTable("PersonLogins");
        builder.Entity<IdentityUserToken<Guid>>().ToTable("PersonTokens");
    }

    // Everything that a project owns, each by the shortest way to its project; a test walks the model for what is left out.
    private void FilterSeen(ModelBuilder builder)
    {
        builder.Entity<Project>().HasQueryFilter(Seen, p => Sees!.Contains(p.Id));
        builder.Entity<Piece>().HasQueryFilter(Seen, p => Sees!.Contains(p.ProjectId));
        builder.Entity<Line>().HasQueryFilter(Seen, l => Pieces.Any(p => p.Id == l.PieceId && Sees!.Contains(p.ProjectId)));
        builder.Entity<Save>().HasQueryFilter(Seen, s => Sees!.Contains(s.Piece.ProjectId));
        builder.Entity<SaveFile>().HasQueryFilter(Seen, f => Saves.Any(s => s.Id == f.SaveId && Sees!.Contains(s.Piece.ProjectId)));
        builder.Entity<SaveCompanion>().HasQueryFilter(Seen, c => Saves.Any(s => s.Id == c.SaveId && Sees!.Contains(s.Piece.ProjectId)));
        builder.Entity<Face>().HasQueryFilter(Seen, f => Saves.Any(s => s.Id == f.SaveId && Sees!.Contains(s.Piece.ProjectId)));
        builder.Entity<Milestone>().HasQueryFilter(Seen, m => Saves.Any(s => s.Id == m.SaveId && Sees!.Contains(s.Piece.ProjectId)));
        builder.Entity<Master>().HasQueryFilter(Seen, m => Saves.Any(s => s.Id == m.SaveId && Sees!.Contains(s.Piece.ProjectId)));
        builder.Entity<TreeEntry>().HasQueryFilter(Seen, e => Sees!.Contains(e.ProjectId));
        builder.Entity<FileContent>().HasQueryFilter(Seen, c => Entries.Any(e => e.Id == c.EntryId && Sees!.Contains(e.ProjectId)));
        builder.Entity<PastPlace>().HasQueryFilter(Seen, p => Sees!.Contains(p.ProjectId));
        builder.Entity<Output>().HasQueryFilter(Seen, o => Entries.Any(e => e.Id == o.EntryId && Sees!.Contains(e.ProjectId)));
        builder.Entity<RecipeEntry>().HasQueryFilter(Seen, r => r.ProjectId == null || Sees!.Contains(r.ProjectId.Value));
        builder.Entity<Link>().HasQueryFilter(Seen, l => Sees!.Contains(l.ProjectId));
        builder.Entity<RenameRun>().HasQueryFilter(Seen, r => Sees!.Contains(r.ProjectId));
        builder.Entity<RenamedName>().HasQueryFilter(Seen, n => Sees!.Contains(n.ProjectId));
        builder.Entity<SharedFile>().HasQueryFilter(Seen, f => Sees!.Contains(f.ProjectId));
        builder.Entity<SharedProperty>().HasQueryFilter(Seen, p => Sees!.Contains(p.ProjectId));
    }

    // Whoever moves, renames, deletes or takes back: where things stood is recorded here, so that no one can forget it.
    private void RecordPlaces(DateTimeOffset now)
    {
        ChangeTracker.DetectChanges();
        foreach (var changed in ChangeTracker.Entries<TreeEntry>().ToList())
        {
            var entry = changed.Entity;
            if (changed.State is EntityState.Added or EntityState.Modified)
                entry.FolderKey = entry.Path.Folder?.Key ?? "";
            if (changed.State == EntityState.Added && entry.StandsSince == default)
                entry.StandsSince = now;
            if (changed.State != EntityState.Modified)
                continue;
            var (path, project, gone) = (
                changed.OriginalValues.GetValue<ProjectPath>(nameof(TreeEntry.Path)),
                changed.OriginalValues.GetValue<Guid>(nameof(TreeEntry.ProjectId)),
                changed.OriginalValues.GetValue<DateTimeOffset?>(nameof(TreeEntry.DeletedAt))
            );
            var isMoved = gone is null && (path != entry.Path || project != entry.ProjectId);
            var isBack = gone is not null && entry.DeletedAt is null;
            if (!isMoved && !isBack)
                continue;
            var until = gone ?? now;
            if (entry.StandsSince < until)
                PastPlaces.Add(
                    new PastPlace
                    {
                        EntryId = entry.Id,
                        ProjectId = project,
                        Path = path,
                        PathKey = path.Key,
                        Role = changed.OriginalValues.GetValue<Core.Structure.FolderRole>(nameof(TreeEntry.Role)),
                        From = entry.StandsSince,
                        Until = until,
                    }
                );
            entry.StandsSince = now;
        }
    }

    // Whoever sees all asks without a filter, which costs nothing then.
    private sealed class ModelKey : IModelCacheKeyFactory
    {
        public object Create(DbContext context, bool designTime) => (context.GetType(), context is StudioDb { Sees: not null }, designTime);
    }

    // SQLite has no type for times; ticks of UTC sort and compare as times do.
    private sealed class UtcTicks() : ValueConverter<DateTimeOffset, long>(t => t.UtcTicks, t => new DateTimeOffset(t, TimeSpan.Zero));

    private sealed class PathText() : ValueConverter<ProjectPath, string>(p => p.Text, t => ProjectPath.Parse(t));

    private sealed class HashText() : ValueConverter<ContentHash, string>(h => h.ToString(), t => ContentHash.Parse(t));
}
