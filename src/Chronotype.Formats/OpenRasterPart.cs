using System.IO.Compression;
using System.IO.Hashing;
using System.Security.Cryptography;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>One part of an OpenRaster file, read to its end.</summary>
/// <param name="Bytes">The hash of its bytes as they unpack.</param>
/// <param name="Painted">What is painted in it; null where it is no layer, or past what is decoded.</param>
internal sealed record OpenRasterPart(ContentHash Bytes, PaintedPixels? Painted)
{
    /// <summary>What all parts of a file together may unpack to.</summary>
    public sealed class Budget
    {
        public long Bytes { get; set; } = Limits.Pixels * 16;

        public long Pixels { get; set; } = Limits.LayerPixels;
    }

    /// <exception cref="UnreadableFileException">It is damaged, or unpacks to more than is read.</exception>
    public static OpenRasterPart Read(ZipArchiveEntry entry, bool isLayer, Budget budget, CancellationToken cancel)
    {
        try
        {
            using var stream = new CheckedStream(entry.Open(), budget);
            PaintedPixels? painted = null;
            UnreadableFileException? unpainted = null;
            try
            {
                painted = isLayer ? Paint(stream, budget, cancel) : null;
            }
            catch (UnreadableFileException e)
            {
                unpainted = e;
            }
            // What was wrong with the bytes goes before what the picture library made of them.
            stream.Drain(cancel);
            // The platform's reader does not hold what it unpacked against the sum in the list of parts.
            if (stream.Crc != entry.Crc32)
                throw new InvalidDataException("The part's check sum differs.");
            return unpainted is null
                ? new OpenRasterPart(stream.Hash(), painted)
                : throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, entry.FullName), unpainted);
        }
        catch (InvalidDataException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, entry.FullName), e);
        }
    }

    private static PaintedPixels? Paint(Stream stream, Budget budget, CancellationToken cancel) =>
        Pictures.Guard(() =>
        {
            var image = Image.NewFromStream(stream, access: Enums.Access.Sequential, failOn: Enums.FailOn.Truncated);
            var pixels = (long)image.Width * image.Height;
            if (Limits.TooLarge(image.Width, image.Height) is not null || pixels > budget.Pixels)
            {
                image.Dispose();
                return null;
            }
            budget.Pixels -= pixels;
            using var rows = new PixelRows(image);
            return PaintedPixels.Of(rows, cancel);
        });

    /// <summary>Hashes what is read through it.</summary>
    private sealed class CheckedStream(Stream inner, Budget budget) : ForwardStream
    {
        private readonly IncrementalHash sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        private readonly Crc32 crc = new();

        // What a library swallows on its way is thrown at its end.
        private Exception? failure;

        public uint Crc => crc.GetCurrentHashAsUInt32();

        public ContentHash Hash() => ContentHash.FromDigest(sha.GetHashAndReset());

        public override int Read(byte[] buffer, int offset, int count)
        {
            if (failure is not null)
                return 0;
            try
            {
                var read = inner.Read(buffer, offset, count);
                budget.Bytes -= read;
                if (budget.Bytes < 0)
                    throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
                sha.AppendData(buffer, offset, read);
                crc.Append(buffer.AsSpan(offset, read));
                return read;
            }
            catch (Exception e) when (e is InvalidDataException or UnreadableFileException)
            {
                failure = e;
                return 0;
            }
        }

        public void Drain(CancellationToken cancel)
        {
            var buffer = new byte[1 << 16];
            while (Read(buffer, 0, buffer.Length) > 0)
                cancel.ThrowIfCancellationRequested();
            if (failure is not null)
                System.Runtime.ExceptionServices.ExceptionDispatchInfo.Throw(failure);
        }

        protected override void Dispose(bool disposing)
        {
            if (disposing)
            {
                sha.Dispose();
                inner.Dispose();
            }
            base.Dispose(disposing);
        }
    }
}
