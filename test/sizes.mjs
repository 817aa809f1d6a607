// Says which lines of code are wider than 120 signs (what the formatter can't break), which files are longer than 400
// lines, and where a screen uses the browser's own list or table instead of that of web/ui; ends with an error when
// there is one.
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const width = 120;
const length = 400;
const root = fileURLToPath(new URL('..', import.meta.url));
const folders = ['core', 'sections', 'server', 'web', 'demo', 'standins', 'start', 'test', 'e2e', 'bench'];

const faults = folders
  .flatMap((folder) => readdirSync(path.join(root, folder), { recursive: true }).map((file) => path.join(folder, file)))
  .filter((file) => /\.(ts|tsx|mts|mjs|cjs|css)$/.test(file))
  .flatMap((file) => {
    const lines = readFileSync(path.join(root, file), 'utf8').trimEnd().split('\n');
    const wide = lines.flatMap((line, i) =>
      [...line].length > width ? [`${file}:${i + 1} is ${[...line].length} signs wide; ${width} is the limit`] : [],
    );
    const long =
      lines.length > length ? [`${file} has ${lines.length} lines; split it by subject, ${length} is the limit`] : [];
    const own =
      /^(web|sections)\/.*\.tsx$/.test(file) && !file.startsWith('web/ui/') && file !== 'sections/list/ListTable.tsx'
        ? lines.flatMap((line, i) =>
            /<(select|datalist|table)\b/.test(line) ? [`${file}:${i + 1} has its own ${line.trim()}; use web/ui`] : [],
          )
        : [];
    return [...wide, ...long, ...own];
  });
for (const fault of faults) console.error(fault);
process.exitCode = faults.length > 0 ? 1 : 0;
