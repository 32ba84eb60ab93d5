// An idea is drawn over the outline of what is built: finger, pen or mouse; kept with its materials.

import { send } from "./lib/http.js";
import { newId, say } from "./lib/page.js";

const SVG = "http://www.w3.org/2000/svg";
const NEAR = 5; // thousandths: a point closer to the last one says nothing
const MOST = { strokes: 400, numbers: 2000 };
const AWAY = "Thermion cannot be reached. Your drawing stays here: press again in a moment.";

const form = document.querySelector("[data-idea]");
const lines = form.querySelector("[data-lines]");
const wrong = form.querySelector("[data-wrong]");
const id = newId(); // pressed twice, it is kept once

let strokes = [];
let going = null;

function at(event) {
  const box = lines.getBoundingClientRect();
  const inside = (share) => Math.round(Math.min(Math.max(share, 0), 1) * 1000);
  return [
    inside((event.clientX - box.left) / box.width),
    inside((event.clientY - box.top) / box.height),
  ];
}

function begin(event) {
  if (event.button !== 0 || strokes.length >= MOST.strokes) return;
  event.preventDefault();
  const line = document.createElementNS(SVG, "polyline");
  lines.append(line);
  lines.setPointerCapture(event.pointerId);
  going = { line, points: at(event) };
}

function draw(event) {
  if (!going || going.points.length >= MOST.numbers) return;
  const [x, y] = at(event);
  const [beforeX, beforeY] = going.points.slice(-2);
  if (Math.abs(x - beforeX) + Math.abs(y - beforeY) < NEAR) return;
  going.points.push(x, y);
  going.line.setAttribute("points", going.points.join(" "));
}

function end() {
  if (!going) return;
  if (going.points.length < 4) going.line.remove();
  else strokes.push(going.points);
  going = null;
}

function undo() {
  strokes.pop();
  lines.lastElementChild?.remove();
}

function empty() {
  strokes = [];
  lines.replaceChildren();
}

async function keep(event) {
  event.preventDefault();
  const chosen = [...form.querySelectorAll("[data-pick]")].filter((pick) => pick.value);
  const picks = Object.fromEntries(chosen.map((pick) => [pick.name, pick.value]));
  const why = form.querySelector("#why").value;
  const idea = { strokes, picks, why, client_id: id };
  const sent = send("POST", form.dataset.url, idea).catch(() => ({
    status: 0,
    body: { error: AWAY },
  }));
  const { status, body } = await sent;
  if (status === 200) location.assign(body.to);
  else say(wrong, body.error);
}

lines.addEventListener("pointerdown", begin);
lines.addEventListener("pointermove", draw);
lines.addEventListener("pointerup", end);
lines.addEventListener("pointercancel", end);
form.querySelector("[data-undo]").addEventListener("click", undo);
form.querySelector("[data-empty]").addEventListener("click", empty);
form.addEventListener("submit", keep);
