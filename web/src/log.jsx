// What happened, the newest first.
import { useEffect, useState } from "preact/hooks";
import { ask } from "./talk.js";
import { plain, when } from "./units.js";

const MOST = 100;

// What came over the line, in the shape of the log.
const fresh = (event) => ({ ...event, at: event.utc ?? event.t });

function Line({ text, event }) {
  return (
    <li>
      <time dateTime={new Date(event.at * 1000).toISOString()}>
        {when(event.at, { timeStyle: "medium" })}
      </time>
      <span>
        <strong>{plain(event.of)}</strong> {event.kind}: {event.why}
        {event.by && <em> {text.by(event.by)}</em>}
      </span>
    </li>
  );
}

export function Log({ text, state }) {
  const [of, choose] = useState("");
  const [older, add] = useState([]);
  const [more, offer] = useState(true);
  const [wrong, say] = useState("");
  const query = (before) => ({ most: MOST, ...(of ? { names: of } : {}), ...(before ? { before } : {}) });
  const load = (before, kept) =>
    ask("log", query(before)).then(
      ({ events }) => {
        add([...kept, ...events.map((event) => (event.at ? event : fresh(event)))]);
        offer(events.length === MOST && Boolean(events[0].at));
        say("");
      },
      (error) => say(error.message),
    );
  useEffect(() => {
    load(0, []);
  }, [of, state.of]);

  // What came since, which a history of its own may not have yet.
  const last = older[0]?.at ?? 0;
  const since = state.events.map(fresh).filter((event) => (!of || event.of === of) && event.at > last);
  const all = [...since, ...older];
  const days = Object.entries(group(all));
  return (
    <>
      <label class="filter">
        {text.of}{" "}
        <select value={of} onChange={(event) => choose(event.target.value)}>
          <option value="">{text.all}</option>
          {["site", ...state.site.things.map(({ name }) => name)].map((name) => (
            <option value={name}>{plain(name)}</option>
          ))}
        </select>
      </label>
      {wrong && <p class="warning">{wrong}</p>}
      {all.length === 0 && !wrong && <p>{text.noEvents}</p>}
      {days.map(([day, events]) => (
        <section class="log">
          <h2>{day}</h2>
          <ol>
            {events.map((event) => (
              <Line text={text} event={event} />
            ))}
          </ol>
        </section>
      ))}
      {more && all.length > 0 && (
        <button type="button" onClick={() => load(older.at(-1).number, older)}>
          {text.more}
        </button>
      )}
    </>
  );
}

function group(events) {
  const days = {};
  for (const event of events) (days[when(event.at, { dateStyle: "full" })] ??= []).push(event);
  return days;
}
