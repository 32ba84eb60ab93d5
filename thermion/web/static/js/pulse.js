// A queue on several screens: what another one stores shows here, unless something is being typed.
"use strict";

(() => {
  const queue = document.querySelector("[data-pulse]");
  const racing = () => document.querySelector("[data-going]:not([hidden])"); // its own clock runs
  const busy = () =>
    [...document.querySelectorAll("main input:not([type=hidden]), main textarea")].some((f) =>
      f.type === "checkbox" || f.type === "radio"
        ? f.checked !== f.defaultChecked
        : f.value !== f.defaultValue,
    );

  async function look() {
    if (racing()) return;
    try {
      const response = await fetch(queue.dataset.pulseUrl);
      if (!response.ok || (await response.json()).pulse === queue.dataset.pulse) return;
      if (busy()) queue.querySelector("[data-news]").hidden = false;
      else location.assign(location.pathname);
    } catch {
      // the server is away; the next look will tell
    }
  }

  setInterval(look, 4000);
})();
