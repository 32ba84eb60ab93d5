// Life size: what follows is worked out while a number is turned.
import { inline } from "./lib/http.js";

const form = document.querySelector("[data-life]");
const room = document.querySelector("[data-life-shown]");
let turn = 0;

async function look() {
  const mine = ++turn;
  const typed = new URLSearchParams(new FormData(form));
  const { text: shown } = await inline(`${form.dataset.life}?${typed}`).catch(() => ({
    text: null,
  }));
  if (shown !== null && mine === turn) room.innerHTML = shown;
}

form.addEventListener("input", look);
