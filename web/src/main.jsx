// The frame: who is there, which view, whether the line holds.
import { render } from "preact";
import { useEffect, useState } from "preact/hooks";
import { Days } from "./days.jsx";
import { SILENT_MS, begin, end } from "./line.js";
import { Log } from "./log.jsx";
import { Now } from "./now.jsx";
import { Settings } from "./settings.jsx";
import { SignIn } from "./sign_in.jsx";
import { Sites } from "./sites.jsx";
import { set, useStore } from "./store.js";
import { learn } from "./talk.js";
import { texts } from "./texts.js";
import { span } from "./units.js";

const views = { now: Now, days: Days, log: Log, settings: Settings };

// "#/days/keeper": the view, and whose of several.
const placeOf = () => {
  const [view, of] = location.hash.slice(2).split("/");
  return { view: views[view] ? view : "now", of: of ? decodeURIComponent(of) : undefined };
};

function usePlace() {
  const [place, see] = useState(placeOf());
  useEffect(() => {
    const turn = () => see(placeOf());
    addEventListener("hashchange", turn);
    return () => removeEventListener("hashchange", turn);
  }, []);
  return place;
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

function Head({ text, name, view, of, many }) {
  const below = of ? `/${encodeURIComponent(of)}` : "";
  return (
    <header>
      <h1>{name}</h1>
      <nav>
        {many && (
          <a href="#/" aria-current={of ? undefined : "page"}>
            {text.sites}
          </a>
        )}
        {(!many || of) &&
          Object.keys(views).map((name) => (
            <a href={`#/${name}${below}`} aria-current={name === view ? "page" : undefined}>
              {text[name]}
            </a>
          ))}
      </nav>
    </header>
  );
}

// One site, as its line tells of it.
function Site({ text, state, view, many }) {
  if (!state.site || !state.now) return <main class="alone">{text.loading}</main>;
  const age = Date.now() - state.heard;
  const stale = age > SILENT_MS;
  const up = state.now.up !== false;
  const View = views[view];
  return (
    <>
      <Head text={text} name={state.site.name} view={view} of={state.of} many={many} />
      <Line text={text} stale={stale} up={up} age={age / 1000} />
      <main class={stale || !up ? "old" : ""}>
        <View text={text} state={state} steers={state.who.steers && !stale && up} />
      </main>
    </>
  );
}

function Page() {
  const state = useStore();
  const { view, of } = usePlace();
  const text = texts[state.language];
  const signedIn = Boolean(state.who);
  // A machine that follows one site shows that; of several somebody chooses.
  const many = signedIn && state.who.sites !== 1;
  const lists = many && !of;
  useEffect(() => {
    learn();
  }, []);
  useEffect(() => {
    document.documentElement.lang = state.language;
  }, [state.language]);
  useEffect(() => {
    set({ of, site: null, now: null, events: [] });
    if (!signedIn || lists) return undefined;
    begin();
    return end;
  }, [signedIn, lists, of]);
  useEffect(() => {
    document.title = lists ? text.sites : `${text[view]} – ${state.site?.name ?? "Cup Latch"}`;
  }, [lists, view, state.site?.name, state.language]);

  if (state.who === undefined) return <main class="alone">{text.loading}</main>;
  if (!state.who) return <SignIn text={text} />;
  if (!lists) return <Site text={text} state={state} view={view} many={many} />;
  return (
    <>
      <Head text={text} name={text.countSites(state.sites.length)} many />
      <main>
        <Sites text={text} sites={state.sites} />
      </main>
    </>
  );
}

render(<Page />, document.getElementById("page"));
