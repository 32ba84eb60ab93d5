// The dial of difficulty: what a step would change is shown before it is taken.

import { inline } from "./lib/http.js";

const room = document.querySelector("[data-turns]");

async function look(event) {
  if (event.target.name !== "dial") return;
  const url = `${room.dataset.turns}?dial=${event.target.value}`;
  const { text: shown } = await inline(url).catch(() => ({ text: null }));
  if (shown !== null) room.innerHTML = shown;
}

document.addEventListener("change", look);
