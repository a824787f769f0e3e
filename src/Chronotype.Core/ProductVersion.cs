using System.Reflection;

namespace Chronotype.Core;

/// <summary>The version of Chronotype (Semantic Versioning 2.0.0), as <c>CHANGELOG.md</c> tells its changes.</summary>
public static class ProductVersion
{
    /// <summary>For instance <c>1.0.0-dev</c>.</summary>
    public static string Text { get; } =
        typeof(ProductVersion).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()!.InformationalVersion;
}
