/**
 * Holds the folders of the interface to one order: each may use those below it, and nothing goes
 * round in a circle. `npm run lint` runs it.
 */
import { existsSync, readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join, normalize, relative, sep } from "node:path";
import { fileURLToPath } from "node:url";

const SOURCE = join(dirname(fileURLToPath(import.meta.url)), "src");

/** From the top down; folders of one line do not use each other. */
const LAYERS = [
  ["."],
  ["batch", "episode", "join", "shelf"],
  ["stages"],
  ["page"],
  ["actions"],
  ["record"],
  ["view", "playback"],
  ["api"],
  ["theme"],
];
/** Used by all: numbers and times. */
const BASIC = new Set(["time.ts", "measures.ts"]);

const files = readdirSync(SOURCE, { recursive: true })
  .map((name) => join(SOURCE, String(name)))
  .filter((path) => /\.tsx?$/.test(path) && statSync(path).isFile());

const IMPORT = /(?:from|import)\s*\(?\s*"(\.[^"]*)"/g;

function found(from, named) {
  const base = normalize(join(dirname(from), named));
  return [base, `${base}.ts`, `${base}.tsx`, join(base, "index.ts")].find(
    (path) => existsSync(path) && statSync(path).isFile(),
  );
}

const short = (path) => relative(SOURCE, path);
const folder = (path) => (short(path).includes(sep) ? short(path).split(sep)[0] : ".");
const layer = (path) => LAYERS.findIndex((folders) => folders.includes(folder(path)));

const uses = new Map(
  files.map((path) => [
    path,
    [...readFileSync(path, "utf8").matchAll(IMPORT)].flatMap((m) => found(path, m[1]) ?? []),
  ]),
);

const problems = [];
for (const [path, used] of uses) {
  if (layer(path) < 0) problems.push(`${short(path)}: its folder has no place in the order`);
  for (const other of used) {
    if (folder(path) === folder(other) || BASIC.has(short(other))) continue;
    if (layer(other) <= layer(path)) problems.push(`${short(path)} may not use ${short(other)}`);
  }
}

const done = new Set();
function follow(path, above) {
  const at = above.indexOf(path);
  if (at >= 0)
    return void problems.push(`circle: ${[...above.slice(at), path].map(short).join(" → ")}`);
  if (done.has(path)) return;
  for (const other of uses.get(path) ?? []) follow(other, [...above, path]);
  done.add(path);
}
for (const path of files) follow(path, []);

for (const problem of problems) console.error(problem);
process.exit(problems.length ? 1 : 0);
