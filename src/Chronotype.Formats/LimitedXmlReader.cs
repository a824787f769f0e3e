using System.Xml;

namespace Chronotype.Formats;

/// <summary>
/// Refuses nesting and numbers past a limit while a file is parsed, before there is a tree: trees are many times as large as
/// their text, and are walked by recursion.
/// </summary>
/// <param name="what">What the file is, to begin a sentence with.</param>
/// <param name="done">What is done with it here, as a participle.</param>
internal sealed class LimitedXmlReader(XmlReader inner, string what, string done, int maxDepth, int maxElements, int maxAttributes) : XmlReader
{
    private const string Kept = "Its bytes are kept as they came.";
    private int elements, attributes;

    public override bool Read()
    {
        var more = inner.Read();
        if (!more || inner.NodeType != XmlNodeType.Element) return more;
        if (inner.Depth > maxDepth) throw new UnreadableFileException($"{what}'s groups are nested more than {maxDepth} deep, more than is {done} here. {Kept}");
        if (++elements > maxElements) throw new UnreadableFileException($"{what} has more than {maxElements:N0} elements, more than are {done} here. {Kept}");
        if ((attributes += inner.AttributeCount) > maxAttributes) throw new UnreadableFileException($"{what} has more than {maxAttributes:N0} attributes, more than are {done} here. {Kept}");
        return more;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing) inner.Dispose();
        base.Dispose(disposing);
    }

    public override int AttributeCount => inner.AttributeCount;
    public override string BaseURI => inner.BaseURI;
    public override int Depth => inner.Depth;
    public override bool EOF => inner.EOF;
    public override bool IsEmptyElement => inner.IsEmptyElement;
    public override string LocalName => inner.LocalName;
    public override string NamespaceURI => inner.NamespaceURI;
    public override XmlNameTable NameTable => inner.NameTable;
    public override XmlNodeType NodeType => inner.NodeType;
    public override string Prefix => inner.Prefix;
    public override ReadState ReadState => inner.ReadState;
    public override string Value => inner.Value;
    public override string GetAttribute(int i) => inner.GetAttribute(i);
    public override string? GetAttribute(string name) => inner.GetAttribute(name);
    public override string? GetAttribute(string name, string? namespaceURI) => inner.GetAttribute(name, namespaceURI);
    public override string? LookupNamespace(string prefix) => inner.LookupNamespace(prefix);
    public override bool MoveToAttribute(string name) => inner.MoveToAttribute(name);
    public override bool MoveToAttribute(string name, string? ns) => inner.MoveToAttribute(name, ns);
    public override bool MoveToElement() => inner.MoveToElement();
    public override bool MoveToFirstAttribute() => inner.MoveToFirstAttribute();
    public override bool MoveToNextAttribute() => inner.MoveToNextAttribute();
    public override bool ReadAttributeValue() => inner.ReadAttributeValue();
    public override void ResolveEntity() => inner.ResolveEntity();
}
