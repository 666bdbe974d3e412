// Many gardens: those that need somebody first.
import { useEffect, useState } from "preact/hooks";
import { set } from "./store.js";
import { ask } from "./talk.js";
import { when } from "./units.js";

const EVERY_MS = 3000;
// Sentences of one that are shown here; the rest is counted.
const SHOWN = 2;

const groupOf = (site) => (site.standing?.length ? "needs" : site.up ? "well" : "gone");

function Site({ text, site }) {
  const standing = site.standing ?? [];
  return (
    <li>
      <a href={`#/now/${encodeURIComponent(site.of)}`}>{site.name}</a>
      <div>
        {standing.slice(0, SHOWN).map((line) => (
          <p>{line}</p>
        ))}
        {standing.length > SHOWN && <p class="small">{text.andMore(standing.length - SHOWN)}</p>}
        {!site.up && <p class="small">{site.since ? text.goneSince(when(site.since)) : text.never}</p>}
      </div>
    </li>
  );
}

function Group({ text, title, sites, kind }) {
  if (sites.length === 0) return null;
  return (
    <section class={`gardens ${kind}`} aria-label={title}>
      <h2>
        {title} <small>{sites.length}</small>
      </h2>
      <ul>
        {sites.map((site) => (
          <Site key={site.of} text={text} site={site} />
        ))}
      </ul>
    </section>
  );
}

export function Sites({ text, sites }) {
  const [part, look] = useState("");
  const [wrong, say] = useState("");
  useEffect(() => {
    const load = () =>
      ask("sites").then(
        ({ sites }) => {
          set({ sites });
          say("");
        },
        (error) => say(error.code === 0 ? text.noAnswer : error.message),
      );
    load();
    const often = setInterval(load, EVERY_MS);
    return () => clearInterval(often);
  }, []);

  const groups = { needs: [], gone: [], well: [] };
  for (const site of [...sites].sort((a, b) => a.name.localeCompare(b.name)))
    if (site.name.toLowerCase().includes(part.toLowerCase())) groups[groupOf(site)].push(site);
  return (
    <>
      <label class="filter">
        {text.find} <input type="search" value={part} onInput={(event) => look(event.target.value)} />
      </label>
      {wrong && <p class="warning">{wrong}</p>}
      {sites.length === 0 && !wrong && <p>{text.noSites}</p>}
      <Group text={text} title={text.needs} sites={groups.needs} kind="needs" />
      <Group text={text} title={text.gone} sites={groups.gone} kind="gone" />
      <Group text={text} title={text.well} sites={groups.well} kind="well" />
    </>
  );
}
