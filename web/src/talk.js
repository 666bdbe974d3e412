// Questions and words to the machine that the page came from.
import { get, set } from "./store.js";

const target = (path, query = {}) => {
  const of = get().of;
  const all = new URLSearchParams(of ? { of, ...query } : query).toString();
  return all ? `${path}?${all}` : path;
};

// The answer, or an error whose text is for people.
async function call(path, options) {
  let reply;
  try {
    reply = await fetch(path, options);
  } catch {
    throw Object.assign(new Error("no line"), { code: 0 });
  }
  const body = reply.status === 204 ? {} : await reply.json().catch(() => ({}));
  if (reply.status === 401) set({ who: null });
  if (!reply.ok) throw Object.assign(new Error(body.error ?? reply.statusText), { code: reply.status });
  return body;
}

const post = (path, body) =>
  call(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });

export const ask = (path, query) => call(target(path, query));
export const address = target;

export async function signIn(key) {
  await post("session", { key });
  await learn();
}

export async function signOut() {
  await call("session", { method: "DELETE" });
  set({ who: null, site: null, now: null, events: [] });
}

export async function learn() {
  try {
    const who = await call("session");
    set({ who: who.name ? who : null });
  } catch {
    set({ who: null });
  }
}

// A code by which whoever texts it first is let in.
export const letIn = () => post("let-in", {});

// Letters that no other word has had.
const fresh = () => {
  const bytes = crypto.getRandomValues(new Uint8Array(12));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
};

// Words, taken whole or refused whole.
export function tell(words) {
  const { ahead } = get();
  return post(target("tell"), {
    id: fresh(),
    t: Math.round((Date.now() + ahead) / 1000),
    tell: words,
  });
}
