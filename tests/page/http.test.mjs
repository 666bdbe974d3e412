// What the page answers to programs, and what it refuses: each rule of
// docs/reference/page.md is a test.
import assert from "node:assert/strict";
import { readFileSync, readdirSync, unlinkSync, writeFileSync } from "node:fs";
import { execFileSync } from "node:child_process";
import { request } from "node:http";
import { request as secureRequest } from "node:https";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { nap, open, until } from "./garden.mjs";

const spec = JSON.parse(readFileSync(new URL("../../docs/reference/page.openapi.json", import.meta.url)));
let garden;

before(async () => (garden = await open({ speed: 600, texts: true })));
after(() => garden.close());

const bearer = (key) => ({ Authorization: `Bearer ${key}` });
const json = { "Content-Type": "application/json" };
const now = () => Math.floor(Date.now() / 1000);
let words = 0;
const word = (tell, more = {}) =>
  JSON.stringify({ id: `t${process.pid}.${++words}`, t: now(), tell, ...more });
const tell = (body, headers = { ...bearer(garden.key), ...json }) =>
  garden.fetch("/tell", { method: "POST", headers, body });

const signIn = async (key = garden.key) => {
  const reply = await garden.fetch("/session", {
    method: "POST",
    headers: { ...json, Origin: garden.base },
    body: JSON.stringify({ key }),
  });
  return { reply, cookie: reply.headers.get("set-cookie")?.split(";")[0] };
};

// What node's fetch would not send: any header, a path as it is.
const raw = (path, headers = {}) =>
  new Promise((done, fail) => {
    request({ host: "127.0.0.1", port: garden.port, path, headers }, (reply) => {
      let body = "";
      reply.on("data", (bytes) => (body += bytes));
      reply.on("end", () => done({ status: reply.statusCode, headers: reply.headers, body }));
    })
      .on("error", fail)
      .end();
  });

// Bytes as they are; all that comes back, until the other end hangs up.
const bytes = (text, ms = 15000) =>
  new Promise((done) => {
    let got = "";
    const from = Date.now();
    const socket = connect(garden.port, "127.0.0.1", () => socket.write(text));
    const end = () => {
      socket.destroy();
      done({ got, ms: Date.now() - from });
    };
    socket.on("data", (more) => (got += more));
    socket.on("close", end);
    socket.on("error", end);
    setTimeout(end, ms);
  });

// A value against a schema: type, required, properties, items, enum.
function fits(value, schema, where) {
  if (schema.$ref) return fits(value, spec.components.schemas[schema.$ref.split("/").at(-1)], where);
  const types = [schema.type ?? []].flat();
  const type =
    value === null
      ? "null"
      : Array.isArray(value)
        ? "array"
        : Number.isInteger(value)
          ? "integer"
          : typeof value;
  assert.ok(
    types.length === 0 || types.includes(type) || (type === "integer" && types.includes("number")),
    `${where}: is ${type}, expected ${types}`,
  );
  if (schema.enum) assert.ok(schema.enum.includes(value), `${where}: ${value}`);
  for (const name of schema.required ?? []) assert.ok(name in value, `${where}: no ${name}`);
  if (type === "object") {
    for (const [name, of] of Object.entries(value)) {
      const known = schema.properties?.[name] ?? schema.additionalProperties;
      assert.ok(known, `${where}.${name} is not in the description`);
      if (known !== true) fits(of, known, `${where}.${name}`);
    }
  }
  if (type === "array")
    value.forEach((item, i) => schema.items && fits(item, schema.items, `${where}[${i}]`));
}

test("each answer is as its description says", async () => {
  await until(async () => (await garden.get("/log")).events.length > 5, "events");
  const to = (await garden.get("/now")).utc;
  const queries = {
    "/history": `?names=header,lift&from=${to - 86400}&to=${to}`,
  };
  for (const [path, methods] of Object.entries(spec.paths)) {
    if (path === "/follow") continue;
    const { responses } = methods.get ?? { responses: {} };
    if (!methods.get) continue;
    const reply = await garden.fetch(path + (queries[path] ?? ""), {
      headers: bearer(garden.key),
    });
    assert.equal(reply.status, 200, path);
    fits(await reply.json(), responses[200].content["application/json"].schema, path);
  }
  const body = JSON.parse(word(["lift auto"]));
  fits(body, spec.paths["/tell"].post.requestBody.content["application/json"].schema, "/tell");
  const said = await tell(JSON.stringify(body));
  fits(
    await said.json(),
    spec.paths["/tell"].post.responses[200].content["application/json"].schema,
    "/tell",
  );
});

test("what nobody described is not there", async () => {
  const known = new Set(Object.keys(spec.paths));
  for (const path of ["/sites", "/site", "/now", "/history", "/log", "/follow", "/tell", "/session"])
    assert.ok(known.has(path), path);
  assert.equal((await garden.fetch("/keys", { headers: bearer(garden.key) })).status, 404);
  assert.equal((await garden.fetch("/tell", { headers: bearer(garden.key) })).status, 405);
  const put = await bytes(
    "PUT /now HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1\r\nConnection: close\r\n\r\n1",
  );
  assert.match(put.got, /^HTTP\/1.1 (405|501)/);
});

test("without a key nothing is shown but the page itself", async () => {
  for (const path of ["/sites", "/site", "/now", "/history?names=header", "/log", "/follow"])
    assert.equal((await garden.fetch(path)).status, 401, path);
  assert.equal((await garden.fetch("/")).status, 200);
  assert.deepEqual(await (await garden.fetch("/session")).json(), {
    name: null,
    steers: false,
    texts: false,
    sites: null,
  });
  const told = await tell(word(["lift off"]), { ...json, Origin: garden.base });
  assert.equal(told.status, 401);
});

test("a key that may look may not steer", async () => {
  assert.equal((await tell(word(["lift off"]), { ...bearer(garden.lookKey), ...json })).status, 403);
  assert.equal((await garden.get("/now", garden.lookKey)).up, true);
  assert.equal((await garden.get("/now")).pumps.lift.switch, "auto");
});

test("words go to the controller as they would at its console", async () => {
  const done = await tell(word(["lift off"]));
  assert.deepEqual([done.status, (await done.json()).done], [200, true]);
  await until(async () => (await garden.get("/now")).pumps.lift.switch === "off", "the switch");
  const wrong = await tell(word(["lift off", "lift dance"]));
  assert.equal(wrong.status, 409);
  assert.equal((await wrong.json()).word, 1);
  // on the disk within a second
  await until(async () => {
    const { events } = await garden.get("/log?names=lift&most=5");
    return events.some(({ kind }) => kind === "mode");
  }, "the event in the log");
  await tell(word(["lift auto"]));
});

test("a word counts once, and not when it is old; one that only stops always does", async () => {
  const once = word(["lift auto"]);
  assert.equal((await tell(once)).status, 200);
  assert.equal((await tell(once)).status, 409);
  assert.equal((await tell(word(["lift auto"], { t: now() - 61 }))).status, 409);
  assert.equal((await tell(word(["lift auto"], { t: now() + 3600 }))).status, 409);
  assert.equal((await tell(word(["lift off"], { t: now() - 3600 }))).status, 200);
  assert.equal((await tell(word(["lift off", "lift auto"], { t: now() - 3600 }))).status, 409);
  const refused = async () =>
    (await garden.get("/log?most=200")).events.filter(({ kind, reason }) => kind === "refuse" && reason === "late");
  const late = await until(async () => ((all) => all.length > 3 && all)(await refused()), "refused words in the log");
  assert.match(late[0].why, /^refused: this was said /);
  assert.equal(late[0].by, "page keeper");
  assert.equal((await tell(word(["lift auto"]))).status, 200);
});

test("the door is opened to a phone by whoever steers, and by nobody else", async () => {
  const press = (key, more = {}) =>
    garden.fetch("/let-in", { method: "POST", headers: { ...json, ...bearer(key), ...more }, body: "{}" });
  assert.equal((await press(garden.lookKey)).status, 403);
  assert.equal((await garden.fetch("/let-in", { method: "POST", headers: json, body: "{}" })).status, 403);
  const reply = await press(garden.key);
  assert.equal(reply.status, 200);
  const door = await reply.json();
  fits(door, spec.paths["/let-in"].post.responses[200].content["application/json"].schema, "/let-in");
  assert.match(door.code, /^\d{6}$/);
  // what lies on the disk is no code
  const kept = readdirSync(garden.dir).filter((name) => name.startsWith("people"));
  assert.ok(kept.length > 0);
  for (const name of kept) assert.ok(!readFileSync(join(garden.dir, name), "utf8").includes(door.code));
  const site = { name: "Plain", id: "plain", units: "metric", protocol: 1, run: "r", things: [], settings: [] };
  const none = await open({ history: false, made: { site, now: { t: 1, levels: {}, standing: [] } } });
  const refused = await none.fetch("/let-in", { method: "POST", headers: { ...json, ...bearer(none.key) }, body: "{}" });
  assert.equal(refused.status, 404);
  await none.close();
});

test("what has not the shape of words is refused in words", async () => {
  for (const body of [
    "",
    "lift off",
    "[]",
    "{}",
    '{"id":"a","id":"b","t":1,"tell":["lift off"]}',
    word([]),
    word(["x".repeat(121)]),
    word(["lift\noff"]),
    word(["lift off\u0000"]),
    word([1]),
    word(Array(17).fill("lift off")),
    JSON.stringify({ id: "", t: now(), tell: ["lift off"] }),
    JSON.stringify({ id: "x".repeat(65), t: now(), tell: ["lift off"] }),
    JSON.stringify({ id: "x", t: "now", tell: ["lift off"] }),
    "[".repeat(5000),
  ]) {
    const reply = await tell(body);
    assert.equal(reply.status, 400, body.slice(0, 60));
    assert.match((await reply.json()).error, /expected/);
  }
});

test("only our own page, in JSON, changes anything by a session", async () => {
  const { cookie } = await signIn();
  const from = (more) => tell(word(["lift auto"]), { Cookie: cookie, ...more });
  assert.equal((await from({ ...json, Origin: garden.base })).status, 200);
  assert.equal((await from({ ...json, Origin: "http://evil.example" })).status, 403);
  assert.equal((await from({ ...json, Origin: "null" })).status, 403);
  assert.equal((await from({ ...json })).status, 403);
  assert.equal((await from({ Origin: garden.base, "Content-Type": "text/plain" })).status, 415);
  assert.equal(
    (
      await from({
        Origin: garden.base,
        "Content-Type": "application/x-www-form-urlencoded",
      })
    ).status,
    415,
  );
});

test("only names that are ours are answered to", async () => {
  assert.equal((await raw("/", { Host: `127.0.0.1:${garden.port}` })).status, 200);
  assert.equal((await raw("/", { Host: "localhost" })).status, 200);
  for (const host of ["evil.example", `evil.example:${garden.port}`, "127.0.0.1.evil.example"])
    assert.equal((await raw("/", { Host: host })).status, 421, host);
  assert.match((await bytes("GET / HTTP/1.1\r\nHost:\r\nConnection: close\r\n\r\n")).got, /^HTTP\/1.1 421/);
});

test("a session ends by its owner, by its key, and by its time", async () => {
  const look = async (cookie) => (await garden.fetch("/now", { headers: { Cookie: cookie } })).status;
  const mine = await signIn();
  assert.match(mine.reply.headers.get("set-cookie"), /HttpOnly; SameSite=Strict/);
  assert.equal(await look(mine.cookie), 200);
  await garden.fetch("/session", {
    method: "DELETE",
    headers: { Cookie: mine.cookie, Origin: garden.base },
  });
  assert.equal(await look(mine.cookie), 401, "signed out, and said again");

  const lent = await signIn(garden.newKey("lent"));
  assert.equal(await look(lent.cookie), 200);
  garden.serveBy("--drop-key", "lent");
  assert.equal(await look(lent.cookie), 401, "its key was taken back");
  garden.newKey("lent");
  assert.equal(await look(lent.cookie), 401, "another key of the same name");

  const kept = await signIn();
  const old = await signIn();
  const path = `${garden.keys}.sessions`;
  await garden.stopServe();
  const lines = readFileSync(path, "utf8").trim().split("\n");
  lines[lines.length - 1] = lines.at(-1).replace(/\d+$/, String(now() - 1));
  writeFileSync(path, lines.join("\n") + "\n");
  await garden.startServe();
  assert.equal(await look(kept.cookie), 200, "over a restart");
  assert.equal(await look(old.cookie), 401, "past its time");
  const other = kept.cookie.endsWith("x") ? "y" : "x";
  assert.equal(await look(kept.cookie.slice(0, -1) + other), 401);
});

test("the file of keys holds no key", () => {
  const text = readFileSync(garden.keys, "utf8");
  assert.ok(!text.includes(garden.key) && !text.includes(garden.key.replaceAll("-", "")));
});

test("paths lead nowhere else", async () => {
  const host = { Host: `127.0.0.1:${garden.port}`, ...bearer(garden.key) };
  for (const path of [
    "/../keys",
    "/..%2fkeys",
    "/%2e%2e/keys",
    "//etc/passwd",
    "/page.js/../../keys",
    "/page.js%00.html",
    "/.git/config",
    "/index.html.gz/",
    "/keys.sessions",
    "http://evil.example/keys",
  ]) {
    const reply = await raw(path, host);
    assert.ok([400, 404].includes(reply.status), `${path}: ${reply.status}`);
    assert.ok(!reply.body.includes("hash ="), path);
  }
  for (const path of ["?keys", "?", "keys"]) {
    const reply = await bytes(`GET ${path} HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n`);
    assert.match(reply.got, /^(HTTP\/1.1 4\d\d|$)/, path);
  }
});

test("every answer keeps a browser safe", async () => {
  for (const path of ["/", "/now", "/nothing", "/page.js"]) {
    const { headers } = await garden.fetch(path);
    assert.match(headers.get("content-security-policy"), /default-src 'none'.*frame-ancestors 'none'/, path);
    assert.equal(headers.get("x-content-type-options"), "nosniff");
    assert.equal(headers.get("referrer-policy"), "no-referrer");
  }
});

test("what is known already is not sent again", async () => {
  for (const path of ["/", "/site", "/page.js"]) {
    const first = await garden.fetch(path, { headers: bearer(garden.key) });
    const etag = first.headers.get("etag");
    await first.text();
    const again = await raw(path, {
      Host: "localhost",
      "If-None-Match": etag,
      ...bearer(garden.key),
      "Accept-Encoding": "gzip",
    });
    assert.equal(again.status, 304, path);
  }
});

test("large and slow requests end", async () => {
  const header = await bytes(`GET / HTTP/1.1\r\nHost: localhost\r\nX: ${"x".repeat(20000)}\r\n\r\n`);
  assert.match(header.got, /^HTTP\/1.1 4\d\d/);
  const body = await bytes(
    `POST /tell HTTP/1.1\r\nHost: localhost\r\nContent-Length: 20000\r\n\r\n${"x".repeat(20000)}`,
  );
  assert.match(body.got, /^(HTTP\/1.1 4\d\d|$)/);
  const slow = await bytes("GET / HTTP/1.1\r\nHost: localhost\r\nX-");
  assert.ok(slow.ms > 5000 && slow.ms < 14000, `${slow.ms} ms`);
  assert.equal((await garden.fetch("/")).status, 200);
});

test("one that dribbles is let go, however often it says something", async () => {
  const from = Date.now();
  await new Promise((done) => {
    const socket = connect(garden.port, "127.0.0.1", () => socket.write("GET / HTTP/1.1\r\n"));
    const drop = setInterval(() => socket.write("X: y\r\n"), 500);
    socket.on("error", () => {});
    socket.on("close", () => {
      clearInterval(drop);
      done();
    });
  });
  assert.ok(Date.now() - from < 14000);
});

test("five hundred connections at once leave room for the next", async () => {
  const sockets = Array.from({ length: 500 }, () => connect(garden.port, "127.0.0.1").on("error", () => {}));
  await nap(1500);
  sockets.forEach((socket) => socket.destroy());
  await until(async () => (await garden.fetch("/").catch(() => ({}))).status === 200, "room");
});

test("a follower is told everything, from where it was", async () => {
  const parts = async (path, headers, wanted) => {
    const abort = new AbortController();
    const reply = await garden.fetch(path, {
      headers: { ...bearer(garden.key), ...headers },
      signal: abort.signal,
    });
    let text = "";
    const decoder = new TextDecoder();
    for await (const chunk of reply.body) {
      text += decoder.decode(chunk);
      if (wanted(text)) break;
    }
    abort.abort();
    return text;
  };
  const first = await parts(
    "/follow",
    {},
    (text) => text.includes("event: event") && text.includes("event: beat"),
  );
  assert.match(first, /^event: site\ndata: \{/);
  assert.match(first, /\n\nevent: now\n/);
  const id = /id: (\S+)/.exec(first)[1];
  const [run, number] = id.split("/");
  const next = await parts("/follow", { "Last-Event-ID": id }, (text) => text.includes("id: "));
  assert.equal(/id: (\S+)/.exec(next)[1], `${run}/${+number + 1}`);
  const same = await parts(`/follow?run=${run}&since=${number}`, {}, (text) => text.includes("id: "));
  assert.equal(/id: (\S+)/.exec(same)[1], `${run}/${+number + 1}`);
});

test("one that comes back after five hundred events is told all of them", async () => {
  const site = { name: "Long", id: "long", units: "metric", protocol: 1, run: "r", things: [], settings: [] };
  const long = await open({ history: false, made: { site, now: { t: 1, levels: {}, standing: [] } } });
  try {
    for (let number = 1; number <= 500; number++)
      long.puppet.say({ event: { number, t: number, of: "site", kind: "mode", why: "x".repeat(400) } });
    await until(async () => (await long.get("/log?most=1")).events[0]?.number === 500, "the events");
    const abort = new AbortController();
    const headers = { Authorization: `Bearer ${long.key}` };
    const reply = await long.fetch("/follow?run=r&since=0", { headers, signal: abort.signal });
    const decoder = new TextDecoder();
    let text = "";
    for await (const chunk of reply.body) {
      text += decoder.decode(chunk, { stream: true });
      if (text.includes("event: beat")) break;
    }
    abort.abort();
    const numbers = [...text.matchAll(/^id: r\/(\d+)$/gm)].map(([, number]) => Number(number));
    assert.deepEqual(
      numbers,
      Array.from({ length: 500 }, (_, i) => i + 1),
    );
    assert.ok(text.length > 3 * 65536);
  } finally {
    await long.close();
  }
});

test("one that reads nothing is let go", async () => {
  const site = { name: "Mute", id: "mute", units: "metric", protocol: 1, run: "r", things: [], settings: [] };
  const mute = await open({ history: false, made: { site, now: { t: 1, levels: {}, standing: [] } } });
  try {
    const socket = connect(mute.port, "127.0.0.1");
    let closed = false;
    socket.on("error", () => {}).on("close", () => (closed = true));
    socket.write(`GET /follow HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer ${mute.key}\r\n\r\n`);
    await new Promise((done) => socket.once("data", done));
    socket.pause();
    const before = mute.memory();
    for (let number = 1; number <= 60; number++) {
      for (let i = 0; i < 8; i++) mute.puppet.say({ now: { t: number, standing: ["y".repeat(50000)] } });
      await nap(10);
    }
    await until(async () => (await mute.get("/now")).t >= 60, "the last");
    assert.ok(mute.memory() - before < 16000, `${before} to ${mute.memory()} kB`);
    socket.resume();
    await until(() => closed, "its end");
  } finally {
    await mute.close();
  }
});

test("a stream ends with the session or the key that it came by", async () => {
  const opened = async (headers) => {
    const reply = await garden.fetch("/follow", { headers });
    const reader = reply.body.getReader();
    await reader.read();
    return async () => {
      for (const end = Date.now() + 8000; Date.now() < end;) {
        const { done } = await reader.read().catch(() => ({ done: true }));
        if (done) return true;
      }
      return false;
    };
  };
  const key = garden.newKey("passing");
  const out = await signIn(key);
  const [bySession, byOther, byKey] = [
    await opened({ Cookie: out.cookie }),
    await opened({ Cookie: (await signIn(key)).cookie }),
    await opened(bearer(key)),
  ];
  await garden.fetch("/session", { method: "DELETE", headers: { Cookie: out.cookie, Origin: garden.base } });
  assert.ok(await bySession(), "signed out");
  garden.serveBy("--drop-key", "passing");
  assert.ok(await byOther(), "its key was taken back");
  assert.ok(await byKey(), "the key was taken back");
});

test("a history comes in no more points than were asked for", async () => {
  await until(async () => (await garden.get("/log")).events.length > 10, "events");
  const to = (await garden.get("/now")).utc;
  const of = (more) => garden.get(`/history?names=header,lift&from=${to - 86400}&to=${to}${more}`);
  const many = await until(
    async () => {
      const all = await of("");
      return all.levels.header.rows.length > 8 && all;
    },
    "rows",
    40000,
  );
  const few = await of("&points=4");
  assert.ok(few.levels.header.rows.length <= 5);
  const least = (all) => Math.min(...all.levels.header.rows.map((row) => row[2]).filter(Number.isFinite));
  assert.ok(least(few) <= least(many));
  for (const query of ["", "?names=header&from=5&to=1", "?names=header&points=0"])
    assert.equal(
      (await garden.fetch(`/history${query}`, { headers: bearer(garden.key) })).status,
      400,
      query,
    );
  const sheet = await garden.fetch(`/history?names=header&format=csv&from=${to - 86400}&to=${to}`, {
    headers: bearer(garden.key),
  });
  assert.match(await sheet.text(), /^at,seconds,name,least,mean,most,unit\n2031-05-/);
});

test("who asks the history for everything at once keeps it from nobody else", async () => {
  const all = "/history?names=header,cistern,kelp_bin,tunnel_air&format=csv";
  const greedy = bearer(garden.newKey("greedy", "--look-only"));
  const left = Array.from({ length: 12 }, () => {
    const away = new AbortController();
    const asked = garden.fetch(all, { headers: greedy, signal: away.signal }).catch(() => null);
    setTimeout(() => away.abort(), 1);
    return asked;
  });
  await Promise.all(left);
  const little = (headers) => garden.fetch("/history?names=header&from=1&to=5", { headers });
  await until(async () => (await little(greedy)).status === 200, "that the places of who left are free");
  const theirs = Array.from({ length: 24 }, () => garden.fetch(all, { headers: greedy }));
  assert.equal((await little(bearer(garden.key))).status, 200);
  const answers = await Promise.all(theirs);
  assert.ok(answers.filter((one) => one.status === 200).length >= 8, "a share is answered");
  for (const one of answers.filter((one) => one.status !== 200)) {
    assert.equal(one.status, 503);
    assert.match(await one.text(), /8 questions of yours wait/);
  }
});

test("without a controller it says so, and comes back with it", async () => {
  await garden.stopGarden();
  await until(async () => (await garden.get("/now")).up === false, "that it is away");
  assert.equal((await tell(word(["lift off"]))).status, 503);
  await garden.startGarden();
  await until(async () => (await garden.get("/now")).up === true, "that it is back", 40000);
});

test("with a certificate it speaks TLS, and only that, and waits for no handshake", async () => {
  const pem = join(tmpdir(), `cup_page.${process.pid}.pem`);
  const words = "req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=garden.local -keyout - -out -".split(
    " ",
  );
  writeFileSync(pem, execFileSync("openssl", words, { stdio: ["ignore", "pipe", "ignore"] }), {
    mode: 0o600,
  });
  const safe = await open({ history: false, page: `names = garden.local\ncertificate = ${pem}` });
  const ask = (path, headers, method = "GET", body = "") =>
    new Promise((done, fail) => {
      const options = {
        host: "127.0.0.1",
        port: safe.port,
        path,
        method,
        rejectUnauthorized: false,
        headers,
      };
      secureRequest(options, (reply) => {
        let text = "";
        reply.on("data", (more) => (text += more));
        reply.on("end", () => done({ status: reply.statusCode, headers: reply.headers, text }));
      })
        .on("error", fail)
        .end(body);
    });
  try {
    const host = { Host: "garden.local" };
    assert.equal((await ask("/", host)).status, 200);
    assert.equal((await ask("/", { Host: "other.local" })).status, 421);
    const key = JSON.stringify({ key: safe.key });
    const origin = { ...host, ...json, Origin: "https://garden.local" };
    const signed = await ask("/session", origin, "POST", key);
    assert.match(signed.headers["set-cookie"][0], /; Secure$/);
    assert.equal(
      (await ask("/session", { ...origin, Origin: "http://garden.local" }, "POST", key)).status,
      403,
    );
    await assert.rejects(fetch(`http://127.0.0.1:${safe.port}/`));
    const mute = await new Promise((done) => {
      const from = Date.now();
      const socket = connect(safe.port, "127.0.0.1");
      socket.on("error", () => {});
      socket.on("close", () => done(Date.now() - from));
    });
    assert.ok(mute > 5000 && mute < 14000, `${mute} ms`);
  } finally {
    await safe.close();
    unlinkSync(pem);
  }
});

// Last: this address must wait after it.
test("ten thousand wrong keys find nothing, and lock nobody out who has a right one", async () => {
  const started = Date.now();
  const codes = {};
  for (let i = 0; i < 200; i++) {
    const replies = await Promise.all(
      Array.from({ length: 50 }, (_, j) =>
        garden.fetch("/now", {
          headers: bearer(
            `aaaaa-bbbbb-ccccc-ddddd-${String(i * 50 + j)
              .padStart(5, "0")
              .replaceAll("1", "a")}`,
          ),
        }),
      ),
    );
    for (const reply of replies) {
      codes[reply.status] = (codes[reply.status] ?? 0) + 1;
      await reply.arrayBuffer();
    }
  }
  assert.deepEqual(Object.keys(codes).sort(), ["401", "429"]);
  assert.ok(codes[401] < 40, JSON.stringify(codes));
  const wrong = () => garden.fetch("/now", { headers: bearer("aaaaa-bbbbb-ccccc-ddddd-eeeee") });
  const refused = await wrong();
  assert.equal(refused.status, 429);
  assert.ok(Number(refused.headers.get("retry-after")) <= 60);
  const right = await garden.fetch("/now", { headers: bearer(garden.key) });
  assert.equal(right.status, 200);
  assert.equal((await wrong()).status, 429);
  assert.ok(Date.now() - started < 60000);
});
