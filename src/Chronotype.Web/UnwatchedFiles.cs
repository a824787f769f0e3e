using Microsoft.Extensions.FileProviders;
using Microsoft.Extensions.Primitives;

namespace Chronotype.Web;

/// <summary>
/// The files that ship with the program. They do not change while it runs, and a machine lends each of its accounts few watches: usually
/// 128 (inotify(7), <c>max_user_instances</c>).
/// </summary>
internal sealed class UnwatchedFiles(IFileProvider files) : IFileProvider
{
    public IDirectoryContents GetDirectoryContents(string subpath) => files.GetDirectoryContents(subpath);

    public IFileInfo GetFileInfo(string subpath) => files.GetFileInfo(subpath);

    public IChangeToken Watch(string filter) => NullChangeToken.Singleton;
}
