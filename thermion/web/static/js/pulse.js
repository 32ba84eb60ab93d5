// A queue on several screens: what another one stores shows here, unless something is being typed.

import { ask } from "./lib/http.js";

const queue = document.querySelector("[data-pulse]");

/** The clock of a race runs on this screen alone. */
const racing = () => document.querySelector("[data-going]:not([hidden])");

const touched = (field) =>
  ["checkbox", "radio"].includes(field.type)
    ? field.checked !== field.defaultChecked
    : field.value !== field.defaultValue;

const busy = () =>
  [...document.querySelectorAll("main input:not([type=hidden]), main textarea")].some(touched);

let news = false; // stays until what is being typed is stored or gone

async function look() {
  if (racing()) return;
  const response = await ask(queue.dataset.pulseUrl); // away or nothing new: the next look tells
  if (response?.ok) news = (await response.json()).pulse !== queue.dataset.pulse;
  if (!news) return;
  if (busy()) queue.querySelector("[data-news]").hidden = false;
  else location.assign(location.pathname);
}

setInterval(look, 4000);
