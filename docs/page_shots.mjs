// Pictures of the page in a real browser: node docs/page_shots.mjs URL KEY FOLDER [sites]
import { createRequire } from "node:module";
import { join } from "node:path";

const { chromium } = createRequire(new URL("../web/", import.meta.url))("playwright-core");
const [url, key, folder, many] = process.argv.slice(2);

const one = [
  { name: "page-now", view: "now", width: 1280, height: 800 },
  { name: "page-days", view: "days", width: 1280, height: 800 },
  { name: "page-phone", view: "now", width: 390, height: 844, scheme: "dark" },
];
const shots = many ? [{ name: "page-sites", view: "", width: 1280, height: 800 }] : one;

const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
for (const { name, view, width, height, scheme = "light" } of shots) {
  const page = await browser.newPage({ viewport: { width, height }, colorScheme: scheme, locale: "en-GB" });
  await page.goto(`${url}/#/${view}`);
  await page.getByLabel("Your key").fill(key);
  await page.keyboard.press("Enter");
  await page.locator(many ? "h2" : "section.duty").first().waitFor();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await page.close();
}
await browser.close();
