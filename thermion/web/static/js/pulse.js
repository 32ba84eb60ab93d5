// A queue on several screens: what another one stores shows here, unless something is being typed.

import { ask } from "./lib/http.js";
import { busy } from "./lib/sent_forms.js";
import { leaveFor } from "./lib/leave.js";
import { outbox } from "./lib/outbox.js";

const queue = document.querySelector("[data-pulse]");

/** The clock of a race runs on this screen alone. */
const racing = () => document.querySelector("[data-going]:not([hidden])");

let news = false; // stays until what is being typed is stored or gone

async function look() {
  if (racing()) return;
  const response = await ask(queue.dataset.pulseUrl); // away or nothing new: the next look tells
  if (!response) outbox.see("away");
  else if (outbox.state === "away") outbox.see("");
  if (response?.ok) news = (await response.json()).pulse !== queue.dataset.pulse;
  if (!news) return;
  if (outbox.waiting().length) return; // it may be this page's own
  if (busy()) queue.querySelector("[data-news]").hidden = false;
  else leaveFor(location.pathname);
}

setInterval(look, 4000);
