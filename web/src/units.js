// Numbers as people read them: metric or US, as the reader or the site says.
import { get } from "./store.js";

const us = () => (get().units || get().site?.units) === "us";

// [factor, plus, unit, decimals] of what the controller says
const metric = {
  "%": [1, 0, "%", 1],
  mm: [1, 0, "mm", 0],
  C: [1, 0, "°C", 1],
  Pa: [1e-5, 0, "bar", 2],
  L: [1, 0, "L", 0],
  "L/min": [1, 0, "L/min", 1],
  V: [1, 0, "V", 1],
  A: [1, 0, "A", 2],
};
const american = {
  ...metric,
  mm: [1 / 25.4, 0, "in", 1],
  C: [1.8, 32, "°F", 0],
  Pa: [1.450377e-4, 0, "psi", 1],
  L: [1 / 3.785412, 0, "gal", 0],
  "L/min": [1 / 3.785412, 0, "gal/min", 1],
};

const way = (unit) => (us() ? american : metric)[unit] ?? [1, 0, unit, 2];

export const shownUnit = (unit) => way(unit)[2];
export const shown = (value, unit) => value * way(unit)[0] + way(unit)[1];

// `round` leaves out decimals that say nothing: marks and limits are round.
export function show(value, unit, round = false) {
  if (value === null || value === undefined) return "–";
  if (unit === "s") return span(value);
  const [factor, plus, name, decimals] = way(unit);
  const text = new Intl.NumberFormat(get().language, {
    minimumFractionDigits: round ? 0 : decimals,
    maximumFractionDigits: decimals,
  }).format(value * factor + plus);
  return name ? `${text}\u00a0${name}` : text;
}

// "1 h 20 min", "4:05", "12 s"
export function span(seconds) {
  const s = Math.max(0, Math.round(seconds));
  if (s < 60) return `${s}\u00a0s`;
  if (s < 600 && s % 60) return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")} min`;
  if (s < 7200) return `${Math.round(s / 60)} min`;
  const minutes = Math.round(s / 60) % 60;
  const hours = Math.floor(Math.round(s / 60) / 60);
  return hours < 48 && minutes
    ? `${hours} h ${minutes} min`
    : hours < 48
      ? `${hours} h`
      : `${Math.round(hours / 24)} d`;
}

// As it is typed for a word: the controller's own unit.
export const typed = (value, unit) => `${value}${unit === "Pa" ? "Pa" : unit}`;

// The clock on the site's wall.
export function when(utc, form = { dateStyle: "medium", timeStyle: "short" }) {
  const zone = get().site?.zone || "UTC";
  const language = get().language === "en" ? "en-GB" : get().language;
  return new Intl.DateTimeFormat(language, { hourCycle: "h23", ...form, timeZone: zone }).format(utc * 1000);
}

// kale_soil: kale soil
export const plain = (name) => name.replaceAll("_", " ");
