// A pad's first page: what the Desk starts shows here within seconds; clocks run on, without a sound.

import { ask } from "./lib/http.js";
import { Clocks } from "./lib/steps.js";

const EVERY = 2000; // ms

const pad = document.querySelector("[data-pad]");
let shown = pad.innerHTML; // as the server made it
const clocks = new Clocks(pad, { sound: false });

async function look() {
  const response = await ask(location.href);
  const now = response?.headers.get("X-Now");
  if (now) clocks.set(now);
  if (response?.redirected) location.replace(response.url); // this device is out
  if (response?.ok) {
    const page = new DOMParser().parseFromString(await response.text(), "text/html");
    const found = page.querySelector("[data-pad]");
    if (found && found.innerHTML !== shown) {
      shown = pad.innerHTML = found.innerHTML;
      showVoice();
    }
    clocks.tick();
  }
  setTimeout(look, EVERY);
}

/** Without a voice there is no key for it. */
function showVoice() {
  const key = pad.querySelector("[data-voice]");
  if (key) key.hidden = !("speechSynthesis" in window);
}

/** What is to be done is said aloud when a learner asks for it. */
function say(event) {
  if (!event.target.closest("[data-voice]")) return;
  const said = [...pad.querySelectorAll("#do, .pad-things li, .notice")].map((e) => e.innerText);
  const spoken = new window.SpeechSynthesisUtterance(said.join(". "));
  spoken.lang = document.documentElement.lang;
  window.speechSynthesis.cancel();
  window.speechSynthesis.speak(spoken);
}

pad.addEventListener("click", say);
showVoice();
look();
