// A board without a grid: what the desk stores shows here within seconds; a clock runs on.
"use strict";

(() => {
  const board = document.querySelector("[data-board]");
  let offset = 0;

  function tick() {
    for (const clock of board.querySelectorAll("[data-since]")) {
      const s = Math.max(0, Math.floor((Date.now() + offset - Date.parse(clock.dataset.since)) / 1000));
      clock.textContent = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
    }
  }

  async function look() {
    try {
      const response = await fetch(location.href);
      if (!response.ok) return;
      const sent = Date.parse(response.headers.get("Date"));
      if (Math.abs(sent - Date.now()) > 2000) offset = sent - Date.now();
      const page = new DOMParser().parseFromString(await response.text(), "text/html");
      board.innerHTML = page.querySelector("[data-board]").innerHTML;
      tick();
    } catch {
      // the server is away: what stands here stays, and the clock runs on
    }
  }

  setInterval(tick, 200);
  setInterval(look, 3000);
  tick();
})();
