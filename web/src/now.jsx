// What it looks like now: a section a duty, in the site's order.
import { Scale } from "./scale.jsx";
import { Hold, Switch } from "./switch.jsx";
import { plain, show } from "./units.js";

export const thingsOf = (site, kind) => site.things.filter((thing) => thing.kind === kind);

function Alerts({ text, standing }) {
  return (
    <div role="status">
      {standing.length > 0 && (
        <section class="alerts" aria-label={text.needs}>
          <h2>{text.needs}</h2>
          <ul>
            {standing.map((line) => (
              <li>{line}</li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

// One that is held is as good as the site takes it for: an echo that was missed
// once is nothing to worry about.
const isUsable = (level) => level?.quality === "good" || level?.quality === "held";

// What is read may not be so: more than noise, and what a pump draws between two samples.
const isWide = (level) => level?.high - level?.low > 1;

// "between 6 % and 24 %: it leapt, and is not believed yet"
const mayBe = (text, level, unit) =>
  text.mayBe(show(level.low, unit), show(level.high, unit), text.unsure[level.unsure] ?? text.unsure.other);

function Level({ text, name, level, unit, start, stop }) {
  const value = isUsable(level) ? level.value : undefined;
  const startText = start !== undefined && text.starts(show(start, unit, true));
  const stopText = stop !== undefined && text.stops(show(stop, unit, true));
  const shownValue = value === undefined ? text.lost : show(value, unit);
  const label = [shownValue, startText, stopText].filter(Boolean).join(", ");
  return (
    <>
      <p class="level">
        <data value={value}>{shownValue}</data>
        <span class="of">{plain(name)}</span>
        {level?.litres !== undefined && value !== undefined && (
          <span>{text.holds(show(level.litres, "L"))}</span>
        )}
        {value === undefined && level?.reason && <span class="why">{level.reason}</span>}
        {value !== undefined && isWide(level) && (
          <span class="why">{mayBe(text, level, unit)}</span>
        )}
      </p>
      <Scale
        name={plain(name)}
        label={label}
        value={value}
        unit={unit}
        start={start}
        stop={stop}
        startText={startText}
        stopText={stopText}
      />
    </>
  );
}

// The lower mark first, whichever way the pump works.
const bandOf = ({ start, stop }, unit) =>
  [start, stop].sort((one, two) => one - two).map((mark) => show(mark, unit, true));

function Duty({ text, duty, state, steers, unit }) {
  const { now } = state;
  const pump = now.pumps?.[duty.pump];
  const asks = now.duties?.[duty.name];
  const level = duty.keep && now.levels?.[duty.keep];
  // Of a pump with several duties this one says why it does not ask itself.
  const shared = thingsOf(state.site, "duty").filter(({ pump: other }) => other === duty.pump).length > 1;
  const itsOwn =
    asks && pump?.switch !== "off" && (asks.switch === "off" || (shared && pump?.is === "off"));
  const out = asks?.why?.includes("doses");
  return (
    <section class="duty" aria-labelledby={`duty-${duty.name}`}>
      <h2 id={`duty-${duty.name}`}>{plain(duty.name)}</h2>
      {duty.keep ? (
        <>
          <p class="wanted">{text.keeps(plain(duty.keep), ...bandOf(duty, unit))}</p>
          <Level text={text} name={duty.keep} level={level} unit={unit} start={duty.start} stop={duty.stop} />
        </>
      ) : (
        asks?.switch !== "off" && asks?.why !== pump?.why && <p class="wanted">{asks?.why}</p>
      )}
      {pump && (
        <Switch
          text={text}
          name={duty.name}
          of={duty.pump}
          pump={{
            ...pump,
            why: itsOwn ? asks.why : pump.why,
            switch: asks?.switch ?? pump.switch,
            wasOff: pump.switch === "off",
          }}
          steers={steers}
          clears={out ? duty.name : undefined}
        />
      )}
    </section>
  );
}

function Others({ text, site, now, steers }) {
  const driven = new Set(thingsOf(site, "duty").map((duty) => duty.pump));
  const others = thingsOf(site, "pump").filter((pump) => !driven.has(pump.name));
  if (others.length === 0) return null;
  return (
    <section class="duty">
      <h2>{text.others}</h2>
      {others.map(
        ({ name }) =>
          now.pumps?.[name] && <Switch text={text} name={name} pump={now.pumps[name]} steers={steers} />,
      )}
    </section>
  );
}

function Sensors({ text, site, now }) {
  const kept = new Set(thingsOf(site, "duty").map((duty) => duty.keep));
  const behind = new Set(thingsOf(site, "tank").map((tank) => tank.sensor));
  const rest = site.things.filter(
    ({ kind, name }) => (kind === "sensor" || kind === "tank") && !kept.has(name) && !behind.has(name),
  );
  const days = Object.entries(now.days ?? {});
  if (rest.length + days.length === 0) return null;
  return (
    <section class="duty">
      <h2>{text.sensors}</h2>
      <dl class="sensors">
        {rest.map(({ name, unit }) => {
          const level = now.levels?.[name];
          const good = isUsable(level);
          return (
            <div class={good ? "" : "stale"}>
              <dt>{plain(name)}</dt>
              <dd>
                {good ? show(level.value, unit) : text.lost}
                {level?.litres !== undefined && good && <small> {text.holds(show(level.litres, "L"))}</small>}
                {good && isWide(level) && <small class="why"> {mayBe(text, level, unit)}</small>}
              </dd>
            </div>
          );
        })}
        {days.map(([name, isDay]) => (
          <div>
            <dt>{plain(name)}</dt>
            <dd>{isDay ? text.day : text.night}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

export function Now({ text, state, steers }) {
  const { site, now, who } = state;
  const unitOf = (name) => site.things.find((thing) => thing.name === name)?.unit ?? "";
  return (
    <>
      <Alerts text={text} standing={now.standing ?? []} />
      {!who.steers && <p class="small">{text.lookOnly}</p>}
      {who.steers && (
        <Hold
          text={text}
          held={Object.values(now.duties ?? {}).some(({ held }) => held)}
          steers={steers}
        />
      )}
      <div class="duties">
        {thingsOf(site, "duty").map((duty) => (
          <Duty
            text={text}
            duty={duty}
            state={state}
            steers={steers}
            unit={duty.keep ? unitOf(duty.keep) : ""}
          />
        ))}
        <Others text={text} site={site} now={now} steers={steers} />
        <Sensors text={text} site={site} now={now} />
      </div>
    </>
  );
}
