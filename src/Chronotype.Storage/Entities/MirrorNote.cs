namespace Chronotype.Storage.Entities;

/// <summary>A row that changed, until it is copied beside the content and a while after. Triggers write these; nothing else does.</summary>
public sealed class MirrorNote
{
    public long Id { get; set; }
    public required string TableName { get; set; }
    public required string RowKey { get; set; }
}
