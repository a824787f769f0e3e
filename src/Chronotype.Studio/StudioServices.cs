using Chronotype.Content;
using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Arrivals;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Finding;
using Chronotype.Studio.Formats;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Chronotype.Studio.Tree;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.DependencyInjection.Extensions;

namespace Chronotype.Studio;

public static class StudioServices
{
    /// <summary>Adds one studio's records, content and deeds. Background work is added apart, by what serves people.</summary>
    public static IdentityBuilder AddStudio(this IServiceCollection services, DataFolder data)
    {
        // By a factory, so that the container closes it, and with it the hold on the folder, when it ends.
        services.AddSingleton(_ => data);
        services.TryAddSingleton(TimeProvider.System);
        services.AddSingleton<StudioClock>();
        services.AddSingleton(s => ContentStore.Open(s.GetRequiredService<DataFolder>().Content, s.GetRequiredService<TimeProvider>()));
        services.AddSingleton<IContentStore>(s => s.GetRequiredService<ContentStore>());
        services.AddSingleton<LastVerification>();
        services.AddSingleton<HeldContent>();
        services.AddSingleton<StorageReports>();
        services.AddSingleton(new ReaderLimits());
        services.AddSingleton(_ => ReaderIsolation.Here);
        services.AddSingleton<ReaderPool>();
        services.AddSingleton<FileReader>();
        services.AddSingleton<ContentReader>();
        services.AddSingleton<DerivedFacts>();
        services.AddSingleton<Previews>();
        services.AddSingleton<TileStore>();
        services.AddSingleton<SoundStore>();
        services.AddSingleton<CompareSaves>();
        services.AddSingleton<Likenesses>();
        services.AddSingleton<OutputEstimates>();
        services.AddSingleton<ContactSheets>();
        services.AddSingleton<KeepBySetting>();
        services.AddSingleton<HeldUploads>();
        services.AddSingleton<SavesSeen>();
        services.AddSingleton(ShareTimes.Usual);
        services.AddSingleton<JobQueue>();
        services.AddSingleton<JobStart>();
        services.AddSingleton<JobRunner>();
        services.AddSingleton<DeedRunner>();
        services.AddSingleton<Sessions>();
        services.AddSingleton(s => new CommitFlush(s.GetRequiredService<DataFolder>().Database));
        services.AddSingleton<RecordMirror>();
        services.AddSingleton<MirrorAfterCommit>();
        services.AddSingleton<WriteTurn>();
        services.AddSingleton<StudioStart>();
        services.AddScoped<Viewer>();
        services.AddScoped(s =>
        {
            var db = s.GetRequiredService<IDbContextFactory<StudioDb>>().CreateDbContext();
            db.Sees = s.GetRequiredService<Viewer>().Projects;
            return db;
        });
        services.AddDbContextFactory<StudioDb>(
            (s, o) =>
                o.UseSqlite(RecordConnection.Text(data.Database, ConnectionUse.Deeds))
                    .AddInterceptors(RecordConnection.Setting(ConnectionUse.Deeds), s.GetRequiredService<MirrorAfterCommit>())
        );
        services.AddSingleton<IDbContextFactory<StudioDb>, StudioContexts>();
        services.AddSingleton(s => new RedoneContexts(data.Database, s.GetRequiredService<WriteTurn>()));
        // Deeds hold nothing from one call to the next.
        foreach (
            var deed in new[]
            {
                typeof(FoundStudio),
                typeof(AddPerson),
                typeof(Accounts),
                typeof(StartProject),
                typeof(StartPiece),
                typeof(SetPlan),
                typeof(SetSpec),
                typeof(RenameProject),
                typeof(CopyProject),
                typeof(RenamePiece),
                typeof(SetKeepSetting),
                typeof(SetTemplate),
                typeof(PutAway),
                typeof(Remove),
                typeof(ReceiveSave),
                typeof(StartFrom),
                typeof(Rewriting),
                typeof(Relink),
                typeof(PackFile),
                typeof(PutOutFiles),
                typeof(BareFile),
                typeof(SetStudio),
                typeof(ReferencePatterns),
                typeof(MoveAndRelink),
                typeof(KeepSave),
                typeof(SaveQuestion),
                typeof(AttachFace),
                typeof(MarkMilestone),
                typeof(MarkMaster),
                typeof(StudioFormats),
                typeof(BringBack),
                typeof(WriteNote),
                typeof(SetConvention),
                typeof(KeepDraft),
                typeof(MoveProject),
                typeof(SetCode),
                typeof(RepairContent),
                typeof(MaintainStorage),
                typeof(TendJobs),
                typeof(TendFiles),
                typeof(CompanionAsSave),
                typeof(MakeOutputs),
                typeof(RecipeBook),
                typeof(MatchOutputs),
                typeof(MendSpec),
                typeof(PutParts),
                typeof(TendTree),
                typeof(ShareFiles),
                typeof(SharedProperties),
                typeof(SettleShare),
                typeof(ShareLocks),
                typeof(DeviceKeys),
                typeof(SetAccess),
                typeof(LeaveLine),
                typeof(TendAlts),
                typeof(AltFiles),
            }
        )
        {
            services.AddSingleton(deed);
        }
        // What looks things up for a page shares the page's context.
        foreach (
            var query in new[]
            {
                typeof(ConventionStore),
                typeof(PlaceFile),
                typeof(PlanStore),
                typeof(Templates),
                typeof(SpecFaults),
                typeof(FindPiece),
                typeof(FindWork),
                typeof(WhoUses),
                typeof(ProjectLinks),
                typeof(ProjectHealth),
                typeof(LikelyReferences),
                typeof(GatherFiles),
                typeof(ProjectWeb),
                typeof(PieceReferences),
                typeof(ArrivedFiles),
            }
        )
            services.AddScoped(query);
        AddJobs(services);
        services.AddSingleton<IPasswordHasher<Person>, PasswordHasher<Person>>();
        services.AddSingleton<ILookupNormalizer, UpperInvariantLookupNormalizer>();
        return services
            .AddIdentityCore<Person>(o =>
            {
                // Guesses are slowed where people sign in; a lock would be a way to keep somebody out.
                o.Lockout.AllowedForNewUsers = false;
            })
            .AddEntityFrameworkStores<StudioDb>();
    }

    /// <summary>Adds the work that goes on by itself: the jobs, and what asks for some at their time.</summary>
    public static void AddStudioWork(this IServiceCollection services)
    {
        services.AddHostedService(s => s.GetRequiredService<JobRunner>());
        services.AddHostedService(s => s.GetRequiredService<SettleShare>());
        services.AddHostedService<SittingWatch>();
        services.AddHostedService<StoreRounds>();
    }

    private static void AddJobs(IServiceCollection services)
    {
        Add<ContentReader>(JobKind.ReadContent);
        Add<Previews>(JobKind.DrawPreview);
        Add<TileStore>(JobKind.CutTiles);
        Add<SoundStore>(JobKind.PrepareSound);
        Add<CompareSaves>(JobKind.CompareContents);
        Add<KeepBySetting>(JobKind.KeepBySetting);
        Add<MakeOutputs>(JobKind.MakeOutput);
        Add<MatchOutputs>(JobKind.MatchOutput);
        Add<MendSpec>(JobKind.MendSpec);
        Add<PutParts>(JobKind.PutParts);
        Add<StorageReports>(JobKind.CountStorage);
        services.AddSingleton<VerifyStore>();
        services.AddSingleton<CompactStore>();
        services.AddSingleton<EndGrace>();
        Add<VerifyStore>(JobKind.VerifyStore);
        Add<VerifyStore>(JobKind.VerifySample);
        Add<CompactStore>(JobKind.CompactStore);
        Add<EndGrace>(JobKind.EndGrace);

        void Add<T>(JobKind kind)
            where T : class, IJobWork => services.AddKeyedSingleton<IJobWork>(kind, (s, _) => s.GetRequiredService<T>());
    }
}
