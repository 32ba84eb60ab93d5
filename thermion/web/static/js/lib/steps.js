// The clocks of the steps that are on, seen and heard, on the desk and on the board.

import { ServerClock } from "./clock.js";
import { clockText } from "./format.js";
import { moveOn, timeIsUp } from "./sound.js";

/** Minutes and seconds left; beyond the end with a plus. */
export function leftText(seconds) {
  return seconds < 0 ? `+${clockText(-seconds)}` : clockText(Math.ceil(seconds));
}

/** Clocks inside an element: `data-ends` a moment, or `data-left-s` while it stands. */
export class Clocks {
  constructor(host, { sound = true } = {}) {
    this.host = host;
    this.sound = sound;
    this.server = null;
    this.heard = new Set();
    setInterval(() => this.tick(), 200);
  }

  set(now) {
    if (this.server) this.server.set(now);
    else this.server = new ServerClock(now);
    this.tick();
  }

  tick() {
    if (!this.server) return;
    for (const step of this.host.querySelectorAll("[data-step]")) this.show(step);
  }

  show(step) {
    const { ends, leftS, turnEnds } = step.dataset;
    const left = ends ? -this.server.since(ends) : Number(leftS);
    const shown = step.querySelector("[data-left]");
    if (shown) shown.textContent = leftText(left);
    step.classList.toggle("is-up", left <= 0);
    step.classList.toggle("is-near", left > 0 && left <= 30);
    if (ends) this.hear(ends, left, timeIsUp);
    if (!turnEnds) return;
    const turn = -this.server.since(turnEnds);
    const beside = step.querySelector("[data-turn-left]");
    if (beside) beside.textContent = leftText(turn);
    this.hear(turnEnds, turn, moveOn);
    if (turn <= -0.2 && step.hasAttribute("data-by-itself")) this.onTurn?.();
  }

  /** A signal is heard once, and only when it is its moment. */
  hear(moment, left, signal) {
    if (left > 0 || this.heard.has(moment)) return;
    this.heard.add(moment);
    if (this.sound && left > -3) signal();
  }
}
