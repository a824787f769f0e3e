// What was dropped or chosen, with the folders that it lay in. What desktops leave in folders for themselves is no file of anybody's.
const litter = /^(\.DS_Store|Thumbs\.db|desktop\.ini|\._.*|~\$.*|\.~lock\..*)$/i;

/** @returns `{ found: [{ file, path }], folder }`, the folder's name where it is one folder that was dropped. */
export async function entries(roots, files) {
  if (!roots.length) return chosen(files);
  const found = [];
  const walk = async (entry, path) => {
    if (entry.isFile) {
      if (!litter.test(entry.name)) found.push({ file: await new Promise((done, no) => entry.file(done, no)), path: path + entry.name });
      return;
    }
    const reader = entry.createReader();
    for (let some; (some = await new Promise((done, no) => reader.readEntries(done, no))).length;)
      for (const one of some) await walk(one, `${path}${entry.name}/`);
  };
  for (const root of roots) await walk(root, '');
  return { found, folder: roots.length === 1 && roots[0].isDirectory ? roots[0].name : null };
}

export const chosen = files => {
  const found = [...files].filter(f => !litter.test(f.name)).map(file => ({ file, path: file.webkitRelativePath || file.name }));
  const tops = new Set(found.map(f => f.path.split('/')[0]));
  return { found, folder: found.length && tops.size === 1 && found[0].path.includes('/') ? [...tops][0] : null };
};
