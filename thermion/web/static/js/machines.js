// A machine at the station fills the field it reads, until a person types there. What it says and
// whether it can be believed is the server's.

import { send } from "./lib/http.js";
import { keysOn } from "./lib/keys.js";

const EVERY = 1000; // ms

/** One field, and the line under it that says what its machine shows. */
class Filled {
  constructor(line, zero) {
    this.line = line;
    this.key = line.dataset.machine;
    this.field = document.getElementById(this.key);
    this.filled = this.field.value; // what the server had filled in may be replaced
    this.own = false; // typed by a person
    this.field.addEventListener("input", (event) => {
      if (event.isTrusted) this.own = true;
    });
    this.button = line.querySelector("[data-set-zero]");
    this.button.addEventListener("click", () => zero(this));
  }

  get byMachine() {
    return !this.own && this.shown !== undefined && this.field.value === this.shown;
  }

  show({ said, text, zero, channel }) {
    this.channel = channel;
    this.line.querySelector("[data-said]").textContent = said;
    this.button.hidden = !zero;
    if (text) this.fill(text);
    else if (zero && this.byMachine) this.fill(""); // what it showed was noted on another screen
  }

  fill(text) {
    if (this.own || this.field.value !== this.filled) return;
    if (this.field.value !== text) {
      this.field.value = text;
      this.field.dispatchEvent(new Event("input", { bubbles: true })); // the drawing follows
    }
    this.filled = text;
    this.shown = text || undefined;
  }
}

class Machines {
  constructor(box) {
    this.box = box;
    this.lines = [...document.querySelectorAll("[data-machine]")].map(
      (line) => new Filled(line, (filled) => this.zero(filled)),
    );
    document.addEventListener("keydown", (event) => this.pressed(event));
    box.form?.addEventListener("submit", () => this.sign(), true);
    this.look();
  }

  /** The form says what a machine read. */
  sign() {
    const read = this.lines.filter((line) => line.byMachine);
    this.box.value = read.map((line) => line.key).join(" ");
  }

  pressed(event) {
    if (event.key.toLowerCase() !== "z" || !keysOn()) return;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.target.closest("textarea, input:not([inputmode=decimal])")) return;
    const open = this.lines.filter((line) => !line.button.hidden);
    if (!open.length) return;
    event.preventDefault();
    for (const line of open) this.zero(line);
  }

  async zero(filled) {
    filled.own = false;
    filled.filled = filled.field.value;
    try {
      const { status, body } = await send("POST", this.box.dataset.zeroAt, {
        channel: filled.channel,
      });
      if (status === 200) this.show(body);
      else filled.line.querySelector("[data-said]").textContent = body.error;
    } catch {
      // the line goes on saying that it has to be set to zero
    }
  }

  show({ gauges }) {
    for (const gauge of gauges) this.lines.find((line) => line.key === gauge.key)?.show(gauge);
  }

  async look() {
    try {
      const answer = await fetch(this.box.dataset.machines);
      if (answer.ok) this.show(await answer.json());
    } catch {
      // the next look will tell
    }
    setTimeout(() => this.look(), EVERY);
  }
}

const box = document.querySelector("[data-machines]");
if (box) new Machines(box);
