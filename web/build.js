// Bundles src/ into a folder: node build.js FOLDER. Each file is there twice, as
// it is and packed; what they come to is printed and held to its budget.
import { build } from "esbuild";
import { copyFileSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { join } from "node:path";

const out = process.argv[2];
const budget = 120_000;

if (!out) {
  console.error("use: node build.js FOLDER");
  process.exit(2);
}
rmSync(out, { recursive: true, force: true });
mkdirSync(out, { recursive: true });
await build({
  entryPoints: { page: "src/main.jsx", style: "src/style.css" },
  outdir: out,
  bundle: true,
  splitting: true,
  format: "esm",
  target: ["chrome100", "firefox100", "safari15"],
  chunkNames: "[name]-[hash]",
  minify: true,
  jsx: "automatic",
  jsxImportSource: "preact",
  legalComments: "eof",
});
for (const name of ["index.html", "icon.svg", "page.webmanifest"])
  copyFileSync(join("src", name), join(out, name));

let total = 0;
for (const name of readdirSync(out)) {
  const packed = gzipSync(readFileSync(join(out, name)), { level: 9 });
  writeFileSync(join(out, name + ".gz"), packed);
  total += packed.length;
}
// Whoever is in it, in their own words: ours first, then each package that is bundled.
const root = new URL("..", import.meta.url).pathname;
const { dependencies } = JSON.parse(readFileSync(join(root, "web/package.json"), "utf8"));
const licences = [["Cup Latch", join(root, "LICENSE")]];
for (const name of Object.keys(dependencies)) {
  const folder = join(root, "web/node_modules", name);
  const file = readdirSync(folder).find((one) => /^licen[cs]e/i.test(one));
  if (!file) throw new Error(`${name} comes without a licence`);
  licences.push([name, join(folder, file)]);
}
const told = licences.map(([name, file]) => `${name}\n\n${readFileSync(file, "utf8").trim()}\n`);
writeFileSync(join(out, "licences.txt"), told.join(`\n${"-".repeat(72)}\n\n`));

console.log(`${total} bytes packed, of ${budget}`);
if (total > budget) process.exit(1);
