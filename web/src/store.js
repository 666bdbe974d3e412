// What everything on the page is drawn from: one value that is replaced, never
// changed, and those who are told of it.
import { useEffect, useState } from "preact/hooks";

const kept = (name, otherwise) => localStorage.getItem(name) ?? otherwise;

let state = {
  who: undefined, // undefined: not known yet; null: signed out
  sites: [],
  of: undefined, // whose, of several
  site: null,
  now: null,
  events: [], // the newest first, as they come
  heard: 0, // when something came last, by this device's clock, ms
  ahead: 0, // by how much the machine's clock is ahead of it, ms
  tick: 0, // so that ages grow
  language: kept("language", navigator.language.startsWith("de") ? "de" : "en"),
  units: kept("units", ""),
};
const ears = new Set();

export const get = () => state;

export function set(change) {
  state = { ...state, ...change };
  for (const ear of ears) ear(state);
}

export function keep(name, value) {
  localStorage.setItem(name, value);
  set({ [name]: value });
}

export function useStore() {
  const [seen, see] = useState(state);
  useEffect(() => {
    ears.add(see);
    see(state);
    return () => ears.delete(see);
  }, []);
  return seen;
}
