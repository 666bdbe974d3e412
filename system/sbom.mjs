// What the packages in a folder are made of, as SPDX 2.3: node sbom.mjs FOLDER. It is
// ours, the libraries that the packages ask Debian for, and what is built into the page.
import { execFileSync } from "node:child_process";
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";

const folder = process.argv[2];
const root = new URL("..", import.meta.url).pathname;
const run = (...words) => execFileSync(words[0], words.slice(1), { encoding: "utf8" }).trim();
const read = (path) => readFileSync(join(root, path), "utf8");

const version = read("include/cuplatch/base.h").match(/CUP_VERSION "(.+)"/)[1];
const date = read("CHANGELOG.md").match(/^## \S+ \((.+)\)/m)[1];
const debs = readdirSync(folder).filter((name) => /^(lib)?cuplatch[^/]*\.deb$/.test(name) && !/dbgsym/.test(name));
const depends = debs
  .flatMap((deb) => run("dpkg-deb", "-f", join(folder, deb), "Depends").split(/,\s*/))
  .map((one) => one.split(/[ |(]/)[0])
  .filter((name) => name && !name.includes("cuplatch"));
const locked = JSON.parse(read("web/package-lock.json"));
const bundled = Object.keys(locked.packages[""].dependencies);

const id = (name) => `SPDXRef-${name.replace(/[^A-Za-z0-9.-]/g, "-")}`;
const one = (name, versionInfo, license, purl) => ({
  SPDXID: id(name),
  name,
  versionInfo,
  downloadLocation: "NOASSERTION",
  filesAnalyzed: false,
  licenseConcluded: "NOASSERTION",
  licenseDeclared: license,
  copyrightText: "NOASSERTION",
  ...(purl && { externalRefs: [{ referenceCategory: "PACKAGE-MANAGER", referenceType: "purl", referenceLocator: purl }] }),
});
const libraries = [...new Set(depends)].sort().map((name) => {
  const of = run("dpkg-query", "-W", "-f", "${Version}", name);
  return one(name, of, "NOASSERTION", `pkg:deb/debian/${name}@${encodeURIComponent(of)}`);
});
const parts = bundled.map((name) => {
  const { version: of, license } = locked.packages[`node_modules/${name}`];
  return one(name, of, license ?? "MIT", `pkg:npm/${name}@${of}`);
});
const relation = (from, relationshipType, to) => ({ spdxElementId: from, relationshipType, relatedSpdxElement: to });
const own = one("cuplatch", version, "MIT");
const list = {
  spdxVersion: "SPDX-2.3",
  dataLicense: "CC0-1.0",
  SPDXID: "SPDXRef-DOCUMENT",
  name: `cuplatch-${version}`,
  documentNamespace: `https://cuplatch.invalid/spdx/cuplatch-${version}`,
  creationInfo: { created: `${date}T12:00:00Z`, creators: ["Tool: system/sbom.mjs"] },
  packages: [own, ...libraries, ...parts],
  relationships: [
    relation("SPDXRef-DOCUMENT", "DESCRIBES", own.SPDXID),
    ...libraries.map(({ SPDXID }) => relation(own.SPDXID, "DEPENDS_ON", SPDXID)),
    ...parts.map(({ SPDXID }) => relation(own.SPDXID, "CONTAINS", SPDXID)),
  ],
};
const to = join(folder, `cuplatch_${version}.spdx.json`);
writeFileSync(to, JSON.stringify(list, null, 2) + "\n");
console.log(`${to}: ${libraries.length} libraries, ${parts.length} parts of the page`);
