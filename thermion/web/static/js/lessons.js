// The lessons to scale: steps are dragged or keyed to another lesson, and stretched.

import { trySend } from "./lib/http.js";
import { wrongLine } from "./lib/page.js";

const STRETCH = 5; // minutes
const host = () => document.getElementById("strip");
const stepOf = (event) => event.target.closest?.(".l-mine[data-phase]");

async function change(data, focus) {
  const away = "Thermion cannot be reached; nothing was moved.";
  const { status, body } = await trySend("POST", host().dataset.url, data, away);
  if (status !== 200) {
    host().prepend(wrongLine(body.error || "Nothing was moved."));
    return;
  }
  host().innerHTML = body.html;
  if (focus) host().querySelector(`[data-phase="${focus}"]`)?.focus();
}

function move(phase, lesson) {
  const last = host().querySelectorAll(".l-room").length - 1;
  change({ phase, lesson: Math.min(Math.max(lesson, 0), last) }, phase);
}

/** Longer by some minutes, from all it has now, over the lessons it runs through. */
function stretch(phase, more) {
  const parts = [...host().querySelectorAll(`[data-phase="${phase}"]`)];
  const now = parts.reduce((sum, part) => sum + Number(part.dataset.minutes), 0);
  change({ phase, minutes: Math.max(now + more, STRETCH) }, phase);
}

function keyed(event) {
  const bar = stepOf(event);
  if (!bar) return;
  const { phase, lesson, test } = bar.dataset;
  const rows = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  const more = { "+": STRETCH, "=": STRETCH, "-": -STRETCH, "−": -STRETCH }[event.key];
  if (rows !== undefined) move(phase, Number(lesson) + rows);
  else if (more !== undefined && !test) stretch(phase, more);
  else if (event.key === "Delete" && !test) change({ phase, minutes: 0 });
  else return;
  event.preventDefault();
}

function held(event) {
  const bar = stepOf(event);
  if (!bar) return;
  const svg = bar.ownerSVGElement;
  const scale = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
  const grip = event.target.classList.contains("l-grip");
  const along = (e) => ({
    x: (e.clientX - event.clientX) * scale,
    y: (e.clientY - event.clientY) * scale,
    far: Math.hypot(e.clientX - event.clientX, e.clientY - event.clientY) > 4,
  });
  let moved = false;
  bar.setPointerCapture(event.pointerId);
  bar.classList.add("is-held");

  const drag = (e) => {
    const at = along(e);
    moved = moved || at.far;
    if (!grip) bar.setAttribute("transform", `translate(0 ${at.y})`);
  };
  const drop = (e) => {
    bar.removeEventListener("pointermove", drag);
    bar.classList.remove("is-held");
    bar.removeAttribute("transform");
    if (moved) dropped(bar, svg, grip, along(e));
  };
  bar.addEventListener("pointermove", drag);
  bar.addEventListener("pointerup", drop, { once: true });
  bar.addEventListener("pointercancel", drop, { once: true });
}

function dropped(bar, svg, grip, at) {
  const { phase, lesson } = bar.dataset;
  if (grip) {
    const more = Math.round(at.x / Number(svg.dataset.pxPerMin) / STRETCH) * STRETCH;
    if (more) stretch(phase, more);
    return;
  }
  const rows = Math.round(at.y / Number(svg.dataset.row));
  if (rows) move(phase, Number(lesson) + rows);
}

document.addEventListener("keydown", keyed);
document.addEventListener("pointerdown", held);
document.addEventListener("click", (event) => {
  const back = event.target.closest("[data-back]");
  if (!back) return;
  const phase = back.dataset.back;
  change({ phase, minutes: Number(back.dataset.minutes) }, phase);
});
