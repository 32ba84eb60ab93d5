// Every page: a form is sent once, a field with an error gets the focus, the bell counts down.

import { ServerClock } from "./lib/clock.js";
import { keepForms } from "./lib/sent_forms.js";
import { keyed, shortcuts } from "./lib/keys.js";
import "./lib/line.js";
import { outbox } from "./lib/outbox.js";
import "./lib/waits.js";
import { Tray } from "./lib/tray.js";

function sentOnce(event) {
  const form = event.target;
  if (event.defaultPrevented || form.method !== "post") return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
  setTimeout(() => form.removeAttribute("data-sent"), 4000);
}

/** A sentence that fills a field when it is chosen; it can still be changed there. */
function fillSentence(chosen) {
  const field = document.querySelector(chosen.dataset.sentence);
  field.value = chosen.textContent.trim();
  field.focus();
}

let bellClock;

/** Minutes left in the lesson, counted down while the page is open. */
function bell() {
  const strip = document.querySelector(".bell");
  if (!strip) return;
  bellClock ??= new ServerClock(strip.dataset.now);
  const left = (moment) => Math.max(0, Math.ceil(-bellClock.since(moment) / 60));
  const minutes = left(strip.dataset.ends);
  const toPackUp = left(strip.dataset.packs);
  strip.querySelector("[data-left]").textContent = `${minutes} min`;
  strip.querySelector("[data-pack]").textContent = `${toPackUp} min`;
  strip.classList.toggle("is-near", toPackUp <= 5);
  if (minutes === 0) strip.remove();
}

/** In the hand the lesson's line lies over the lower edge: the page ends above it, however high it is. */
const line = document.querySelector(".line-room");
if (line)
  new window.ResizeObserver(() => {
    document.body.style.setProperty("--line-height", `${line.offsetHeight}px`);
  }).observe(line);

keepForms();
shortcuts();
const tray = document.querySelector("[data-tray]");
if (tray) new Tray(tray, outbox);
document.addEventListener("submit", sentOnce);
document.addEventListener("click", (event) => {
  const chosen = event.target.closest("[data-sentence]");
  if (chosen) fillSentence(chosen);
  if (event.target.closest("[data-print]")) window.print();
  const path = event.target.closest("[data-path]");
  if (path) {
    const open = path.closest(".rail").classList.toggle("is-open");
    path.setAttribute("aria-expanded", String(open));
  }
});
/** The question mark opens by its own key where none is typed into, and closes by Escape or elsewhere. */
const help = document.querySelector("[data-help]");
document.addEventListener("keydown", (event) => {
  if (!help) return;
  if (event.key === "?" && keyed(event)) help.open = !help.open;
  else if (event.key === "Escape") help.open = false;
});
document.addEventListener("click", (event) => {
  if (help && !help.contains(event.target)) help.open = false;
});
window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]"))
    form.removeAttribute("data-sent");
});
document.querySelector('[aria-invalid="true"]')?.focus();
setInterval(bell, 5000);
bell();
