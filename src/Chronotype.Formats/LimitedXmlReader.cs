using System.Xml;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>
/// Refuses nesting and numbers past a limit while a file is parsed, before there is a tree: trees are many times as large as
/// their text, and are walked by recursion.
/// </summary>
internal sealed class LimitedXmlReader(XmlReader inner, int maxDepth, int maxElements, int maxAttributes) : XmlReader, IXmlLineInfo
{
    private int elements,
        attributes;

    public override bool Read()
    {
        var more = inner.Read();
        if (!more || inner.NodeType != XmlNodeType.Element)
            return more;
        if (inner.Depth > maxDepth)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TooDeep, "", maxDepth));
        if (++elements > maxElements)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyElements, "", maxElements));
        if ((attributes += inner.AttributeCount) > maxAttributes)
            throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyAttributes, "", maxAttributes));
        return more;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }

    public int LineNumber => (inner as IXmlLineInfo)?.LineNumber ?? 0;
    public int LinePosition => (inner as IXmlLineInfo)?.LinePosition ?? 0;
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

    public bool HasLineInfo() => inner is IXmlLineInfo lines && lines.HasLineInfo();

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
