// The docs as a site, in a real browser: found by a word, read on a phone, and by
// whoever does not see.
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import { readFileSync } from "node:fs";
import { createServer } from "node:http";
import { createRequire } from "node:module";
import { extname, join, normalize } from "node:path";
import { after, before, test } from "node:test";

const require = createRequire(new URL("../../web/", import.meta.url));
const { chromium } = require("playwright-core");
const axe = readFileSync(require.resolve("axe-core/axe.min.js"), "utf8");
const root = process.env.CUPLATCH_SITE;
const kinds = { ".html": "text/html", ".css": "text/css", ".js": "text/javascript", ".png": "image/png" };

let browser, server, base, page;

before(async () => {
  server = createServer(async ({ url }, answer) => {
    try {
      const path = normalize(new URL(url, "http://here").pathname);
      const body = await readFile(join(root, path));
      answer.writeHead(200, { "Content-Type": kinds[extname(path)] ?? "application/json" }).end(body);
    } catch {
      answer.writeHead(404).end();
    }
  }).listen(0, "127.0.0.1");
  await new Promise((listens) => server.once("listening", listens));
  base = `http://127.0.0.1:${server.address().port}`;
  browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox"],
  });
  page = await browser.newPage();
});
after(async () => {
  await browser.close();
  server.close();
});

test("a word finds its page", async () => {
  await page.goto(`${base}/index.html?q=dry_clear`);
  const found = page.locator("#mkdocs-search-results a").first();
  await found.waitFor();
  await found.click();
  await page.waitForLoadState();
  assert.match(await page.locator("main").innerText(), /dry_clear/);
});

test("every page of the list is there, with its pictures", async () => {
  await page.goto(`${base}/index.html`);
  const links = await page.locator("nav a").evaluateAll((all) => all.map(({ href }) => href));
  assert.ok(links.length > 30);
  for (const link of links) {
    assert.equal((await page.goto(link)).status(), 200, link);
    const broken = await page
      .locator("main img")
      .evaluateAll((all) => all.filter(({ naturalWidth }) => !naturalWidth).map(({ src }) => src));
    assert.deepEqual(broken, [], link);
  }
});

test("it is read on a phone, by keys, and aloud", async () => {
  for (const path of ["index.html", "docs/reference/site-file.html", "docs/howto/linux.html"]) {
    await page.setViewportSize({ width: 320, height: 700 });
    await page.goto(`${base}/${path}`);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    assert.ok(wide <= 320, `${path} is ${wide} wide`);
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.addScriptTag({ content: axe });
    const { violations } = await page.evaluate(() =>
      globalThis.axe.run({ runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"] }),
    );
    assert.deepEqual(
      violations.map(({ id, nodes }) => `${id}: ${nodes[0].html}`),
      [],
      path,
    );
  }
});
