// Numbers that may be changed while it runs, and how the page is read.
import { useEffect, useState } from "preact/hooks";
import { keep } from "./store.js";
import { ask, letIn, signOut, tell } from "./talk.js";
import { languages } from "./texts.js";
import { plain, show, typed, when } from "./units.js";

// { kale: [setting, ...] }, in the site's order
function byDuty(settings) {
  const duties = {};
  for (const setting of settings) {
    const [duty, field] = setting.word.split(".");
    (duties[duty] ??= []).push({ ...setting, field });
  }
  return Object.entries(duties);
}

// Times are typed in minutes, everything else as the controller has it.
const scaleOf = (unit) => (unit === "s" ? 60 : unit === "Pa" ? 1e5 : 1);
const unitOf = (unit) => (unit === "s" ? "min" : unit === "Pa" ? "bar" : unit);
const inUnit = (value, unit) => Number((value / scaleOf(unit)).toFixed(3));

// What is wrong with it; undefined: nothing.
function wrongWith(text, setting, typedText) {
  const value = Number(typedText.replace(",", ".")) * scaleOf(setting.unit);
  if (typedText.trim() === "" || !Number.isFinite(value)) return text.notNumber;
  if (value < setting.least || value > setting.most)
    return text.outside(show(setting.least, setting.unit, true), show(setting.most, setting.unit, true));
  return undefined;
}

// Start and stop go as one word, so that their order holds in between.
function wordsOf(changed) {
  const word = (setting) => `${setting.word} ${typed(setting.wanted, setting.unit)}`;
  const isMark = ({ field }) => field === "start" || field === "stop";
  const marks = changed.filter(isMark).map(word);
  const rest = changed.filter((setting) => !isMark(setting)).map(word);
  return marks.length > 0 ? [marks.join(" "), ...rest] : rest;
}

function Last({ text, duty, told }) {
  const [last, see] = useState(null);
  useEffect(() => {
    ask("log", { names: duty, most: 100 }).then(
      ({ events }) => see(events.find((event) => event.of === duty && event.kind === "setting") ?? null),
      () => {},
    );
  }, [duty, told]);
  return last && <p class="small">{text.changedBy(last.why, last.by, when(last.at ?? last.t))}</p>;
}

function Duty({ text, duty, settings, steers }) {
  const [typedNow, type] = useState({});
  const [sure, ask] = useState(null);
  const [said, say] = useState("");
  const [told, count] = useState(0);
  const textOf = (setting) => typedNow[setting.word] ?? String(inUnit(setting.value, setting.unit));
  const nameOf = (setting) => text.fields[setting.field] ?? setting.field;
  const submit = (event) => {
    event.preventDefault();
    const changed = settings
      .map((setting) => ({
        ...setting,
        wanted: Number((Number(textOf(setting).replace(",", ".")) * scaleOf(setting.unit)).toFixed(3)),
      }))
      .filter((setting) => setting.wanted !== setting.value);
    const wrong = settings.map((setting) => wrongWith(text, setting, textOf(setting))).find(Boolean);
    if (wrong) say(wrong);
    else if (changed.length === 0) say(text.same);
    else {
      say("");
      ask(changed);
    }
  };
  const send = () => {
    tell(wordsOf(sure))
      .then(
        () => {
          say(text.done);
          type({});
          count(told + 1);
        },
        (error) => say(error.code ? text.refused(error.message) : text.noAnswer),
      )
      .finally(() => ask(null));
  };
  return (
    <section class="duty" aria-labelledby={`set-${duty}`}>
      <h2 id={`set-${duty}`}>{plain(duty)}</h2>
      <form class="numbers" onSubmit={submit}>
        {settings.map((setting) => (
          <label>
            <span>{nameOf(setting)}</span>
            <input
              name={setting.word}
              inputmode="decimal"
              value={textOf(setting)}
              disabled={!steers}
              onInput={(event) => type({ ...typedNow, [setting.word]: event.target.value })}
            />
            <span>{unitOf(setting.unit)}</span>
            <small>
              {text.limits(show(setting.least, setting.unit, true), show(setting.most, setting.unit, true))}
              {setting.file !== undefined && `; ${text.fileSays(show(setting.file, setting.unit, true))}`}
            </small>
          </label>
        ))}
        {!sure && (
          <button type="submit" class="chief" disabled={!steers}>
            {text.change}
          </button>
        )}
      </form>
      {sure && (
        <div class="how-long" role="group">
          <span>
            {text.changeSure(
              sure
                .map((setting) =>
                  text.fromTo(
                    nameOf(setting),
                    show(setting.value, setting.unit, true),
                    show(setting.wanted, setting.unit, true),
                  ),
                )
                .join(", "),
            )}
          </span>
          <button type="button" class="chief" disabled={!steers} onClick={send}>
            {text.yes}
          </button>
          <button type="button" onClick={() => ask(null)}>
            {text.cancel}
          </button>
        </div>
      )}
      <p role="status">{said}</p>
      <Last text={text} duty={duty} told={told} />
    </section>
  );
}

function Phones({ text }) {
  const [door, open] = useState(null);
  const [said, say] = useState("");
  const press = () => {
    open(null);
    say("");
    letIn().then(open, (error) => say(error.code ? text.refused(error.message) : text.noAnswer));
  };
  return (
    <section class="duty" aria-labelledby="phones">
      <h2 id="phones">{text.phones}</h2>
      <p>{text.letInHint}</p>
      <div role="status">
        {door && <p class="digits">{door.code.replace(/(...)/, "$1 ")}</p>}
        <p>{door ? text.letInCode(door.minutes) : said}</p>
      </div>
      <button type="button" onClick={press}>
        {text.letIn}
      </button>
    </section>
  );
}

function Reader({ text, state }) {
  return (
    <section class="duty">
      <h2>{text.reader}</h2>
      <div class="numbers">
        <label>
          <span>{text.language}</span>
          <select value={state.language} onChange={(event) => keep("language", event.target.value)}>
            {Object.entries(languages).map(([code, name]) => (
              <option value={code}>{name}</option>
            ))}
          </select>
        </label>
        <label>
          <span>{text.units}</span>
          <select value={state.units} onChange={(event) => keep("units", event.target.value)}>
            <option value="">{text.asSite}</option>
            <option value="metric">{text.metric}</option>
            <option value="us">{text.us}</option>
          </select>
        </label>
      </div>
      <p>
        {text.signedIn(state.who.name)} {!state.who.steers && text.lookOnly}
      </p>
      <button type="button" onClick={() => signOut().catch(() => {})}>
        {text.signOut}
      </button>
    </section>
  );
}

export function Settings({ text, state, steers }) {
  const duties = byDuty(state.site.settings ?? []);
  return (
    <div class="duties">
      {duties.length === 0 && <p>{text.noSettings}</p>}
      {duties.map(([duty, settings]) => (
        <Duty key={duty} text={text} duty={duty} settings={settings} steers={steers} />
      ))}
      {state.who.texts && state.who.steers && <Phones text={text} />}
      <Reader text={text} state={state} />
    </div>
  );
}
