// What the days were like: a chart a duty, all on one time axis.
import { useEffect, useRef, useState } from "preact/hooks";
import { thingsOf } from "./now.jsx";
import { address, ask } from "./talk.js";
import { plain, show, shown, shownUnit, when } from "./units.js";

const DAY_S = 86400;
const spans = { day: DAY_S, three: 3 * DAY_S, week: 7 * DAY_S, month: 30 * DAY_S };
const HOLE_S = 180;

// Rows of minutes that are alike, as points of a line with holes.
export function pointsOf(rows, unit) {
  const points = [[], [], [], []];
  let end = 0;
  const put = (at, least, mean, most) => {
    points[0].push(at);
    [least, mean, most].forEach((value, i) => points[i + 1].push(value === null ? null : shown(value, unit)));
  };
  for (const [at, seconds, least, mean, most] of rows) {
    if (end && at - end > HOLE_S) put(end + 1, null, null, null);
    put(at, least, mean, most);
    if (seconds > 120) put(at + seconds - 60, least, mean, most);
    end = at + seconds;
  }
  return points;
}

// From a block to its end, each with why.
function blocksOf(told, pump, to) {
  const blocks = [];
  let open;
  for (const event of told.filter(({ of }) => of === pump)) {
    if (event.kind === "block" || event.kind === "trip") {
      open ??= { from: event.at, to, why: event.why };
      if (!blocks.includes(open)) blocks.push(open);
    } else if (event.kind === "clear" && open) {
      open.to = event.at;
      open = undefined;
    }
  }
  return blocks;
}

function Chart({ text, duty, data, span, zoom, onZoom, draw, unit }) {
  const place = useRef();
  const chart = useRef();
  const rows = duty.keep ? (data.levels[duty.keep]?.rows ?? []) : [];
  useEffect(() => {
    if (!draw) return undefined;
    const points = pointsOf(rows, unit);
    chart.current = draw(place.current, {
      points,
      marks: duty.keep ? [duty.start, duty.stop].map((mark) => shown(mark, unit)) : [],
      runs: data.runs[duty.pump] ?? [],
      blocks: blocksOf(data.told, duty.pump, span[1]),
      alerts: data.told.filter(
        ({ of, kind }) => (of === duty.pump || of === duty.keep) && (kind === "trip" || kind === "alert"),
      ),
      span: zoom ?? span,
      unit: duty.keep ? shownUnit(unit) : "",
      onZoom,
    });
    return () => chart.current.destroy();
  }, [data, draw]);
  useEffect(() => {
    chart.current?.turn(zoom ?? span);
  }, [zoom, span]);
  return <div class="chart" ref={place} role="img" aria-label={`${plain(duty.name)}: ${text.days}`} />;
}

function Table({ text, rows, unit }) {
  const step = Math.max(1, Math.ceil(rows.length / 48));
  return (
    <table>
      <thead>
        <tr>
          {[text.when, text.least, text.mean, text.most].map((name) => (
            <th scope="col">{name}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows
          .filter((_, i) => i % step === 0)
          .map(([at, , least, mean, most]) => (
            <tr>
              <th scope="row">{when(at)}</th>
              {[least, mean, most].map((value) => (
                <td>{show(value, unit)}</td>
              ))}
            </tr>
          ))}
      </tbody>
    </table>
  );
}

function Duty({ text, duty, data, unit, ...rest }) {
  const runs = data.runs[duty.pump] ?? [];
  const rows = duty.keep ? (data.levels[duty.keep]?.rows ?? []) : [];
  const litres = runs.reduce((sum, [, , litre]) => sum + (litre ?? 0), 0);
  const [from, to] = rest.zoom ?? rest.span;
  return (
    <section class="duty days" aria-labelledby={`days-${duty.name}`}>
      <h2 id={`days-${duty.name}`}>
        {plain(duty.name)}{" "}
        <small>
          {duty.keep && `${plain(duty.keep)}, `}
          {plain(duty.pump)}: {text.ran(runs.length, litres ? show(litres, "L") : "")}
        </small>
      </h2>
      <Chart text={text} duty={duty} data={data} unit={unit} {...rest} />
      {duty.keep && (
        <details>
          <summary>{text.table}</summary>
          <Table text={text} rows={rows} unit={unit} />
          <a
            href={address("history", {
              names: duty.keep,
              from: Math.round(from),
              to: Math.round(to),
              format: "csv",
            })}
            download={`${duty.keep}.csv`}
          >
            {text.sheet}
          </a>
        </details>
      )}
    </section>
  );
}

// What is drawn how; shapes, not colours alone.
function Legend({ text }) {
  const shapes = [
    ["mean", <path d="M0 8h24" class="line" />],
    ["between", <path d="M0 2h24v12h-24z" class="pale" />],
    ["marks", <path d="M0 8h24" class="dashes" />],
    ["runs", <path d="M2 3h20v10h-20z" class="full" />],
    ["keptOff", <path d="M0 14l12-12M8 14l12-12M16 14l8-8M0 8l6-6" class="hatch" />],
    ["alerts", <path d="M12 3l6 10h-12z" class="care" />],
  ];
  return (
    <ul class="legend">
      {shapes.map(([name, shape]) => (
        <li>
          <svg viewBox="0 0 24 16" aria-hidden="true">
            {shape}
          </svg>
          {text[name]}
        </li>
      ))}
    </ul>
  );
}

// By the site's own clock, which is not this device's in a rehearsal.
const clockOf = (now) => now.utc ?? now.t ?? Math.round(Date.now() / 1000);

export function Days({ text, state }) {
  const [length, choose] = useState("day");
  const [back, go] = useState(0);
  const [data, see] = useState(null);
  const [wrong, say] = useState("");
  const [zoom, zoomTo] = useState(null);
  const [draw, drawBy] = useState(null);
  const [span, turn] = useState([0, 1]);
  const duties = thingsOf(state.site, "duty");
  const unitOf = (name) => state.site.things.find((thing) => thing.name === name)?.unit ?? "";

  useEffect(() => {
    import("./chart.js").then(({ draw: by }) => drawBy(() => by));
  }, []);
  useEffect(() => {
    const to = clockOf(state.now) - back * spans[length];
    const from = to - spans[length];
    const names = [...new Set(duties.flatMap(({ keep, pump }) => [keep, pump]).filter(Boolean))];
    zoomTo(null);
    Promise.all(
      // So many names at once, and as many points as a screen has.
      Array.from({ length: Math.ceil(names.length / 16) }, (_, i) =>
        ask("history", { names: names.slice(16 * i, 16 * i + 16).join(","), from, to, points: 700 }),
      ),
    ).then(
      (parts) => {
        turn([from, to]);
        see({
          levels: Object.assign({}, ...parts.map((part) => part.levels)),
          runs: Object.assign({}, ...parts.map((part) => part.runs)),
          told: parts[0]?.told ?? [],
        });
        say("");
      },
      (error) => {
        see(null);
        say(error.code === 404 ? text.noHistory : error.message);
      },
    );
  }, [length, back, state.of]);

  const empty = data && !Object.values(data.levels).some(({ rows }) => rows.length > 0);
  return (
    <>
      <div class="spans" role="group" aria-label={text.days}>
        {Object.keys(spans).map((name) => (
          <button
            type="button"
            aria-pressed={name === length}
            onClick={() => {
              choose(name);
              go(0);
            }}
          >
            {text.spans[name]}
          </button>
        ))}
        <button type="button" onClick={() => go(back + 1)}>
          {text.earlier}
        </button>
        <button type="button" disabled={back === 0} onClick={() => go(back - 1)}>
          {text.later}
        </button>
        <button type="button" disabled={!zoom} onClick={() => zoomTo(null)}>
          {text.whole}
        </button>
      </div>
      {data && (
        <p class="small">
          {when((zoom ?? span)[0])} – {when((zoom ?? span)[1])}. {text.dragHint}
        </p>
      )}
      {data && <Legend text={text} />}
      {wrong && <p class="warning">{wrong}</p>}
      {empty && <p>{text.nothing}</p>}
      {!data && !wrong && <p>{text.loading}</p>}
      {data &&
        duties.map((duty) => (
          <Duty
            key={duty.name}
            text={text}
            duty={duty}
            data={data}
            unit={duty.keep ? unitOf(duty.keep) : ""}
            span={span}
            zoom={zoom}
            onZoom={zoomTo}
            draw={draw}
          />
        ))}
    </>
  );
}
