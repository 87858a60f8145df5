// Builds styles and script, and copies shipped fonts into src/static.
// With --check it writes nothing and fails where src/static is not up to date.
import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { buildSync } from "esbuild";
import subsetFont from "subset-font";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const modules = join(root, "node_modules");
const copies = {
  "src/static/fonts/inter-latin.woff2": "@fontsource-variable/inter/files/inter-latin-wght-normal.woff2",
  "src/static/fonts/inter-latin-ext.woff2": "@fontsource-variable/inter/files/inter-latin-ext-wght-normal.woff2",
  "src/static/fonts/inter-LICENSE.txt": "@fontsource-variable/inter/LICENSE",
  "src/static/fonts/noto-music-LICENSE.txt": "@fontsource/noto-music/LICENSE",
  "src/static/fonts/noto-symbols-LICENSE.txt": "@fontsource/noto-sans-symbols/LICENSE",
  "tests/vendor/axe.min.js": "axe-core/axe.min.js",
};
// Of these only a few signs are used: sharps, flats and notes.
const subsets = {
  "src/static/fonts/noto-music.woff2": ["@fontsource/noto-music/files/noto-music-music-400-normal.woff2", 0x1D12A, 0x1D12B],
  "src/static/fonts/noto-symbols.woff2":
    ["@fontsource/noto-sans-symbols/files/noto-sans-symbols-symbols-400-normal.woff2", 0x2669, 0x266F],
  "src/static/fonts/noto-symbols-bold.woff2":
    ["@fontsource/noto-sans-symbols/files/noto-sans-symbols-symbols-700-normal.woff2", 0x2669, 0x266F],
};

const work = mkdtempSync(join(tmpdir(), "fair-reach-"));
const css = join(work, "app.css");
execFileSync(process.execPath, [join(modules, "@tailwindcss/cli/dist/index.mjs"), "--minify",
  "--input", join(root, "src/styles/app.css"), "--output", css], { cwd: root, stdio: ["ignore", "ignore", "pipe"] });
const wanted = new Map(Object.entries(copies).map(([to, from]) => [to, readFileSync(join(modules, from))]));
for (const [to, [from, first, last]] of Object.entries(subsets)) {
  const signs = Array.from({ length: last - first + 1 }, (_, n) => String.fromCodePoint(first + n)).join("");
  wanted.set(to, await subsetFont(readFileSync(join(modules, from)), signs, { targetFormat: "woff2" }));
}
wanted.set("src/static/css/app.css", readFileSync(css));
const [script] = buildSync({ entryPoints: [join(root, "src/scripts/app.js")], bundle: true, minify: true,
  format: "iife", target: "es2022", legalComments: "inline", write: false }).outputFiles;
wanted.set("src/static/js/app.js", Buffer.from(script.contents));
rmSync(work, { recursive: true });

const stale = [];
for (const [to, content] of wanted) {
  const path = join(root, to);
  if (process.argv.includes("--check")) {
    let there = null;
    try { there = readFileSync(path); } catch { /* missing is stale */ }
    if (there === null || !there.equals(content)) stale.push(to);
  } else {
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, content);
  }
}
if (stale.length) {
  console.error(`Not up to date, run "make static": ${stale.join(", ")}`);
  process.exit(1);
}
