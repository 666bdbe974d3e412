import { useState } from "preact/hooks";
import { signIn } from "./talk.js";

export function SignIn({ text }) {
  const [wrong, say] = useState("");
  const submit = (event) => {
    event.preventDefault();
    signIn(new FormData(event.target).get("key")).catch((error) =>
      say(error.code ? error.message : text.noAnswer),
    );
  };
  return (
    <main class="alone">
      <h1>Cup Latch</h1>
      <form onSubmit={submit} class="sign-in">
        <input type="text" name="name" autocomplete="username" value="Cup Latch" hidden readonly />
        <label for="key">{text.key}</label>
        <input id="key" name="key" type="password" autocomplete="current-password" required autofocus />
        <button type="submit" class="chief">
          {text.signIn}
        </button>
      </form>
      <p role="alert" class={wrong ? "warning" : ""}>
        {wrong}
      </p>
      <p class="small">{text.signInWhy}</p>
    </main>
  );
}
