using System.Net;

namespace Chronotype.Web;

/// <summary>How the program was started.</summary>
/// <param name="Data">The studio's data folder.</param>
/// <param name="Listen">The address that is listened on; loopback unless said otherwise.</param>
/// <param name="Port">1 to 65535, or 0 for any that is free.</param>
/// <param name="TrustedProxy">A proxy beyond this machine that is believed about who asks; null for none but those on this machine.</param>
public sealed record Settings(string Data, IPAddress Listen, int Port, IPAddress? TrustedProxy = null)
{
    public bool IsLoopback => IPAddress.IsLoopback(Listen);

    /// <exception cref="SettingException">An option is unknown, incomplete or wrong.</exception>
    public static Settings From(IReadOnlyList<string> args)
    {
        var settings = new Settings("data/studio", IPAddress.Loopback, 5080);
        for (var i = 0; i < args.Count; i += 2)
        {
            var value = i + 1 < args.Count ? args[i + 1] : throw new SettingException($"{args[i]} needs a value.");
            settings = args[i] switch
            {
                "--data" => settings with { Data = value },
                "--port" => settings with
                {
                    Port =
                        int.TryParse(value, out var port) && port is >= 0 and <= 65535
                            ? port
                            : throw new SettingException($"--port takes a number from 0 to 65535, not '{value}'."),
                },
                "--listen" => settings with
                {
                    Listen = IPAddress.TryParse(value, out var address)
                        ? address
                        : throw new SettingException($"--listen takes an IP address such as 0.0.0.0, not '{value}'."),
                },
                "--trust-proxy" => settings with
                {
                    TrustedProxy = IPAddress.TryParse(value, out var proxy)
                        ? proxy
                        : throw new SettingException($"--trust-proxy takes the proxy's IP address such as 127.0.0.1, not '{value}'."),
                },
                _ => throw new SettingException(
                    $"{args[i]} is no option. There are --data DIR, --port N, --listen ADDRESS and --trust-proxy ADDRESS."
                ),
            };
        }
        return settings;
    }
}

public sealed class SettingException(string message) : Exception(message);
