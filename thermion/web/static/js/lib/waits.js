// What waits for the Desk while devices are in: looked at again and again, and changed only when it differs.

import { ask } from "./http.js";

const EVERY = 4000; // ms

async function look(list) {
  const response = await ask(list.dataset.waits);
  if (response?.ok) {
    const text = (await response.text()).trim();
    if (list.dataset.shown !== text) list.innerHTML = text;
    list.dataset.shown = text;
    list.hidden = !text;
  }
  setTimeout(() => look(list), EVERY);
}

const list = document.querySelector("[data-waits]");
if (list) look(list);
