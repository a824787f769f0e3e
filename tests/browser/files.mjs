// Small real files to drop, made by hand so that the tests need no other program.
import { crc32, deflateSync } from 'node:zlib';

export function png(width, height, [r, g, b]) {
  const chunk = (type, data) => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length);
    body.copy(out, 4);
    out.writeUInt32BE(crc32(body), body.length + 4);
    return out;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  const row = Buffer.concat([Buffer.from([0]), Buffer.alloc(width * 3).map((_, i) => [r, g, b][i % 3])]);
  const pixels = deflateSync(Buffer.concat(Array(height).fill(row)));
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), chunk('IHDR', head), chunk('IDAT', pixels), chunk('IEND', Buffer.alloc(0))]);
}

/** A zip whose entries are stored, as OpenRaster's are. */
export function zip(entries) {
  const parts = [], list = [];
  let at = 0;
  for (const [name, content] of entries) {
    const data = Buffer.from(content);
    const head = Buffer.alloc(30);
    head.writeUInt32LE(0x04034b50);
    head.writeUInt16LE(20, 4);
    head.writeUInt32LE(crc32(data), 14);
    head.writeUInt32LE(data.length, 18);
    head.writeUInt32LE(data.length, 22);
    head.writeUInt16LE(name.length, 26);
    const entry = Buffer.alloc(46);
    entry.writeUInt32LE(0x02014b50);
    head.copy(entry, 6, 4, 30);
    entry.writeUInt32LE(at, 42);
    list.push(entry, Buffer.from(name));
    parts.push(head, Buffer.from(name), data);
    at += 30 + name.length + data.length;
  }
  const index = Buffer.concat(list);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50);
  end.writeUInt16LE(entries.length, 8);
  end.writeUInt16LE(entries.length, 10);
  end.writeUInt32LE(index.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...parts, index, end]);
}

export function ora(colours) {
  const layers = Object.entries(colours);
  return zip([
    ['mimetype', 'image/openraster'],
    ['stack.xml', `<?xml version="1.0"?><image version="0.0.5" w="120" h="180"><stack>${layers.map(([name], i) => `<layer name="${name}" src="data/${i}.png" x="0" y="0"/>`).join('')}</stack></image>`],
    ...layers.map(([, colour], i) => [`data/${i}.png`, png(120, 180, colour)]),
    ['mergedimage.png', png(120, 180, layers[0][1])],
  ]);
}

/** A PDF of A4 pages, with each line of a page in a standard typeface. */
export function pdf(pages) {
  const font = 3 + 2 * pages.length;
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    `<< /Type /Pages /Kids [${pages.map((_, i) => `${3 + 2 * i} 0 R`).join(' ')}] /Count ${pages.length} >>`,
    ...pages.flatMap((lines, i) => {
      const drawn = `BT /F1 24 Tf 60 760 Td 30 TL ${lines.map(line => `(${line}) Tj T* `).join('')}ET`;
      return [
        `<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 ${font} 0 R >> >> /Contents ${4 + 2 * i} 0 R >>`,
        `<< /Length ${drawn.length} >>\nstream\n${drawn}\nendstream`,
      ];
    }),
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
  ];
  let file = '%PDF-1.4\n';
  const places = objects.map((written, i) => {
    const at = file.length;
    file += `${i + 1} 0 obj\n${written}\nendobj\n`;
    return at;
  });
  const table = file.length;
  file += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${places.map(p => `${String(p).padStart(10, '0')} 00000 n \n`).join('')}`;
  return Buffer.from(`${file}trailer << /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${table}\n%%EOF\n`, 'latin1');
}
