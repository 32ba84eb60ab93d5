// A pad's first page: what the Desk starts shows here within seconds; clocks run on, without a sound.

import { ask } from "./lib/http.js";
import { Clocks } from "./lib/steps.js";

const EVERY = 2000; // ms

const pad = document.querySelector("[data-pad]");
const clocks = new Clocks(pad, { sound: false });

async function look() {
  const response = await ask(location.href);
  const now = response?.headers.get("X-Now");
  if (now) clocks.set(now);
  if (response?.redirected) location.replace(response.url); // this device is out
  if (response?.ok) {
    const page = new DOMParser().parseFromString(await response.text(), "text/html");
    const found = page.querySelector("[data-pad]");
    if (found && found.innerHTML !== pad.innerHTML) pad.innerHTML = found.innerHTML;
    clocks.tick();
  }
  setTimeout(look, EVERY);
}

look();
