// The frame: who is there, which view, whether the line holds.
import { render } from "preact";
import { useEffect, useState } from "preact/hooks";
import { Days } from "./days.jsx";
import { SILENT_MS, begin, end } from "./line.js";
import { Log } from "./log.jsx";
import { Now } from "./now.jsx";
import { Settings } from "./settings.jsx";
import { SignIn } from "./sign_in.jsx";
import { get, set, useStore } from "./store.js";
import { ask, learn } from "./talk.js";
import { texts } from "./texts.js";
import { span } from "./units.js";

const views = { now: Now, days: Days, log: Log, settings: Settings };

const viewOf = () => {
  const name = location.hash.slice(2);
  return views[name] ? name : "now";
};

function useView() {
  const [view, see] = useState(viewOf());
  useEffect(() => {
    const turn = () => see(viewOf());
    addEventListener("hashchange", turn);
    return () => removeEventListener("hashchange", turn);
  }, []);
  return view;
}

// Whether what is shown is old, or steering would not arrive.
function Line({ text, stale, up, age }) {
  return (
    <div role="status" class="line">
      {stale && <p class="warning">{text.noLine(span(age))}</p>}
      {!stale && !up && <p class="warning">{text.away}</p>}
    </div>
  );
}

function Sites({ text, sites, of }) {
  if (sites.length < 2) return null;
  return (
    <label class="sites">
      <span class="unseen">{text.site}</span>
      <select value={of ?? sites[0].of} onChange={(event) => choose(event.target.value)}>
        {sites.map((site) => (
          <option value={site.of}>
            {site.name}
            {site.standing?.length ? ` (${site.standing.length}!)` : ""}
          </option>
        ))}
      </select>
    </label>
  );
}

function choose(of) {
  set({ of, site: null, now: null, events: [] });
  begin();
}

function Page() {
  const state = useStore();
  const view = useView();
  const text = texts[state.language];
  const signedIn = Boolean(state.who);
  useEffect(() => {
    learn();
  }, []);
  useEffect(() => {
    document.documentElement.lang = state.language;
  }, [state.language]);
  useEffect(() => {
    if (!signedIn) return undefined;
    ask("sites").then(
      ({ sites }) => set({ sites }),
      () => {},
    );
    begin();
    return end;
  }, [signedIn]);
  useEffect(() => {
    document.title = `${text[view]} – ${state.site?.name ?? "Cup Latch"}`;
  }, [view, state.site?.name, state.language]);

  if (state.who === undefined) return <main class="alone">{text.loading}</main>;
  if (!state.who) return <SignIn text={text} />;
  if (!state.site || !state.now) return <main class="alone">{text.loading}</main>;
  const age = Date.now() - state.heard;
  const stale = age > SILENT_MS;
  const up = state.now.up !== false;
  const View = views[view];
  return (
    <>
      <header>
        <h1>{state.site.name}</h1>
        <Sites text={text} sites={state.sites} of={state.of} />
        <nav>
          {Object.keys(views).map((name) => (
            <a href={`#/${name}`} aria-current={name === view ? "page" : undefined}>
              {text[name]}
            </a>
          ))}
        </nav>
      </header>
      <Line text={text} stale={stale} up={up} age={age / 1000} />
      <main class={stale || !up ? "old" : ""}>
        <View text={text} state={state} steers={state.who.steers && !stale && up} />
      </main>
    </>
  );
}

render(<Page />, document.getElementById("page"));
