using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>A place in a glTF where the number of one of its parts stands.</summary>
/// <param name="Holder">The object or the array that holds the number.</param>
/// <param name="Name">Of the property; null in an array.</param>
/// <param name="Of">The list that the number counts in.</param>
internal sealed record GltfLink(JsonNode Holder, string? Name, int At, string Of)
{
    public int To =>
        Number(Name is null ? Holder[At] : Holder[Name]) is { } number and >= 0 and < int.MaxValue
            ? (int)number
            : throw new UnreadableFileException(FileFaultCode.NotUnderstood);

    public void Set(int number)
    {
        if (Name is null)
            Holder[At] = (long)number;
        else
            Holder[Name] = (long)number;
    }
}

/// <summary>Which parts of a glTF name which others by their numbers (glTF 2.0, 5), with the extensions that are known here.</summary>
internal static class GltfLinks
{
    /// <summary>The lists of parts that others name.</summary>
    public static readonly IReadOnlyList<string> Lists =
    [
        "nodes",
        "meshes",
        "cameras",
        "skins",
        "materials",
        "textures",
        "samplers",
        "images",
        "accessors",
        "bufferViews",
        "buffers",
    ];

    private static readonly string[] Known =
    [
        "KHR_materials_",
        "KHR_texture_",
        "KHR_lights_punctual",
        "KHR_mesh_quantization",
        "KHR_draco_mesh_compression",
        "KHR_xmp_json_ld",
        "EXT_texture_",
        "EXT_meshopt_compression",
        "EXT_mesh_gpu_instancing",
    ];

    /// <summary>Whether all numbers of parts are told: an extension that is not known may hold others.</summary>
    public static bool AreKnown(JsonObject root) =>
        (root["extensionsUsed"] as JsonArray ?? []).All(e => Known.Any(k => Text(e)?.StartsWith(k, StringComparison.Ordinal) == true));

    /// <param name="list">That the part is of; or <c>scenes</c>, <c>animations</c>.</param>
    public static IEnumerable<GltfLink> Of(string list, JsonObject part) =>
        list switch
        {
            "scenes" => Each(part["nodes"], "nodes"),
            "nodes" =>
            [
                .. Each(part["children"], "nodes"),
                .. One(part, "mesh", "meshes"),
                .. One(part, "skin", "skins"),
                .. One(part, "camera", "cameras"),
                .. Values(Field(part, "extensions", "EXT_mesh_gpu_instancing", "attributes"), "accessors"),
            ],
            "meshes" => Objects(part["primitives"]).SelectMany(OfPrimitive),
            "materials" => OfMaterial(part),
            "textures" =>
            [
                .. One(part, "source", "images"),
                .. One(part, "sampler", "samplers"),
                .. Extensions(part).SelectMany(e => One(e, "source", "images")),
            ],
            "images" => One(part, "bufferView", "bufferViews"),
            "accessors" =>
            [
                .. One(part, "bufferView", "bufferViews"),
                .. One(Field(part, "sparse", "indices"), "bufferView", "bufferViews"),
                .. One(Field(part, "sparse", "values"), "bufferView", "bufferViews"),
            ],
            "bufferViews" => [.. One(part, "buffer", "buffers"), .. Extensions(part).SelectMany(e => One(e, "buffer", "buffers"))],
            "skins" =>
            [
                .. One(part, "inverseBindMatrices", "accessors"),
                .. Each(part["joints"], "nodes"),
                .. One(part, "skeleton", "nodes"),
            ],
            "animations" =>
            [
                .. Objects(part["channels"]).SelectMany(c => One(c["target"], "node", "nodes")),
                .. Objects(part["samplers"])
                    .SelectMany(s => (GltfLink[])[.. One(s, "input", "accessors"), .. One(s, "output", "accessors")]),
            ],
            _ => [],
        };

    private static IEnumerable<GltfLink> OfPrimitive(JsonObject primitive) =>
        [
            .. Values(primitive["attributes"], "accessors"),
            .. Objects(primitive["targets"]).SelectMany(t => Values(t, "accessors")),
            .. One(primitive, "indices", "accessors"),
            .. One(primitive, "material", "materials"),
            .. One(Field(primitive, "extensions", "KHR_draco_mesh_compression"), "bufferView", "bufferViews"),
            .. Objects(Field(primitive, "extensions", "KHR_materials_variants", "mappings"))
                .SelectMany(m => One(m, "material", "materials")),
        ];

    // Whatever lies a texture on a surface calls it so: "normalTexture", and "sheenColorTexture" of an extension.
    private static IEnumerable<GltfLink> OfMaterial(JsonNode? node) =>
        node is not JsonObject fields
            ? []
            : fields
                .ToList()
                .SelectMany(f =>
                    f.Key.EndsWith("Texture", StringComparison.Ordinal) ? One(f.Value, "index", "textures")
                    : f.Key == "extras" ? []
                    : OfMaterial(f.Value)
                );

    private static IEnumerable<GltfLink> One(JsonNode? holder, string name, string of) =>
        holder is JsonObject fields && fields[name] is not null ? [new GltfLink(fields, name, 0, of)] : [];

    private static IEnumerable<GltfLink> Each(JsonNode? array, string of) =>
        array is JsonArray items ? items.Select((_, i) => new GltfLink(items, null, i, of)) : [];

    private static IEnumerable<GltfLink> Values(JsonNode? holder, string of) =>
        holder is JsonObject fields ? fields.Select(f => new GltfLink(fields, f.Key, 0, of)).ToList() : [];

    private static IEnumerable<JsonObject> Objects(JsonNode? array) => (array as JsonArray ?? []).OfType<JsonObject>();

    private static IEnumerable<JsonObject> Extensions(JsonObject part) =>
        (part["extensions"] as JsonObject ?? []).Select(e => e.Value).OfType<JsonObject>();
}
