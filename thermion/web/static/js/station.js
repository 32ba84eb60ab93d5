// A station: results are pointed at on the drawn track, string or jug; chips bring up a question.

import { asksTheTeam } from "./lib/team_question.js";
import { keyed, keysOn } from "./lib/keys.js";
import { outbox } from "./lib/outbox.js";

/** The drawn track, string or jug of one value; the field beside it holds the number. */
class Scale {
  constructor(svg, input) {
    this.svg = svg;
    this.input = input;
    this.from = Number(svg.dataset.from);
    this.to = Number(svg.dataset.to);
    this.most = Number(svg.dataset.most);
    this.step = Number(svg.dataset.step);
    this.across = svg.dataset.axis === "x";
  }

  listen(pointed) {
    this.svg.addEventListener("pointerdown", (event) => {
      event.preventDefault(); // the field keeps the focus, so that Enter keeps the attempt
      this.input.focus();
      this.svg.setPointerCapture(event.pointerId);
      pointed();
      this.point(event);
    });
    this.svg.addEventListener("pointermove", (event) => {
      if (event.buttons) this.point(event);
    });
    this.input.addEventListener("input", () => this.show());
    this.show();
  }

  point(event) {
    const box = this.svg.getBoundingClientRect();
    const view = this.svg.viewBox.baseVal;
    const along = this.across
      ? ((event.clientX - box.left) / box.width) * view.width
      : ((event.clientY - box.top) / box.height) * view.height;
    const share = Math.min(Math.max((along - this.from) / (this.to - this.from), 0), 1);
    const value = Math.round((share * this.most) / this.step) * this.step;
    this.input.value = String(Math.round(value * 100) / 100);
    this.show();
  }

  show() {
    const typed = parseFloat(String(this.input.value).replace(",", "."));
    const share = Math.min(Math.max(typed / this.most, 0), 1);
    const known = Number.isFinite(share);
    const at = this.from + (this.to - this.from) * share;
    const water = this.svg.querySelector(".s-fill");
    if (water) {
      water.setAttribute("y", known ? at : this.from);
      water.setAttribute("height", known ? this.from - at : 0);
      return;
    }
    const moved = this.across ? `translate(${at + 40} 0)` : `translate(0 ${at - 400})`;
    this.svg.querySelector(".s-mark").setAttribute("transform", known ? moved : "");
  }
}

/**
 * The stopwatch: S starts and stops it; pointing at where it ended stops it too. While it goes, `top` is
 * the one key for what came all the way up.
 */
class Watch {
  constructor(button, field, top) {
    this.button = button;
    this.field = field;
    this.top = top;
    this.label = button.innerHTML;
    this.started = null;
    button.addEventListener("click", () => this.press());
    document.addEventListener("keydown", (event) => this.keyed(event));
    setInterval(() => {
      if (this.started !== null) button.textContent = `${this.seconds} s: stop`;
    }, 100);
  }

  get seconds() {
    return ((performance.now() - this.started) / 1000).toFixed(1);
  }

  press() {
    if (this.started !== null) {
      this.stop();
      return;
    }
    this.started = performance.now();
    this.button.classList.add("key-go");
    if (this.top) this.top.hidden = false;
  }

  stop() {
    if (this.started === null) return;
    this.field.value = this.seconds;
    this.started = null;
    this.button.innerHTML = this.label;
    this.button.classList.remove("key-go");
    if (this.top) this.top.hidden = true;
  }

  keyed(event) {
    if (
      !keysOn() ||
      event.key.toLowerCase() !== "s" ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey
    )
      return;
    const field = event.target.closest("input, textarea");
    if (field && (field.name === "note" || (this.started === null && field.value.trim()))) return;
    event.preventDefault();
    this.press();
  }
}

/** One key for a result of zero, and one for all the way up while the stopwatch goes; outside a field. */
function resultKeys(form) {
  const keys = { 0: "[data-zero]", u: "[data-top]:not([hidden])" };
  document.addEventListener("keydown", (event) => {
    const button = keys[event.key.toLowerCase()];
    if (!button || !keyed(event) || !form.querySelector(button)) return;
    event.preventDefault();
    form.querySelector(button).click();
  });
}

/** Stops the watch, notes the whole string and keeps the attempt. */
function keepsTheTop(form, watch) {
  const scale = form.querySelector(".scale");
  watch.top?.addEventListener("click", () => {
    watch.stop();
    form.elements[scale.dataset.for].value = scale.dataset.most;
    form.requestSubmit();
  });
}

/**
 * Without a connection no new page comes: whose turn it is goes on here, in the order that the
 * server gave, and a line of the queue that is pointed at is chosen here.
 */
class Turns {
  constructor(sheet, queue) {
    this.sheet = sheet;
    this.queue = queue;
    this.order = queue.dataset.order.split(" ").filter(Boolean);
    this.fills = JSON.parse(queue.dataset.fills); // what each build's next attempt begins with
    sheet.addEventListener("kept", () => this.next());
    queue.addEventListener("click", (event) => this.pointed(event));
  }

  get entry() {
    return this.sheet.elements.entry;
  }

  next() {
    const at = this.order.indexOf(this.entry.value);
    if (at >= 0) this.order.splice(at, 1);
    if (this.order.length) this.choose(this.order[0]);
  }

  pointed(event) {
    const line = event.target.closest("a") && event.target.closest("[data-entry]");
    if (!line || !outbox.state) return;
    event.preventDefault();
    this.choose(line.dataset.entry);
  }

  choose(id) {
    const line = this.queue.querySelector(`[data-entry="${id}"]`);
    const name = line.querySelector("a").textContent.trim();
    const title = document.createElement("h2");
    title.className = "text-2xl!";
    title.textContent = name;
    // what the server filled in and drew was for another team
    for (const own of document.querySelectorAll("[data-own]")) own.hidden = true;
    if (this.entry.value !== id)
      for (const field of this.sheet.querySelectorAll("input[inputmode=decimal]"))
        field.value = field.defaultValue = this.fills[id]?.[field.name] ?? "";
    this.entry.value = id;
    this.sheet
      .querySelector("[data-who]")
      .replaceChildren(line.querySelector(".badge")?.cloneNode(true) ?? "", title);
    const { where } = this.sheet.dataset;
    this.sheet.dataset.where = `${where.slice(0, where.lastIndexOf(":"))}: ${name}`;
    this.sheet.querySelector("input:not([type=hidden])").focus();
  }
}

const form = document.querySelector("[data-station]");
if (form) {
  const button = form.querySelector("[data-watch]");
  const top = form.querySelector("[data-top]");
  const watch = button ? new Watch(button, form.elements.time_s, top) : null;
  if (watch) keepsTheTop(form, watch);
  for (const svg of form.querySelectorAll(".scale"))
    new Scale(svg, form.elements[svg.dataset.for]).listen(() => watch?.stop());
  asksTheTeam(form);
  resultKeys(form);
  new Turns(form, document.querySelector("[data-order]"));
}
