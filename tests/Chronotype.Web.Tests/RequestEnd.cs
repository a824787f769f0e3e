using System.Diagnostics;
using Microsoft.AspNetCore.Http;

namespace Chronotype.Web.Tests;

/// <summary>Tells when the server has done with a request, whatever became of whoever asked.</summary>
internal sealed class RequestEnd : IObserver<DiagnosticListener>, IObserver<KeyValuePair<string, object?>>
{
    private readonly TaskCompletionSource ended = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private readonly List<IDisposable> watched = [];
    private readonly int port;
    private readonly string path;

    private RequestEnd(int port, string path) => (this.port, this.path) = (port, path);

    /// <param name="port">The server's; several run beside each other.</param>
    /// <param name="path">What the request's path ends in.</param>
    public static Task Of(int port, string path)
    {
        var end = new RequestEnd(port, path);
        end.watched.Add(DiagnosticListener.AllListeners.Subscribe(end));
        return end.ended.Task;
    }

    public void OnNext(DiagnosticListener value)
    {
        if (value.Name == "Microsoft.AspNetCore")
            watched.Add(
                value.Subscribe(this, name => name.StartsWith("Microsoft.AspNetCore.Hosting.HttpRequestIn", StringComparison.Ordinal))
            );
    }

    public void OnNext(KeyValuePair<string, object?> value)
    {
        if (
            !value.Key.EndsWith(".Stop", StringComparison.Ordinal)
            || value.Value is not HttpContext context
            || context.Connection.LocalPort != port
            || !context.Request.Path.Value!.EndsWith(path, StringComparison.Ordinal)
        )
            return;
        ended.TrySetResult();
        foreach (var one in watched)
            one.Dispose();
    }

    public void OnCompleted() { }

    public void OnError(Exception error) { }
}
