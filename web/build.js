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
console.log(`${total} bytes packed, of ${budget}`);
if (total > budget) process.exit(1);
