// The line: what the controller says, as it says it. Tabs of one browser share
// one: whoever holds the lock has it, and passes on what comes.
import { get, set } from "./store.js";
import { address } from "./talk.js";

const EVENTS_MOST = 200;
// The machine says something every two seconds.
export const SILENT_MS = 6000;

const merge = (now, change) => {
  const merged = { ...now };
  for (const [name, value] of Object.entries(change)) {
    const old = merged[name];
    const both = old && value && !Array.isArray(value) && typeof value === "object";
    merged[name] = both ? { ...old, ...value } : value;
  }
  return merged;
};

function take({ kind, value }) {
  const heard = Date.now();
  if (kind === "site") set({ site: value, heard });
  else if (kind === "event") {
    if (get().events.some((event) => event.number === value.number)) return;
    set({ events: [value, ...get().events].slice(0, EVENTS_MOST), heard });
  } else
    set({
      now: merge(get().now ?? {}, value),
      ahead: value.clock ? value.clock * 1000 - heard : get().ahead,
      heard,
    });
}

let source;
let channel;

function open(pass) {
  source?.close();
  source = new EventSource(address("follow"));
  for (const kind of ["site", "now", "event", "beat"])
    source.addEventListener(kind, (message) => pass({ kind, value: JSON.parse(message.data) }));
  source.onerror = () => {
    // The browser tries again by itself, unless it was refused.
    if (source.readyState === EventSource.CLOSED) setTimeout(() => get().who && open(pass), 3000);
  };
}

// This tab has the line; one that opens later is told all of it at once.
function lead() {
  const pass = (message) => {
    take(message);
    channel.postMessage(message);
  };
  channel.onmessage = ({ data }) => {
    const { site, now } = get();
    if (data !== "all?" || !site) return;
    channel.postMessage({ kind: "site", value: site });
    channel.postMessage({ kind: "now", value: now });
  };
  open(pass);
}

export function begin() {
  const name = `line ${get().of ?? ""}`;
  end();
  if (!navigator.locks || !window.BroadcastChannel) {
    open(take);
    return;
  }
  channel = new BroadcastChannel(name);
  channel.onmessage = ({ data }) => data !== "all?" && take(data);
  channel.postMessage("all?");
  stop = new AbortController();
  navigator.locks
    .request(name, { signal: stop.signal }, () => {
      lead();
      return new Promise((done) => (release = done));
    })
    .catch(() => {});
}

let stop;
let release;

export function end() {
  source?.close();
  channel?.close();
  stop?.abort();
  release?.();
  source = channel = stop = release = undefined;
}

// Ages grow though nothing comes.
setInterval(() => set({ tick: get().tick + 1 }), 1000);
