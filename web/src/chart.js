// One duty's days on a canvas: its level with the marks, below it when its pump
// ran, and hatched when it was kept off. Its look is the page's own.
import uPlot from "uplot";
import { when } from "./units.js";

const STRIP = 16;

const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

function hatch(context) {
  const tile = document.createElement("canvas");
  tile.width = tile.height = 8;
  const pen = tile.getContext("2d");
  pen.strokeStyle = colour("--care");
  pen.lineWidth = 1.6;
  pen.beginPath();
  pen.moveTo(-2, 6);
  pen.lineTo(6, -2);
  pen.moveTo(2, 10);
  pen.lineTo(10, 2);
  pen.stroke();
  return context.createPattern(tile, "repeat");
}

// What stands behind and below the line.
function drawAround(chart, { marks, runs, blocks, alerts, span }) {
  const { ctx, bbox } = chart;
  const ratio = devicePixelRatio;
  const x = (at) => chart.valToPos(at, "x", true);
  const right = bbox.left + bbox.width;
  const strip = bbox.top + bbox.height - STRIP * ratio;
  const box = (from, to, top, height) => {
    const left = Math.max(bbox.left, x(from));
    const width = Math.min(right, x(to)) - left;
    if (width > -ratio && left < right) ctx.fillRect(left, top, Math.max(width, 1.5 * ratio), height);
  };
  ctx.save();
  ctx.strokeStyle = colour("--ink");
  ctx.lineWidth = ratio;
  ctx.setLineDash([5 * ratio, 4 * ratio]);
  for (const mark of marks) {
    const y = chart.valToPos(mark, "y", true);
    ctx.beginPath();
    ctx.moveTo(bbox.left, y);
    ctx.lineTo(right, y);
    ctx.stroke();
  }
  ctx.setLineDash([]);
  ctx.fillStyle = colour("--staff");
  ctx.fillRect(bbox.left, strip, bbox.width, STRIP * ratio);
  ctx.fillStyle = hatch(ctx);
  for (const block of blocks) box(block.from, block.to, strip, STRIP * ratio);
  ctx.fillStyle = colour("--water");
  for (const [began, ended] of runs) box(began, ended ?? span[1], strip + 2 * ratio, (STRIP - 4) * ratio);
  ctx.fillStyle = colour("--care");
  for (const { at } of alerts) {
    const left = x(at);
    if (left < bbox.left || left > right) continue;
    ctx.beginPath();
    ctx.moveTo(left, strip - 10 * ratio);
    ctx.lineTo(left + 5 * ratio, strip - 2 * ratio);
    ctx.lineTo(left - 5 * ratio, strip - 2 * ratio);
    ctx.fill();
  }
  ctx.restore();
}

const step = (span) =>
  span > 3 * 86400 ? { day: "numeric", month: "short" } : { hour: "2-digit", minute: "2-digit" };

export function draw(place, parts) {
  const { points, marks, unit, onZoom } = parts;
  const ink = colour("--ink");
  const seen = { ...parts };
  const axis = {
    stroke: ink,
    grid: { stroke: colour("--rule"), width: 1 },
    ticks: { show: false },
    font: "12px system-ui",
  };
  // Room below for the strip: the lowest fifth of the height.
  const range = (chart, low, high) => {
    const known = [low, high, ...marks].filter((value) => Number.isFinite(value));
    const bottom = known.length > 0 ? Math.min(...known) : 0;
    const top = known.length > 0 ? Math.max(...known) : 1;
    const room = top - bottom || 1;
    return marks.length > 0 ? [bottom - 0.3 * room, top + 0.08 * room] : [0, 1];
  };
  const bare = marks.length === 0;
  const size = () => ({ width: place.clientWidth, height: bare ? 70 : 190 });
  const chart = new uPlot(
    {
      ...size(),
      padding: [6, 8, 0, 0],
      legend: { show: false },
      cursor: { drag: { x: true, y: false, setScale: false }, points: { show: false }, y: false },
      scales: { x: { time: true, range: () => seen.span }, y: { range } },
      axes: [
        {
          ...axis,
          values: (self, ticks) => ticks.map((at) => when(at, step(seen.span[1] - seen.span[0]))),
          space: 70,
          size: 26,
        },
        {
          ...axis,
          show: !bare,
          size: 52,
          values: (self, ticks) => ticks.map((tick) => `${+tick.toFixed(2)} ${unit}`),
          space: 34,
        },
      ],
      series: [
        {},
        { stroke: "transparent" },
        { stroke: colour("--water"), width: 2, points: { show: false } },
        { stroke: "transparent" },
      ],
      bands: [{ series: [3, 1], fill: colour("--water-pale") }],
      hooks: {
        drawClear: [(self) => drawAround(self, seen)],
        setSelect: [
          (self) => {
            const { left, width } = self.select;
            if (width > 8) onZoom([self.posToVal(left, "x"), self.posToVal(left + width, "x")]);
            self.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false);
          },
        ],
      },
    },
    points[0].length > 0 ? points : [seen.span, [null, null], [null, null], [null, null]],
    place,
  );
  const fit = new ResizeObserver(() => chart.setSize(size()));
  fit.observe(place);
  return {
    turn(span) {
      seen.span = span;
      chart.setScale("x", { min: span[0], max: span[1] });
      chart.redraw();
    },
    destroy() {
      fit.disconnect();
      chart.destroy();
    },
  };
}
