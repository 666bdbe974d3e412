// A picture of many sites, each made of nothing but lines: node docs/sites_shot.js FOLDER
import { createRequire } from "node:module";
import { join } from "node:path";
import { nap, open } from "../tests/page/garden.js";

const { chromium } = createRequire(new URL("../web/", import.meta.url))("playwright-core");
const [folder] = process.argv.slice(2);

const names = [
  "Keeper's Garden",
  "Upper terrace",
  "Lower terrace",
  "School beds",
  "Orchard north",
  "Orchard south",
  "Mill pond",
  "Glass house 1",
  "Glass house 2",
  "Herb walls",
  "Nut walk",
  "Seedling shed",
  "Rhubarb yard",
  "Old quarry",
  "Hop rows",
  "Berry lane",
];
const standing = {
  "Lower terrace": ["cistern_low cistern below 8.00 %: nothing is left to give"],
  "Glass house 2": [
    "mist tripped: no flow was seen within 20s of its start",
    "bench_soil has no reading: it has not answered for 5m",
    "mist_pump blocked: header 7.90 % is below dry_below 10.00 %, until above 14.00 %",
  ],
};
const plots = Object.fromEntries(
  names.map((name, i) => [
    `plot_${i}`,
    {
      site: { name, id: `plot_${i}`, run: "1", things: [] },
      now: { t: 1, standing: standing[name] ?? [] },
    },
  ]),
);

const garden = await open({ history: false, plots });
garden.puppets.plot_9.stop();
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: "en-GB" });
await page.goto(garden.base);
await page.getByLabel("Your key").fill(garden.key);
await page.keyboard.press("Enter");
await page.getByRole("heading", { name: "Not there" }).waitFor();
await nap(500);
await page.screenshot({ path: join(folder, "page-sites.png") });
await browser.close();
await garden.close();
