using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Records;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Background;
using Chronotype.Studio.Care;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
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
        services.AddSingleton(s => ContentStore.Open(s.GetRequiredService<DataFolder>().Content, s.GetRequiredService<TimeProvider>()));
        services.AddSingleton<IContentStore>(s => s.GetRequiredService<ContentStore>());
        services.AddSingleton<CareRunner>();
        services.AddSingleton<StorageReports>();
        services.AddSingleton(new ReaderLimits());
        services.AddSingleton<ReaderPool>();
        services.AddSingleton<FileReader>();
        services.AddSingleton<Readings>();
        services.AddSingleton<Previews>();
        services.AddSingleton<SaveQueue>();
        services.AddSingleton<Sessions>();
        services.AddSingleton<RecordMirror>();
        services.AddSingleton<MirrorAfterCommit>();
        services.AddSingleton<StudioStart>();
        services.AddDbContext<StudioDb>((s, o) => o.UseSqlite($"Data Source={data.Database}").AddInterceptors(s.GetRequiredService<MirrorAfterCommit>()));
        foreach (var deed in new[]
        {
            typeof(FoundStudio), typeof(AddPerson), typeof(StartProject), typeof(StartPiece), typeof(SetKeepSetting), typeof(TakeSave), typeof(ReadSave),
            typeof(KeepSave), typeof(KeepBySetting), typeof(MarkMilestone), typeof(BringBack), typeof(WriteNote), typeof(CompareSaves), typeof(MeasureVersion),
            typeof(StudioConvention), typeof(SetConvention), typeof(MoveProject), typeof(SetCode), typeof(PlaceFile), typeof(FindPiece), typeof(RepairContent), typeof(Accounts),
        })
        {
            services.AddScoped(deed);
        }
        return services.AddIdentityCore<Person>(o =>
        {
            // NIST SP 800-63B, 5.1.1.2: length, not a mixture of kinds, makes a password.
            o.Password.RequiredLength = PasswordRule.MinLength;
            o.Password.RequireDigit = o.Password.RequireLowercase = o.Password.RequireUppercase = o.Password.RequireNonAlphanumeric = false;
            // Guesses are slowed where people sign in; a lock would be a way to keep somebody out.
            o.Lockout.AllowedForNewUsers = false;
        }).AddPasswordValidator<PasswordRule>().AddEntityFrameworkStores<StudioDb>();
    }
}
