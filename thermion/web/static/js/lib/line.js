// The line of the lesson on every page of the desk: its clock, its keys, and what other screens did.

import { read, send } from "./http.js";
import { say } from "./page.js";
import { wake } from "./sound.js";
import { Clocks } from "./steps.js";

const SOON = 2000; // ms between two looks while something is on
const SELDOM = 15000; // and while nothing is
const TWICE = 500; // ms
const AWAY = "No connection: the clock goes on here. Press again when Thermion is back.";

export class Line {
  constructor(host) {
    this.host = host;
    this.url = host.dataset.line;
    this.clocks = new Clocks(host);
    this.clocks.onTurn = () => this.look();
    host.addEventListener("click", (event) => this.pressed(event));
    host.addEventListener("pointerdown", () => (this.held = true));
    for (const kind of ["pointerup", "pointercancel"])
      document.addEventListener(kind, () => setTimeout(() => this.released()));
    document.addEventListener("pointerdown", wake, { once: true });
    document.addEventListener("keydown", wake, { once: true });
    this.doing = this.look(); // nothing is done before it is known what is on
  }

  /** What the server says is on; again soon while a lesson is. */
  async look() {
    clearTimeout(this.timer);
    const { status, body, now } = await read(this.url);
    if (now) this.clocks.set(now);
    if (status === 200) this.show(body);
    this.timer = setTimeout(() => this.look(), this.host.hidden ? SELDOM : SOON);
  }

  /** A press is a click only on the key that it began on: what came meanwhile is drawn after it. */
  released() {
    this.held = false;
    const { waiting } = this;
    this.waiting = null;
    if (waiting) this.show(waiting);
  }

  /** A line that is empty is not shown, and yet its lesson can be started. */
  show({ html, mark }) {
    this.host.dataset.mark = mark;
    if (this.held) {
      this.waiting = { html, mark };
      return;
    }
    if (html === this.html) return;
    this.html = html;
    const focused = document.activeElement?.closest?.("[data-do]");
    const at = this.host.contains(focused) ? focused.dataset.do : null;
    this.host.innerHTML = html;
    this.host.hidden = !html.trim();
    if (at) this.host.querySelector(`[data-do="${at}"]`)?.focus();
    this.clocks.tick();
    document.dispatchEvent(new window.CustomEvent("lesson"));
  }

  say(text) {
    const line = this.host.querySelector("[data-line-said]");
    if (line) line.textContent = text;
    const beside = document.querySelector("[data-lesson-said]"); // while there is no line to say it in
    if (beside) say(beside, line ? "" : text);
  }

  /**
   * Do what a key of the line, or of the lesson's page, asks for: one after the other, so that each is
   * said of what the one before has made. A next step pressed twice in one go is one step.
   */
  act(data) {
    const now = performance.now();
    const again = data.what === this.lastWhat && now - this.lastAt < TWICE;
    [this.lastWhat, this.lastAt] = [data.what, now];
    if (again && ["next", "start", "back", "end"].includes(data.what)) return this.doing;
    this.doing = this.doing.then(() => this.carryOut(data));
    return this.doing;
  }

  async carryOut(data) {
    this.say("");
    const sent = send("POST", this.url, { seen: this.host.dataset.mark ?? "", ...data });
    const { status, body } = await sent.catch(() => ({ status: 0, body: { error: AWAY } }));
    if (status === 200) {
      this.clocks.set(body.now);
      this.html = null; // drawn anew in any case: what was seen here may be what is old
      this.show(body);
    }
    this.say(body.said || body.error || "");
    return status === 200 && !body.said;
  }

  pressed(event) {
    const bell = event.target.closest("[data-bell]");
    if (bell) this.answer(bell);
    const key = event.target.closest("[data-do]");
    if (!key) return;
    const { by, row } = key.dataset;
    this.act({ what: key.dataset.do, by: Number(by ?? 1), row: Number(row ?? 0) });
  }

  async answer(bell) {
    const data = { run: Number(bell.dataset.run), how: bell.dataset.bell };
    const sent = send("POST", `${this.url}/bell`, data);
    const { status, body } = await sent.catch(() => ({ status: 0, body: { error: AWAY } }));
    if (status === 200 && body.to) location.assign(body.to);
    else if (status === 200) this.look();
    else this.say(body.error);
  }
}

const room = document.querySelector("[data-line]");
export const line = room ? new Line(room) : null;
