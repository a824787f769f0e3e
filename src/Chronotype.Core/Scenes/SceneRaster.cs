using System.Numerics;

namespace Chronotype.Core.Scenes;

/// <summary>Triangles of one colour that stand in a scene.</summary>
/// <param name="Corners">Where they stand, in the scene's units.</param>
/// <param name="Triangles">Three places among the corners for each.</param>
/// <param name="Colour">Red, green and blue, each from 0 to 1.</param>
public sealed record SceneSurface(Vector3[] Corners, int[] Triangles, Vector3 Colour);

/// <summary>
/// Draws a scene from a fixed place: from the front, a little from the right and from above, without perspective, so that two versions of a
/// scene are seen in one way. Surfaces hide one another by depth and are shaded by how they face the light.
/// </summary>
public static class SceneRaster
{
    private const float Yaw = 0.6f,
        Pitch = 0.38f,
        Margin = 0.06f,
        Ambient = 0.32f;

    private static readonly Vector3 Light = Vector3.Normalize(new Vector3(0.35f, 0.8f, 0.65f));

    /// <summary>The smallest box that holds surfaces; null where they have no corners that are numbers.</summary>
    public static (Vector3 Low, Vector3 High)? Box(IEnumerable<SceneSurface> surfaces)
    {
        var (low, high) = (new Vector3(float.MaxValue), new Vector3(float.MinValue));
        foreach (var corner in surfaces.SelectMany(s => s.Corners).Where(IsPlace))
            (low, high) = (Vector3.Min(low, corner), Vector3.Max(high, corner));
        return low.X > high.X ? null : (low, high);
    }

    /// <param name="surfaces">What stands in it.</param>
    /// <param name="width">Pixels.</param>
    /// <param name="height">Pixels.</param>
    /// <param name="box">What is fitted into the picture; of two scenes that are compared, the box of both.</param>
    /// <returns>Red, green, blue and alpha of each pixel, row by row; transparent where nothing stands.</returns>
    public static byte[] Draw(IReadOnlyList<SceneSurface> surfaces, int width, int height, (Vector3 Low, Vector3 High) box)
    {
        var pixels = new byte[width * height * 4];
        var depths = new float[width * height];
        Array.Fill(depths, float.MinValue);
        var turn = Matrix4x4.CreateRotationY(-Yaw) * Matrix4x4.CreateRotationX(Pitch);
        var (low, high) = Turned(box, turn);
        var size = Vector3.Max(high - low, new Vector3(1e-6f));
        var scale = Math.Min(width * (1 - 2 * Margin) / size.X, height * (1 - 2 * Margin) / size.Y);
        var middle = (low + high) / 2;
        foreach (var surface in surfaces)
        {
            var seen = new Vector3[surface.Corners.Length];
            for (var i = 0; i < seen.Length; i++)
            {
                var at = (Vector3.Transform(surface.Corners[i], turn) - middle) * scale;
                seen[i] = new Vector3(width / 2f + at.X, height / 2f - at.Y, at.Z);
            }
            for (var t = 0; t + 2 < surface.Triangles.Length; t += 3)
                Fill(surface, seen, t, width, height, pixels, depths);
        }
        return pixels;
    }

    private static bool IsPlace(Vector3 v) => float.IsFinite(v.X) && float.IsFinite(v.Y) && float.IsFinite(v.Z);

    private static (Vector3 Low, Vector3 High) Turned((Vector3 Low, Vector3 High) box, Matrix4x4 turn)
    {
        var (low, high) = (new Vector3(float.MaxValue), new Vector3(float.MinValue));
        for (var corner = 0; corner < 8; corner++)
        {
            var at = Vector3.Transform(
                new Vector3(
                    (corner & 1) == 0 ? box.Low.X : box.High.X,
                    (corner & 2) == 0 ? box.Low.Y : box.High.Y,
                    (corner & 4) == 0 ? box.Low.Z : box.High.Z
                ),
                turn
            );
            (low, high) = (Vector3.Min(low, at), Vector3.Max(high, at));
        }
        return (low, high);
    }

    // J. Pineda, "A Parallel Algorithm for Polygon Rasterization", 1988: a pixel is inside where it is on one side of all three edges.
    private static void Fill(SceneSurface surface, Vector3[] seen, int t, int width, int height, byte[] pixels, float[] depths)
    {
        var (i, j, k) = (surface.Triangles[t], surface.Triangles[t + 1], surface.Triangles[t + 2]);
        if ((uint)i >= seen.Length || (uint)j >= seen.Length || (uint)k >= seen.Length)
            return;
        var (a, b, c) = (seen[i], seen[j], seen[k]);
        var area = (b.X - a.X) * (c.Y - a.Y) - (b.Y - a.Y) * (c.X - a.X);
        if (!float.IsFinite(area) || area == 0 || !IsPlace(a) || !IsPlace(b) || !IsPlace(c))
            return;
        var (left, right) = (Math.Min(a.X, Math.Min(b.X, c.X)), Math.Max(a.X, Math.Max(b.X, c.X)));
        var (top, bottom) = (Math.Min(a.Y, Math.Min(b.Y, c.Y)), Math.Max(a.Y, Math.Max(b.Y, c.Y)));
        if (right < 0 || bottom < 0 || left >= width || top >= height)
            return;
        var normal = Vector3.Cross(surface.Corners[j] - surface.Corners[i], surface.Corners[k] - surface.Corners[i]);
        var facing = normal.LengthSquared() > 0 ? Math.Abs(Vector3.Dot(Vector3.Normalize(normal), Light)) : 0;
        var shade = surface.Colour * (Ambient + (1 - Ambient) * facing) * 255;
        for (var y = Math.Max(0, (int)top); y <= Math.Min(height - 1, (int)bottom); y++)
        {
            for (var x = Math.Max(0, (int)left); x <= Math.Min(width - 1, (int)right); x++)
            {
                var (px, py) = (x + 0.5f, y + 0.5f);
                var u = ((b.X - px) * (c.Y - py) - (b.Y - py) * (c.X - px)) / area;
                var v = ((c.X - px) * (a.Y - py) - (c.Y - py) * (a.X - px)) / area;
                var w = 1 - u - v;
                if (u < 0 || v < 0 || w < 0)
                    continue;
                var depth = u * a.Z + v * b.Z + w * c.Z;
                var at = y * width + x;
                if (depth <= depths[at])
                    continue;
                depths[at] = depth;
                (pixels[at * 4], pixels[at * 4 + 1], pixels[at * 4 + 2], pixels[at * 4 + 3]) = (
                    Byte(shade.X),
                    Byte(shade.Y),
                    Byte(shade.Z),
                    255
                );
            }
        }
    }

    private static byte Byte(float value) => (byte)Math.Clamp(value, 0, 255);
}
