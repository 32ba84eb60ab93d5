// A queue on several screens: what another one stores shows here, unless something is being typed.

const queue = document.querySelector("[data-pulse]");

/** The clock of a race runs on this screen alone. */
const racing = () => document.querySelector("[data-going]:not([hidden])");

const touched = (field) =>
  ["checkbox", "radio"].includes(field.type)
    ? field.checked !== field.defaultChecked
    : field.value !== field.defaultValue;

const busy = () =>
  [...document.querySelectorAll("main input:not([type=hidden]), main textarea")].some(touched);

async function look() {
  if (racing()) return;
  const response = await fetch(queue.dataset.pulseUrl).catch(() => null); // away: the next look tells
  if (!response?.ok || (await response.json()).pulse === queue.dataset.pulse) return;
  if (busy()) queue.querySelector("[data-news]").hidden = false;
  else location.assign(location.pathname);
}

setInterval(look, 4000);
