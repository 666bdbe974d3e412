// A level on its staff: how full, and the marks at which its pump starts and
// stops. Drawn in an own measure of 1000 across.

const WIDTH = 1000;

// From nothing to everything for a per cent; else around the marks.
export function rangeOf(unit, start, stop, value) {
  if (unit === "%") return [0, 100];
  const known = [start, stop, value].filter((number) => Number.isFinite(number));
  const low = Math.min(...known);
  const high = Math.max(...known);
  const beyond = (high - low || Math.abs(high) || 1) * 0.35;
  return [low >= 0 ? Math.max(0, low - beyond) : low - beyond, high + beyond];
}

// Beside its mark, away from the other one.
function Label({ part, left, children }) {
  const place = `min(${100 * (left ? 1 - part : part)}%, 100% - 7rem)`;
  const style = left ? { right: place } : { left: place };
  return (
    <span class={left ? "before" : "after"} style={style}>
      {children}
    </span>
  );
}

export function Scale({ name, value, unit, start, stop, label, startText, stopText }) {
  const [low, high] = rangeOf(unit, start, stop, value);
  const part = (number) => Math.min(1, Math.max(0, (number - low) / (high - low)));
  const at = (number) => part(number) * WIDTH;
  const ticks = Array.from({ length: 11 }, (_, i) => (i / 10) * WIDTH);
  const marked = Number.isFinite(start) && Number.isFinite(stop);
  return (
    <div class="scale-frame">
      <svg
        class="scale"
        viewBox={`0 0 ${WIDTH} 64`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${name}: ${label}`}
      >
        <rect class="staff" x="0" y="18" width={WIDTH} height="28" />
        {Number.isFinite(value) && <rect class="water" x="0" y="18" width={at(value)} height="28" />}
        {ticks.map((x, i) => (
          <path class="tick" d={`M${x} 46v-${i % 5 ? 7 : 13}`} />
        ))}
        {[start, stop].filter(Number.isFinite).map((mark) => (
          <path class="mark" d={`M${at(mark)} 8v56`} />
        ))}
      </svg>
      {marked && (
        <p class="marks" aria-hidden="true">
          <Label part={part(start)} left={start < stop}>
            {startText}
          </Label>
          <Label part={part(stop)} left={stop <= start}>
            {stopText}
          </Label>
        </p>
      )}
    </div>
  );
}
