// An output: what it does in one sentence, and its three positions.
import { useEffect, useRef, useState } from "preact/hooks";
import { tell } from "./talk.js";
import { plain } from "./units.js";

const shapes = {
  running: "M2 8a6 6 0 1 0 12 0a6 6 0 1 0-12 0",
  blocked: "M8 1l7.5 13.5h-15z",
  tripped: "M8 1l7.5 13.5h-15z",
};
const ring = "M2 8a6 6 0 1 0 12 0a6 6 0 1 0-12 0M4.5 8a3.5 3.5 0 1 1 7 0a3.5 3.5 0 1 1-7 0";

function State({ is, word }) {
  return (
    <strong class={`state ${is}`}>
      <svg viewBox="0 0 16 16" aria-hidden="true">
        <path fill-rule="evenodd" d={shapes[is] ?? ring} />
      </svg>
      {word}
    </strong>
  );
}

// Asks how long, since a hand run must end.
function HowLong({ text, onStart, onCancel }) {
  const [minutes, choose] = useState("5");
  const first = useRef();
  useEffect(() => first.current.focus(), []);
  const submit = (event) => {
    event.preventDefault();
    onStart(minutes);
  };
  return (
    <form class="how-long" onSubmit={submit} onKeyDown={(event) => event.key === "Escape" && onCancel()}>
      <label>
        {text.howLong}
        <input
          ref={first}
          type="number"
          inputmode="numeric"
          min="1"
          max="600"
          required
          value={minutes}
          onInput={(event) => choose(event.target.value)}
        />
        {text.minutes}
      </label>
      {[1, 5, 10].map((count) => (
        <button type="button" onClick={() => onStart(count)}>
          {text.minute(count)}
        </button>
      ))}
      <button type="submit" class="chief">
        {text.start}
      </button>
      <button type="button" onClick={onCancel}>
        {text.cancel}
      </button>
    </form>
  );
}

function Sure({ text, question, onYes, onNo }) {
  const yes = useRef();
  useEffect(() => yes.current.focus(), []);
  return (
    <div
      class="how-long"
      role="group"
      aria-label={question}
      onKeyDown={(event) => event.key === "Escape" && onNo()}
    >
      <span>{question}</span>
      <button type="button" ref={yes} class="chief" onClick={onYes}>
        {text.yes}
      </button>
      <button type="button" onClick={onNo}>
        {text.cancel}
      </button>
    </div>
  );
}

function useWord(text) {
  const [said, say] = useState("");
  const [busy, work] = useState(false);
  const word = (words) => {
    work(true);
    say("");
    tell(words)
      .catch((error) => say(error.code ? text.refused(error.message) : text.noAnswer))
      .finally(() => work(false));
  };
  return { said, busy, word };
}

// The whole site: nothing starts while it is held.
export function Hold({ text, held, steers }) {
  const { said, busy, word } = useWord(text);
  return (
    <div class="hold">
      <button
        type="button"
        class={held ? "chief" : ""}
        disabled={!steers || busy}
        onClick={() => word([held ? "site go" : "site hold"])}
      >
        {held ? text.go : text.hold}
      </button>
      <p role="alert" class={said ? "warning" : ""}>
        {said}
      </p>
    </div>
  );
}

// `name` is whose switch it is, of a duty or a pump; `pump` what its pump does, by
// the name `of`.
export function Switch({ text, name, of = name, pump, steers, clears }) {
  const [asks, askFor] = useState("");
  const { said, busy, word } = useWord(text);
  const tripped = pump.is === "tripped";
  const close = () => askFor("");
  const off = !steers || busy;
  return (
    <div class="switch">
      <p class="sentence">
        <State is={pump.is} word={`${plain(of)}: ${text.is[pump.is] ?? pump.is}`} />{" "}
        <span class="why">{pump.why}</span>
      </p>
      <div class="buttons" role="group" aria-label={text.switchOf(plain(name))}>
        <button
          type="button"
          aria-pressed={pump.switch === "hand"}
          disabled={off}
          onClick={() => askFor("hand")}
        >
          {text.hand}
        </button>
        <button
          type="button"
          aria-pressed={pump.switch === "off"}
          disabled={off}
          onClick={() => word([`${name} off`])}
        >
          {text.off}
        </button>
        <button
          type="button"
          aria-pressed={pump.switch === "auto"}
          disabled={off}
          onClick={() => word(pump.wasOff ? [`${of} auto`, `${name} auto`] : [`${name} auto`])}
        >
          {text.auto}
        </button>
        {(tripped || clears) && (
          <button type="button" class="clear" disabled={off} onClick={() => askFor("clear")}>
            {text.clear}
          </button>
        )}
      </div>
      {asks === "hand" && !off && (
        <HowLong
          text={text}
          onCancel={close}
          onStart={(minutes) => {
            word([`${name} hand ${minutes}m`]);
            close();
          }}
        />
      )}
      {asks === "clear" && !off && (
        <Sure
          text={text}
          question={text.clearSure(plain(tripped ? of : clears))}
          onNo={close}
          onYes={() => {
            word([`${tripped ? of : clears} clear`]);
            close();
          }}
        />
      )}
      <p role="alert" class={said ? "warning" : ""}>
        {said}
      </p>
    </div>
  );
}
