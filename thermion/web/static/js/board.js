// A board without a grid: what the desk stores shows here within seconds; a clock runs on.

import { ServerClock } from "./lib/clock.js";
import { clockText } from "./lib/format.js";

const board = document.querySelector("[data-board]");
const clock = new ServerClock(new Date().toISOString());

function tick() {
  for (const shown of board.querySelectorAll("[data-since]"))
    shown.textContent = clockText(clock.since(shown.dataset.since));
}

async function look() {
  const response = await fetch(location.href).catch(() => null);
  if (!response?.ok) return; // the server is away: what stands here stays, and the clock runs on
  const sent = Date.parse(response.headers.get("Date"));
  if (Math.abs(sent - Date.now()) > 2000) clock.set(response.headers.get("Date"));
  const page = new DOMParser().parseFromString(await response.text(), "text/html");
  board.innerHTML = page.querySelector("[data-board]").innerHTML;
  tick();
}

setInterval(tick, 200);
setInterval(look, 3000);
tick();
