// A board without a grid: what the desk stores shows here within seconds; a clock runs on.

import { ServerClock } from "./lib/clock.js";
import "./lib/follow.js";
import { clockText } from "./lib/format.js";
import { ask } from "./lib/http.js";
import { leaveFor } from "./lib/leave.js";
import { wake } from "./lib/sound.js";
import { Clocks } from "./lib/steps.js";

const board = document.querySelector("[data-board]");
const clock = new ServerClock(new Date().toISOString());
const clocks = new Clocks(board);
clocks.onTurn = () => look();

/** What of a step's time is gone. */
function gauges() {
  for (const gone of board.querySelectorAll("[data-gauge]")) {
    const { ends, leftS } = gone.closest("[data-step]").dataset;
    const left = ends ? -clock.since(ends) : Number(leftS);
    const share = 1 - left / Math.max(Number(gone.dataset.gauge), 1);
    gone.setAttribute("width", (Math.min(Math.max(share, 0), 1) * 100).toFixed(2));
  }
}

function tick() {
  for (const shown of board.querySelectorAll("[data-since]"))
    shown.textContent = clockText(clock.since(shown.dataset.since));
  gauges();
}

let looking = false;

async function look() {
  if (looking) return;
  looking = true;
  const response = await ask(location.href);
  looking = false;
  const now = response?.headers.get("X-Now");
  if (now) {
    clock.set(now);
    clocks.set(now);
  }
  if (response?.redirected) leaveFor(response.url); // a run has begun
  if (!response?.ok) return; // away, or nothing new: what stands here stays, and the clock runs on
  const page = new DOMParser().parseFromString(await response.text(), "text/html");
  const found = page.querySelector("[data-board]");
  if (found) board.innerHTML = found.innerHTML;
  clocks.tick();
  tick();
}

setInterval(tick, 200);
setInterval(look, 2000);
document.addEventListener("pointerdown", wake, { once: true });
document.addEventListener("keydown", wake, { once: true });
look(); // which also says what time it is there
tick();
