namespace Chronotype.Core.Content;

/// <summary>Why a zip was kept as the one file that it is instead of as the folder in it.</summary>
public enum ArrivalNoticeCode
{
    /// <summary>It is cut short, or a part does not fit its check sum.</summary>
    ZipDamaged,

    /// <summary>It has a link in it. <see cref="ArrivalNotice.Name"/>: which.</summary>
    ZipHasLink,

    /// <summary>It is locked with a password.</summary>
    ZipLocked,

    /// <summary>Bytes under the name of a folder. <see cref="ArrivalNotice.Name"/>: which.</summary>
    ZipFolderWithBytes,

    /// <summary>
    /// A path that is none inside a folder. <see cref="ArrivalNotice.Name"/>: which; <see cref="ArrivalNotice.Path"/>: why.
    /// </summary>
    ZipPathRefused,

    /// <summary>Two files of one name. <see cref="ArrivalNotice.Name"/>: which.</summary>
    ZipNameTwice,

    /// <summary>It has no files.</summary>
    ZipEmpty,

    /// <summary>More files than a folder may have. <see cref="ArrivalNotice.Number"/>: how many it may.</summary>
    ZipTooManyFiles,

    /// <summary>It unpacks to far more than its size.</summary>
    ZipBomb,
}

/// <summary>What a person should know about how content arrived, as values.</summary>
/// <param name="Code">What happened.</param>
/// <param name="Name">As the code says; not trusted.</param>
/// <param name="Number">As the code says.</param>
/// <param name="Path">As the code says.</param>
public sealed record ArrivalNotice(ArrivalNoticeCode Code, string Name = "", long Number = 0, PathFault? Path = null);
