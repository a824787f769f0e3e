using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Tests;

/// <summary>References that are made to lead elsewhere, and nothing else of their file with them.</summary>
public class RelinkingTests
{
    private static byte[] Rewrite(byte[] file, params (string From, string To)[] changes)
    {
        using var made = new MemoryStream();
        ReferenceRewriter.Rewrite(new MemoryStream(file), [.. changes.Select(c => new RewrittenReference(c.From, c.To))], made);
        return made.ToArray();
    }

    private static string Rewrite(string file, params (string From, string To)[] changes) =>
        Encoding.UTF8.GetString(Rewrite(Encoding.UTF8.GetBytes(file), changes));

    [Fact]
    public void AnSvgIsChangedWhereALinkStandsAndNowhereElse()
    {
        const string svg = """
            <?xml version="1.0" encoding="UTF-8"?>
            <!-- href="a&amp;b.png" stays -->
            <svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink='http://www.w3.org/1999/xlink'   width="9" height="9">
              <style>rect { fill: url( "a&amp;b.png" ) } /* < */</style>
              <style><![CDATA[ circle { fill: url(a&b.png#x); mask: url('other.svg') } ]]></style>
              <a href="a&amp;b.png"><image   xlink:href = 'a&amp;b.png' width="3" height="3"/></a>
              <image href="  a&#38;b.png " width="3" height="3"/><text>href="a&amp;b.png"</text>
              <rect style="fill:url(&quot;a&amp;b.png&quot;)" width="2" height="2"/>
            </svg>
            """;
        var plain = svg.Replace("/* < */", "", StringComparison.Ordinal);

        var made = Rewrite(plain, ("a&b.png", "../x/c&d.png"), ("a&b.png#x", "y.png#x"));

        Assert.Equal(
            plain
                .Replace("url( \"a&amp;b.png\" )", "url( \"../x/c&amp;d.png\" )", StringComparison.Ordinal)
                .Replace("url(a&b.png#x)", "url(y.png#x)", StringComparison.Ordinal)
                .Replace("xlink:href = 'a&amp;b.png'", "xlink:href = '../x/c&amp;d.png'", StringComparison.Ordinal)
                .Replace("\"  a&#38;b.png \"", "\"  ../x/c&amp;d.png \"", StringComparison.Ordinal)
                .Replace("url(&quot;a&amp;b.png&quot;)", "url(&quot;../x/c&amp;d.png&quot;)", StringComparison.Ordinal),
            made
        );
    }

    [Theory]
    [InlineData("utf-16", true)]
    [InlineData("utf-8", true)]
    [InlineData("iso-8859-1", false)]
    public void AnSvgKeepsItsCodingAndItsLineEnds(string name, bool hasMark)
    {
        var coding = Encoding.GetEncoding(name);
        byte[] Coded(string link) =>
            [
                .. hasMark ? coding.GetPreamble() : [],
                .. coding.GetBytes(
                    $"<?xml version=\"1.0\" encoding=\"{name}\"?>\r\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\">\r\r\n<desc>é</desc><image href=\"{link}\"/></svg>"
                ),
            ];

        Assert.Equal(Coded("ä/neu.png"), Rewrite(Coded("alt.png"), ("alt.png", "ä/neu.png")));
    }

    [Fact]
    public void AGltfAndATimelineAreChangedWhereALinkStands()
    {
        const string gltf = """
            {"asset":{"version":"2.0"}, "buffers":[ {"byteLength":4, "uri" : "a.bin"} ],
             "images":[{"uri":"tex\u002fa.png"},{"name":"tex/a.png","extras":{"uri":"tex/a.png"}}]}
            """;
        Assert.Equal(
            gltf.Replace("\"tex\\u002fa.png\"", "\"../é.png\"", StringComparison.Ordinal),
            Rewrite(gltf, ("tex/a.png", "../é.png"))
        );

        const string timeline = """
            {"OTIO_SCHEMA":"Timeline.1","name":"t","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[
            {"OTIO_SCHEMA":"Clip.2","name":"a.mov","source_range":null,"media_references":{"DEFAULT_MEDIA":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"a.mov"}},"active_media_reference_key":"DEFAULT_MEDIA"}]}]}}
            """;
        Assert.Equal(
            timeline.Replace("\"target_url\":\"a.mov\"", "\"target_url\":\"../b \\\"1\\\".mov\"", StringComparison.Ordinal),
            Rewrite(timeline, ("a.mov", "../b \"1\".mov"))
        );
    }

    [Fact]
    public void AGlbKeepsItsBuffers()
    {
        byte[] Glb(string link)
        {
            var json = Encoding.UTF8.GetBytes(
                $$"""{"asset":{"version":"2.0"},"buffers":[{"byteLength":4}],"images":[{"uri":"{{link}}"}]}"""
            );
            var padded = (json.Length + 3) / 4 * 4;
            using var file = new MemoryStream();
            using var writer = new BinaryWriter(file);
            writer.Write("glTF"u8);
            writer.Write(2);
            writer.Write(12 + 8 + padded + 8 + 4);
            writer.Write(padded);
            writer.Write("JSON"u8);
            writer.Write(json);
            writer.Write("   "u8[..(padded - json.Length)]);
            writer.Write(4);
            writer.Write("BIN\0"u8);
            writer.Write(0x01020304);
            return file.ToArray();
        }
        foreach (var link in new[] { "b", "longer/b.png", "../x/y/z.png", "c.png" })
            Assert.Equal(Glb(link), Rewrite(Glb("a.png"), ("a.png", link)));
    }

    [Fact]
    public void WhatCannotBeReadIsNotWritten()
    {
        foreach (var file in new[] { "<svg", "plain text", "{\"asset\":{\"version\":\"2.0\"}", "" })
            Assert.Throws<UnreadableFileException>(() => Rewrite(file, ("a", "b")));
    }

    [Theory]
    [InlineData("utf-16", true)]
    [InlineData("utf-16BE", false)]
    [InlineData("utf-8", true)]
    [InlineData("utf-8", false)]
    [InlineData("iso-8859-1", false)]
    public void ATextIsChangedWhereAPatternFindsALinkAndKeepsItsCodingAndItsLineEnds(string name, bool hasMark)
    {
        var coding = Encoding.GetEncoding(name);
        ReferencePattern[] patterns = [new(".scene", "texture = \"{file}\""), new(".scene", "load {file}")];
        byte[] Coded(string first, string second) =>
            [
                .. hasMark ? coding.GetPreamble() : [],
                .. coding.GetBytes($"name = \"é\"\r\ntexture=\"{first}\"\nload {second}  \r\r\n  texture = \"{first}\"\n\n"),
            ];
        byte[] Made(byte[] text, string to)
        {
            using var made = new MemoryStream();
            ReferenceRewriter.Rewrite(new MemoryStream(text), [new("alt.png", to)], made, patterns);
            return made.ToArray();
        }

        var before = Coded("alt.png", "b c.png");
        Assert.Equal(
            ["alt.png", "b c.png", "alt.png"],
            FormatReader.Read(new MemoryStream(before), patterns).ReferencesOf("x/A.SCENE").Select(r => r.Written)
        );
        Assert.Empty(FormatReader.Read(new MemoryStream(before), patterns).ReferencesOf("a.other"));
        Assert.Equal(Coded("ä/neu.png", "b c.png"), Made(before, "ä/neu.png"));
        // What the pattern would not give back, or the text's coding not hold, is not written.
        Assert.Throws<UnreadableFileException>(() => Made(before, "a\".png"));
        if (name == "iso-8859-1")
            Assert.Throws<UnreadableFileException>(() => Made(before, "月.png"));
    }
}
