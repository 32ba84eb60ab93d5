// A board without a grid: what the desk stores shows here within seconds; a clock runs on.

import { ServerClock } from "./lib/clock.js";
import { clockText } from "./lib/format.js";
import { ask } from "./lib/http.js";

const board = document.querySelector("[data-board]");
const clock = new ServerClock(new Date().toISOString());

function tick() {
  for (const shown of board.querySelectorAll("[data-since]"))
    shown.textContent = clockText(clock.since(shown.dataset.since));
}

async function look() {
  const response = await ask(location.href);
  const now = response?.headers.get("X-Now");
  if (now) clock.set(now);
  if (response?.redirected) location.assign(response.url); // a run has begun
  if (!response?.ok) return; // away, or nothing new: what stands here stays, and the clock runs on
  const page = new DOMParser().parseFromString(await response.text(), "text/html");
  board.innerHTML = page.querySelector("[data-board]").innerHTML;
  tick();
}

setInterval(tick, 200);
setInterval(look, 3000);
look(); // which also says what time it is there
tick();
