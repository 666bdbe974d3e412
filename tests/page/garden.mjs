// A garden that runs, a cuplatch-serve beside it with a page, and keys to it; and
// a controller made of nothing but lines, for what no garden says.
import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";

const need = (name) => {
  if (!process.env[name]) throw new Error(`${name} is not set; run this by ctest`);
  return process.env[name];
};
const bin = need("CUPLATCH_BIN");
const keeper = need("CUPLATCH_GARDEN");
export const built = need("CUPLATCH_PAGE");

export const nap = (ms) => new Promise((done) => setTimeout(done, ms));

// Waits until something holds; what it came to.
export async function until(test, what = "what was waited for", ms = 15000) {
  for (const end = Date.now() + ms; Date.now() < end; await nap(25)) {
    const value = await test();
    if (value) return value;
  }
  throw new Error(`${what} did not come within ${ms} ms`);
}

async function freePort() {
  const server = createServer().listen(0, "127.0.0.1");
  await once(server, "listening");
  const { port } = server.address();
  server.close();
  await once(server, "close");
  return port;
}

const gone = async (child) => {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const exit = once(child, "exit");
  child.kill("SIGTERM");
  await exit;
};

// A made-up controller at a socket: says what it is told to say, and hands over
// what it is told.
export async function puppet(path, { site, now }) {
  const peers = new Set();
  const told = [];
  let answer = ({ id, tell }) => tell && { id, done: true, answers: ["done"] };
  const server = createServer((peer) => {
    let rest = "";
    peers.add(peer);
    peer.on("close", () => peers.delete(peer));
    peer.on("error", () => {});
    peer.on("data", (bytes) => {
      const lines = (rest + bytes).split("\n");
      rest = lines.pop();
      for (const line of lines.map((text) => JSON.parse(text))) {
        if (line.follow) {
          peer.write(JSON.stringify({ site }) + "\n");
          peer.write(JSON.stringify({ now }) + "\n");
          continue;
        }
        told.push(line);
        const said = answer(line);
        if (said) peer.write(JSON.stringify(said) + "\n");
      }
    });
  }).listen(path);
  await once(server, "listening");
  const say = (line) => peers.forEach((peer) => peer.write(JSON.stringify(line) + "\n"));
  const beat = setInterval(() => say({ now: { t: Math.round(Date.now() / 1000) } }), 1000);
  return {
    told,
    say,
    answerBy: (by) => (answer = by),
    stop() {
      clearInterval(beat);
      peers.forEach((peer) => peer.destroy());
      server.close();
    },
  };
}

export async function open({
  speed = 60,
  history = true,
  site = `${keeper}/keeper.ini`,
  made,
  plots,
  page = "",
  texts = false, // by a modem that is not plugged in
} = {}) {
  const dir = mkdtempSync(join(tmpdir(), "cup_page."));
  const socket = join(dir, "garden.sock");
  const port = await freePort();
  const config = join(dir, "serve.ini");
  const base = `http${page.includes("certificate") ? "s" : ""}://127.0.0.1:${port}`;
  // One controller, or several of lines alone, by their names.
  const sockets = plots
    ? Object.keys(plots).map((name) => [name, join(dir, `${name}.sock`)])
    : [["garden", socket]];
  writeFileSync(
    config,
    sockets.map(([name, path]) => `[${name}]\nis = site\nsocket = ${path}\n\n`).join("") +
      (history ? `[history]\nfile = ${join(dir, "history.db")}\n\n` : "") +
      (texts ? `[modem]\ndevice = ${join(dir, "modem")}\npeople = ${join(dir, "people")}\n\n` : "") +
      `[page]\nlisten = 127.0.0.1:${port}\nkeys = ${join(dir, "keys")}\nfiles = ${built}\n${page}\n`,
  );
  const serveBy = (...words) =>
    execFileSync(join(bin, "cuplatch-serve"), [config, ...words], {
      encoding: "utf8",
      stdio: ["ignore", "pipe", "ignore"],
    });
  const newKey = (name, ...words) => serveBy("--new-key", name, ...words).trim();
  const self = {
    dir,
    socket,
    base,
    port,
    config,
    newKey,
    serveBy,
    keys: join(dir, "keys"),
  };
  self.key = newKey("keeper");
  self.lookKey = newKey("guest", "--look-only");

  self.startGarden = async () => {
    const words = ["run", site, "--port", "sim", "--garden", `${keeper}/keeper.garden.ini`];
    self.garden = spawn(
      join(bin, "cuplatch"),
      [...words, "--speed", String(speed), "--from", "2031-05-10", "--socket", socket],
      { stdio: "ignore" },
    );
    await until(() => existsSync(socket), "the garden's socket");
  };
  self.stopGarden = () => gone(self.garden);
  self.startServe = async () => {
    // A sanitizer keeps what was freed for a while: not so much that it hides a leak.
    const ASAN_OPTIONS = [process.env.ASAN_OPTIONS, "quarantine_size_mb=2"].filter(Boolean).join(":");
    self.serve = spawn(join(bin, "cuplatch-serve"), [config, "--trust-clock"], {
      stdio: ["ignore", "ignore", "pipe"],
      env: { ...process.env, ASAN_OPTIONS },
    });
    self.log = "";
    self.serve.stderr.on("data", (bytes) => (self.log += bytes));
    await until(() => self.log.includes("is there") && self.log.includes("listens"), "cuplatch-serve");
  };
  self.stopServe = () => gone(self.serve);
  self.tell = (word) =>
    execFileSync(join(bin, "cuplatch"), ["tell", "--socket", socket, ...word.split(" ")], {
      encoding: "utf8",
    });
  self.ask = (word) =>
    execFileSync(join(bin, "cuplatch"), ["ask", "--socket", socket, ...word.split(" ")], {
      encoding: "utf8",
    });
  self.fetch = (path, options = {}) => fetch(base + path, options);
  self.get = async (path, key = self.key) =>
    (await self.fetch(path, { headers: { Authorization: `Bearer ${key}` } })).json();
  self.memory = () =>
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${self.serve.pid}/status`, "utf8"))[1]);
  self.close = async () => {
    if (self.serve) await gone(self.serve);
    if (self.garden) await gone(self.garden);
    self.puppet?.stop();
    Object.values(self.puppets ?? {}).forEach((one) => one.stop());
    rmSync(dir, { recursive: true, force: true });
  };
  if (made) self.puppet = await puppet(socket, made);
  else if (plots) {
    self.puppets = {};
    for (const [name, path] of sockets) self.puppets[name] = await puppet(path, plots[name]);
  } else await self.startGarden();
  await self.startServe();
  return self;
}
