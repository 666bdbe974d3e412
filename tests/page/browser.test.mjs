// The page as people use it, in a real browser.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { after, afterEach, before, test } from "node:test";
import { nap, open, until } from "./garden.mjs";

const require = createRequire(new URL("../../web/", import.meta.url));
const { chromium } = require("playwright-core");
const axe = readFileSync(require.resolve("axe-core/axe.min.js"), "utf8");

let browser;
let garden;

before(async () => {
  browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox"],
  });
  garden = await open({ speed: 60, texts: true });
});
after(async () => {
  await browser.close();
  await garden.close();
});

// Contexts of a test end with it; what a page said in its console, or asked of
// anybody else, fails it.
let contexts = [];
let faults = [];
const leave = async () => {
  await Promise.all(contexts.map((context) => context.close()));
  contexts = [];
};
afterEach(async () => {
  await leave();
  const said = faults;
  faults = [];
  assert.deepEqual(said, []);
});

async function visit({ of = garden, key = of.key, view = "now", cut = false, ...options } = {}) {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    ...options,
  });
  contexts.push(context);
  const page = await context.newPage();
  page.setDefaultTimeout(15000);
  page.on("pageerror", (error) => faults.push(error.message));
  page.on("console", (message) => {
    // A line that a test cuts is told by the browser itself.
    if (message.type() === "error" && !cut) faults.push(message.text());
  });
  page.on("request", (request) => {
    if (new URL(request.url()).host !== new URL(of.base).host) faults.push(`asks ${request.url()}`);
  });
  await page.goto(`${of.base}/#/${view}`);
  await page.getByLabel("Your key").fill(key);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByRole("navigation").waitFor();
  return page;
}

// Another garden, or a controller of lines alone, for one test.
async function beside(options, body) {
  const made = await open(options);
  try {
    await body(made);
  } finally {
    await leave();
    await made.close();
  }
}

const duty = (page, name) => page.getByRole("region", { name, exact: true });
const switchOf = (page, name, button) => duty(page, name).getByRole("button", { name: button });
const pressed = (page, name, button) =>
  until(
    async () => (await switchOf(page, name, button).getAttribute("aria-pressed")) === "true",
    `${name} ${button}`,
  );

test("a wrong key is refused in words", async () => {
  const context = await browser.newContext();
  contexts.push(context);
  const page = await context.newPage();
  await page.goto(garden.base);
  await page.getByLabel(/key|Schlüssel/).fill("not-a-key");
  await page.keyboard.press("Enter");
  await page.getByText("there is no such key").waitFor();
});

test("levels change while they are looked at", async () => {
  const page = await visit();
  const level = duty(page, "kale").locator("data");
  const before = await level.textContent();
  await until(async () => (await level.textContent()) !== before, "another level", 30000);
});

test("what is wanted, how it is, and why the pump does what it does, in words", async () => {
  const page = await visit();
  const text = await duty(page, "top up").innerText();
  assert.match(text, /keep header between 35\s%\sand 90\s%/);
  assert.match(text, /holds \d+\sL/);
  assert.match(text, /lift: (off|runs|waits|rests)/);
  assert.match(text, /header .*(start 35|stop 90)/);
});

test("by hand asks how long, shows what is left, and off and auto do what they say", async () => {
  const page = await visit();
  await switchOf(page, "cress tray", "By hand").click();
  await page.getByLabel("For how long?").fill("10");
  await page.getByRole("button", { name: "Start" }).click();
  await pressed(page, "cress tray", "By hand");
  await duty(page, "cress tray")
    .getByText(/ left of 10m/)
    .waitFor();
  await duty(page, "cress tray").getByText("tray pump: runs").waitFor();
  await switchOf(page, "cress tray", "Off").click();
  await pressed(page, "cress tray", "Off");
  await duty(page, "cress tray").getByText("switched off").first().waitFor();
  assert.match(garden.ask("why cress_tray"), /switched off/);
  await switchOf(page, "cress tray", "Auto").click();
  await pressed(page, "cress tray", "Auto");
});

test("by hand under the second bed waters the second", async () => {
  const page = await visit();
  await switchOf(page, "leeks", "By hand").click();
  await page.getByRole("button", { name: "Start" }).click();
  await pressed(page, "leeks", "By hand");
  await until(() => /^leek_valve running/m.test(garden.ask("pumps")), "the second bed's valve");
  assert.doesNotMatch(garden.ask("pumps"), /^kale_valve running/m);
  assert.equal(await switchOf(page, "kale", "By hand").getAttribute("aria-pressed"), "false");
  await switchOf(page, "leeks", "Auto").click();
  await pressed(page, "leeks", "Auto");
});

test("the whole site is held, and goes on", async () => {
  const page = await visit();
  await page.getByRole("button", { name: "Hold everything" }).click();
  await page.getByRole("button", { name: "Go on" }).waitFor();
  await page.getByText("site on hold").first().waitFor();
  await page.getByRole("button", { name: "Go on" }).click();
  await page.getByRole("button", { name: "Hold everything" }).waitFor();
});

test("two browsers see each other's doing", async () => {
  const [one, two] = [await visit(), await visit()];
  await switchOf(one, "goats", "Off").click();
  await pressed(two, "goats", "Off");
  await switchOf(two, "goats", "Auto").click();
  await pressed(one, "goats", "Auto");
});

test("what is said elsewhere is on the screen within a second and a half", async () => {
  const page = await visit();
  await pressed(page, "seedlings", "Auto");
  const from = Date.now();
  garden.tell("seed_lamp off");
  await pressed(page, "seedlings", "Off");
  // the aim is 1.5 s; the machine of the tests is shared
  assert.ok(Date.now() - from < 1500 * 2, `${Date.now() - from} ms`);
  garden.tell("seed_lamp auto");
});

test("numbers are changed in pairs, within limits, after a question", async () => {
  const page = await visit({ view: "settings" });
  const kale = duty(page, "kale");
  const start = kale.locator('input[name="kale.start"]');
  const stop = kale.locator('input[name="kale.stop"]');
  await start.fill("150");
  await kale.getByRole("button", { name: "Change" }).click();
  await kale.getByText("expected 0\u00a0% to 100\u00a0%").waitFor();
  await start.fill("much");
  await kale.getByRole("button", { name: "Change" }).click();
  await kale.getByText("expected a number").waitFor();
  // together: each alone would cross the other mark
  await start.fill("60");
  await stop.fill("70");
  await kale.getByRole("button", { name: "Change" }).click();
  await kale.getByText("start from 50\u00a0% to 60\u00a0%, stop from 58\u00a0% to 70\u00a0%").waitFor();
  await kale.getByRole("button", { name: "Yes" }).click();
  await kale.getByText("Done.").waitFor();
  assert.match(garden.ask("settings"), /kale.start 60/);
  await kale.getByText(/the file says 50\u00a0%/).waitFor();
  // crossed marks are refused by the controller, in its words
  await start.fill("80");
  await kale.getByRole("button", { name: "Change" }).click();
  const refused = page.waitForEvent("console");
  await kale.getByRole("button", { name: "Yes" }).click();
  await kale.getByText(/Refused: /).waitFor();
  await refused;
  faults = faults.filter((text) => !text.includes("409"));
  garden.tell("kale.start 50% kale.stop 58%");
});

test("a phone is let in by digits that are shown once", async () => {
  const page = await visit({ view: "settings" });
  const phones = page.getByRole("region", { name: "Phones that text" });
  await phones.getByRole("button", { name: "Let a phone in" }).click();
  await phones.getByText(/^\d{3} \d{3}\s*$/).waitFor();
  await phones.getByText(/within 10 minutes/).waitFor();
  const guest = await visit({ key: garden.lookKey, view: "settings" });
  await guest.getByText("How you read it").waitFor();
  assert.equal(await guest.getByText("Phones that text").count(), 0);
});

test("who may only look finds nothing to press", async () => {
  const page = await visit({ key: garden.lookKey });
  await page.getByText("This key may look, but not steer.").waitFor();
  for (const button of await page.locator(".buttons button").all()) assert.ok(await button.isDisabled());
});

test("when the line is cut it says how old all is, steers nothing, and comes back", async () => {
  const page = await visit({ cut: true });
  garden.serve.kill("SIGSTOP");
  await page.getByText(/No line for/).waitFor();
  assert.ok(await switchOf(page, "top up", "Off").isDisabled());
  garden.serve.kill("SIGCONT");
  await until(async () => !(await page.getByText(/No line for/).isVisible()), "the line");
  await garden.stopServe();
  await page.getByText(/No line for/).waitFor();
  await garden.startServe();
  await until(async () => !(await page.getByText(/No line for/).isVisible()), "the line", 30000);
  assert.ok(await switchOf(page, "top up", "Off").isEnabled());
});

test("days are charts that are zoomed by dragging, a table, and a sheet", async () => {
  await beside({ speed: 900 }, async (made) => {
    await until(async () => (await made.get("/log")).events.length > 12, "events", 60000);
    const page = await visit({ of: made, view: "days" });
    const days = page.getByRole("region", { name: /^top up/ });
    const chart = days.locator(".u-over");
    await chart.waitFor();
    await page.getByRole("button", { name: "Zoom out" }).waitFor();
    const box = await chart.boundingBox();
    const span = () => page.getByText("Drag across").textContent();
    const whole = await span();
    await page.mouse.move(box.x + box.width * 0.3, box.y + 20);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.6, box.y + 20, { steps: 8 });
    await page.mouse.up();
    await until(async () => (await span()) !== whole, "the zoom");
    await page.getByRole("button", { name: "Zoom out" }).click();
    await until(async () => (await span()) === whole, "all of it");
    await days.getByText("As a table").click();
    assert.ok((await days.locator("tbody tr").count()) > 0);
    const [sheet] = await Promise.all([page.waitForEvent("download"), days.getByText("As CSV").click()]);
    assert.match(readFileSync(await sheet.path(), "utf8"), /^at,seconds,name/);
  });
});

test("the log tells events in sentences, and of one thing alone", async () => {
  const page = await visit({ view: "log" });
  await page.locator(".log li").first().waitFor();
  assert.match(await page.locator("main").innerText(), /site boot: the controller started/);
  await page.getByLabel("Of").selectOption("site");
  await until(async () => {
    const names = await page.locator(".log li strong").allInnerTexts();
    return names.length > 0 && names.every((name) => name === "site");
  }, "the site alone");
});

test("tabs of one browser share one line", async () => {
  const page = await visit();
  let lines = 0;
  page.context().on("request", (request) => (lines += new URL(request.url()).pathname === "/follow"));
  await page.reload();
  await page.getByRole("navigation").waitFor();
  const second = await page.context().newPage();
  await second.goto(garden.base);
  await second.getByRole("navigation").waitFor();
  assert.equal(lines, 1);
  await switchOf(page, "airing", "Off").click();
  await pressed(second, "airing", "Off");
  await page.close();
  await switchOf(second, "airing", "Auto").click();
  await pressed(second, "airing", "Auto");
  assert.equal(lines, 2, "the one that is left has it then");
});

test("all of it is reached by the keyboard alone", async () => {
  const page = await visit();
  const focused = () => page.evaluate(() => document.activeElement.textContent);
  for (let i = 0; i < 40 && (await focused()) !== "By hand"; i++) await page.keyboard.press("Tab");
  assert.equal(await focused(), "By hand");
  await page.keyboard.press("Enter");
  await page.getByLabel("For how long?").waitFor();
  assert.equal(await page.evaluate(() => document.activeElement.type), "number");
  await page.keyboard.press("Escape");
  await until(async () => !(await page.getByLabel("For how long?").isVisible()), "its end");
});

test("nothing is wider than a narrow phone, light or dark", async () => {
  for (const [width, colorScheme] of [
    [320, "light"],
    [320, "dark"],
    [768, "dark"],
    [1280, "light"],
  ]) {
    const page = await visit({ viewport: { width, height: 800 }, colorScheme });
    for (const view of ["now", "days", "log", "settings"]) {
      await page.goto(`${garden.base}/#/${view}`);
      await page.locator("main section, main button").first().waitFor();
      await nap(300);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth);
      assert.ok(wide <= width, `${view} at ${width}: ${wide}`);
    }
  }
});

test("axe finds nothing, in any view, light and dark, in either language", async () => {
  for (const options of [{}, { colorScheme: "dark" }, { viewport: { width: 390, height: 844 } }]) {
    const page = await visit({ bypassCSP: true, ...options });
    for (const view of ["now", "days", "log", "settings"]) {
      await page.goto(`${garden.base}/#/${view}`);
      await page.locator("main section, main button").first().waitFor();
      await nap(300);
      await page.evaluate(axe);
      const { violations } = await page.evaluate(() => window.axe.run());
      const found = violations.map(
        ({ id, nodes }) => `${view}: ${id}: ${nodes[0].html} ${nodes[0].failureSummary}`,
      );
      assert.deepEqual(found, []);
    }
  }
});

test("it speaks German and US units for who wants that", async () => {
  const page = await visit({ view: "settings" });
  await page.getByLabel("Units").selectOption("us");
  await page.getByLabel("Language").selectOption("de");
  await page.getByRole("link", { name: "Jetzt" }).click();
  await page.getByText(/header zwischen 35\s%\sund 90\s% halten/).waitFor();
  await page
    .getByText(/enthält \d+\sgal/)
    .first()
    .waitFor();
  await page.getByText(/psi/).first().waitFor();
  const { texts } = await import("../../web/src/texts.js");
  const shape = (value) =>
    typeof value === "object"
      ? Object.entries(value).map(([name, part]) => [name, shape(part)])
      : typeof value;
  assert.deepEqual(shape(texts.de), shape(texts.en));
});

test("signing out ends it", async () => {
  // The line ends with the session, and the browser may see that first.
  const page = await visit({ view: "settings", cut: true });
  await page.getByRole("button", { name: "Sign out" }).click();
  await page.getByLabel("Your key").waitFor();
  await page.reload();
  await page.getByLabel("Your key").waitFor();
});

// A controller of lines alone

const evil = `<img src=x onerror="window.hit=1"><script>window.hit=1</script>`;
const thing = (name, kind, more = {}) => ({ name, kind, ...more });
const puppetSite = (name) => ({
  name,
  id: "puppet",
  units: "metric",
  protocol: 1,
  fingerprint: "0",
  run: "r1",
  things: [
    thing("soil", "sensor", { unit: "%" }),
    thing("well", "tank", { unit: "%", sensor: "soil" }),
    thing("bore", "pump"),
    thing("bed", "duty", { pump: "bore", keep: "well", start: 20, stop: 60 }),
    thing(evil, "sensor", { unit: evil }),
  ],
  settings: [{ word: `bed.${evil}`, unit: evil, value: 1, least: 0, most: 2, file: 1 }],
});
const puppetNow = (text, is = "blocked") => ({
  t: 1900000000,
  utc: 1900000000,
  levels: {
    soil: { value: 30, unit: "%", quality: "good" },
    well: { value: 41.5, unit: "%", quality: "good", litres: 90 },
  },
  out: {},
  pumps: { bore: { is, switch: "auto", why: text } },
  duties: { bed: { asks: true, why: text } },
  days: {},
  standing: [text],
});

test("script in every name and text stays text", async () => {
  await beside({ history: false, made: { site: puppetSite(evil), now: puppetNow(evil) } }, async (made) => {
    made.puppet.say({
      event: {
        number: 1,
        t: 1900000000,
        utc: 1900000000,
        of: evil,
        kind: evil,
        why: evil,
        by: evil,
      },
    });
    const page = await visit({ of: made });
    await page.getByText("onerror").first().waitFor();
    for (const view of ["log", "settings", "now"]) {
      await page.goto(`${made.base}/#/${view}`);
      await page.getByText("onerror").first().waitFor();
    }
    assert.equal(await page.evaluate(() => window.hit), undefined);
    assert.equal(await page.locator("main img").count(), 0);
  });
});

test("a trip is seen at once, and cleared after a question", async () => {
  const why = "bore: well did not rise 5 mm in 40 s; it tries again in 9m";
  await beside(
    {
      history: false,
      made: { site: puppetSite("Puppet"), now: puppetNow(why, "tripped") },
    },
    async (made) => {
      const page = await visit({ of: made });
      await page.getByRole("heading", { name: "Needs somebody" }).waitFor();
      await duty(page, "bed").getByText("bore: tripped").waitFor();
      await switchOf(page, "bed", "Clear").click();
      await page.getByRole("button", { name: "Yes" }).click();
      await until(() => made.puppet.told.length === 1, "the word");
      assert.deepEqual([made.puppet.told[0].tell, made.puppet.told[0].by], [["bore clear"], "page keeper"]);
      made.puppet.say({
        now: puppetNow("well 41.5 % needs nothing until start 20 %", "off"),
      });
      await duty(page, "bed").getByText("bore: off").waitFor();
    },
  );
});

test("a controller that counts anew after a start is heard", async () => {
  const plots = { ash: plot("ash", []) };
  const event = (number, why) => ({
    event: { number, t: 1900000000 + number, utc: 1900000000 + number, of: "bore", kind: "start", why },
  });
  await beside({ history: false, plots }, async (made) => {
    const page = await visit({ of: made, view: "log" });
    made.puppets.ash.say(event(40, "before the start"));
    await page.getByText("before the start").waitFor();
    made.puppets.ash.say({ site: { ...plots.ash.site, run: "another" } });
    made.puppets.ash.say(event(0, "after the start"));
    await until(
      async () => (await made.get("/log")).events.some(({ why }) => why === "after the start"),
      "the event",
    );
  });
});

test("a controller that does not answer is told of, and nothing is taken as done", async () => {
  await beside(
    {
      history: false,
      made: { site: puppetSite("Puppet"), now: puppetNow("resting", "off") },
    },
    async (made) => {
      made.puppet.answerBy(() => undefined);
      const page = await visit({ of: made, cut: true });
      await switchOf(page, "bed", "Off").click();
      await page.getByText(/Refused: the controller has not answered/).waitFor();
      made.puppet.stop();
      await page.getByText("The controller does not answer.").waitFor();
      assert.ok(await switchOf(page, "bed", "Off").isDisabled());
    },
  );
});

const plot = (name, standing) => ({
  site: { ...puppetSite(name), id: name, name: `Plot ${name}` },
  now: { ...puppetNow("resting", "off"), standing },
});

test("of several sites those that need somebody come first, and one click opens one", async () => {
  const plots = {
    ash: plot("ash", []),
    birch: plot("birch", []),
    cedar: plot("cedar", ["well holds only 4 %", "bore tripped", "the float is stuck", "a fourth"]),
  };
  await beside({ history: false, plots }, async (made) => {
    const page = await visit({ of: made, view: "" });
    await page.getByRole("region", { name: "Needs somebody" }).getByText("well holds only 4 %").waitFor();
    assert.deepEqual(await page.locator("section.gardens h2").allInnerTexts(), [
      "Needs somebody 1",
      "All is well 2",
    ]);
    await page.getByText("and 2 more").waitFor();
    // One goes: it is not among those that are well any more.
    made.puppets.birch.stop();
    await page.getByRole("region", { name: "Not there" }).getByText("not there since").waitFor();
    await page.evaluate(axe);
    assert.deepEqual((await page.evaluate(() => window.axe.run())).violations, []);
    await page.getByLabel("Find").fill("ASH");
    await until(async () => (await page.locator("section.gardens li").count()) === 1, "one");
    await page.getByRole("link", { name: "Plot ash" }).click();
    await page.getByRole("heading", { name: "Plot ash" }).waitFor();
    assert.equal(new URL(page.url()).hash, "#/now/ash");
    await switchOf(page, "bed", "Off").click();
    await until(() => made.puppets.ash.told.length === 1, "the word");
    assert.equal(made.puppets.cedar.told.length, 0);
    // Views go on with the same one, and its address opens it.
    await page.getByRole("link", { name: "Log" }).click();
    assert.equal(new URL(page.url()).hash, "#/log/ash");
    await page.goto(`${made.base}/#/now/cedar`);
    await page.getByRole("heading", { name: "Plot cedar" }).waitFor();
    await page.getByRole("link", { name: "Sites" }).click();
    await page.getByRole("link", { name: "Plot cedar" }).waitFor();
  });
});

test("on a slow phone the first level is there within a second and a half", async () => {
  const page = await visit({ viewport: { width: 390, height: 844 } });
  const phone = await page.context().newPage();
  const session = await page.context().newCDPSession(phone);
  await session.send("Network.enable");
  await session.send("Network.setCacheDisabled", { cacheDisabled: true });
  await session.send("Network.emulateNetworkConditions", {
    offline: false,
    latency: 40,
    downloadThroughput: (1.5e6 / 8) | 0,
    uploadThroughput: (0.75e6 / 8) | 0,
  });
  await session.send("Emulation.setCPUThrottlingRate", { rate: 4 });
  const from = Date.now();
  await phone.goto(garden.base, { waitUntil: "commit" });
  await phone.locator(".level data").first().waitFor();
  const ms = Date.now() - from;
  console.log(`first level after ${ms} ms`);
  assert.ok(ms < 1500 * 2, `${ms} ms`); // the same
});

test("an hour of updates leaves memory as it was", async () => {
  await beside(
    {
      history: false,
      made: { site: puppetSite("Puppet"), now: puppetNow("resting", "off") },
    },
    async (made) => {
      const page = await visit({ of: made });
      const session = await page.context().newCDPSession(page);
      const heap = async () => {
        await session.send("HeapProfiler.collectGarbage");
        return (await session.send("Runtime.getHeapUsage")).usedSize;
      };
      const hour = async (from) => {
        for (let i = from; i < from + 3600; i++) {
          made.puppet.say({
            now: {
              t: i,
              levels: {
                well: {
                  value: (i % 800) / 10,
                  unit: "%",
                  quality: "good",
                  litres: i % 90,
                },
              },
            },
          });
          if (i % 4 === 0)
            made.puppet.say({
              event: {
                number: i,
                t: i,
                utc: i,
                of: "bore",
                kind: "start",
                why: `run ${i}`,
              },
            });
          if (i % 60 === 0) await nap(4);
        }
        made.puppet.say({
          now: {
            levels: {
              well: { value: 12.3, unit: "%", quality: "good", litres: 7 },
            },
          },
        });
        await page.getByText("12.3\u00a0%").first().waitFor();
        made.puppet.say({
          now: {
            levels: {
              well: { value: 45.6, unit: "%", quality: "good", litres: 7 },
            },
          },
        });
        await page.getByText("45.6\u00a0%").first().waitFor();
        return [await heap(), made.memory()];
      };
      const [before, serveBefore] = await hour(1);
      const [later, serveLater] = await hour(4001);
      console.log(`page ${before} then ${later} bytes, serve ${serveBefore} then ${serveLater} kB`);
      assert.ok(later < before * 1.1 + 200000, `page: ${before} to ${later}`);
      assert.ok(serveLater < serveBefore * 1.1 + 1024, `serve: ${serveBefore} to ${serveLater}`);
    },
  );
});
