namespace Chronotype.Storage.Entities;

/// <summary>A row that changed and is not copied beside the content yet. Triggers write these; nothing else does.</summary>
public sealed class MirrorNote
{
    public long Id { get; set; }
    public required string TableName { get; set; }
    public required string RowKey { get; set; }
}
