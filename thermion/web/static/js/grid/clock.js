// The run's clock: what time it is in the test, which mark is due, what is said and heard of it.

import { send } from "../lib/http.js";
import { clockText, fill } from "../lib/format.js";
import { beep, wake } from "../lib/sound.js";

export const clock = {
  get active() {
    const phases = this.server.phases.filter((p) => p.started);
    if (this.server.paper) return phases.find((p) => this.columnToType(p) >= 0) || phases[0];
    return this.server.phases.filter((p) => p.started).at(-1) || this.server.phases[0];
  },

  get nextPhase() {
    return this.server.phases.find((p) => !p.started);
  },

  /** Seconds of the test; the clock of a closed run stands where it was closed. */
  since(phase) {
    if (!phase.started) return 0;
    const until = this.server.closed_at;
    const passed = until
      ? (Date.parse(until) - Date.parse(phase.started)) / 1000
      : this.now.since(phase.started);
    return Math.max(0, passed * this.server.speed);
  },

  tick() {
    const phase = this.active;
    this.elapsed = Math.floor(this.since(phase) * 5) / 5;
    const due = this.dueNow(phase);
    if (due !== this.due) this.turned(due);
    this.countDown();
    if (this.server.rehearsal && this.probes && !this.board) this.probeRound();
  },

  /** The column of the mark that is due: -1 before the first, beyond the last when all have passed. */
  dueNow(phase) {
    if (!phase.started) return -1;
    if (this.server.paper)
      return this.columnToType(phase) >= 0 ? this.columnToType(phase) : phase.slots.length;
    if (this.elapsed >= phase.slots.at(-1).until) return phase.slots.length;
    return phase.slots.findLastIndex((s) => s.mark <= this.elapsed);
  },

  /** From paper: the first column of a phase that is not typed in whole; -1 when all are. */
  columnToType(phase) {
    return phase.slots.findIndex((_, i) => this.missing(i, phase).length > 0);
  },

  turned(now) {
    const first = this.due === -1 && now === -1;
    this.due = now;
    if (first) return;
    this.ring(now);
    if (this.typed === "" && !this.detailOpen()) this.goOn();
  },

  // ---- heard

  ring(now) {
    if (!this.sound || this.server.closed || this.server.paper || now >= this.active.slots.length)
      return;
    beep(880);
    beep(1175, 0.18);
  },

  /** The last three seconds before a mark, so that eyes can stay on the thermometer. */
  countDown() {
    if (!this.sound || this.server.rehearsal || this.server.closed || !this.upcoming) return;
    if (!this.active.started) return;
    const left = Math.ceil(this.upcoming.mark - this.since(this.active));
    if (left === this.lastLeft || left < 1 || left > 3) return;
    this.lastLeft = left;
    beep(520);
  },

  toggleSound() {
    wake();
    this.sound = !this.sound;
    if (this.sound) beep(880);
  },

  get soundLabel() {
    return this.sound ? this.words.sound_on : this.words.sound_off;
  },

  // ---- said

  get phaseLabel() {
    if (this.server.paper) return this.words.paper;
    if (!this.server.rehearsal) return this.active.label;
    return fill(this.words.rehearsal, { phase: this.active.label, speed: this.server.speed });
  },

  get elapsedText() {
    if (this.server.paper) return this.active.label;
    return clockText(this.elapsed);
  },

  get upcoming() {
    return this.active.slots.find((s) => s.mark > this.elapsed);
  },

  get nowText() {
    if (this.server.closed) return this.words.closed;
    if (!this.active.started) return this.server.before;
    const slot = this.active.slots[this.due];
    if (!slot && this.server.paper) return this.words.paper_read;
    if (!slot) return this.nextPhase ? this.words.passed : this.words.passed_last;
    const n = this.missing(this.due).length;
    return fill(n ? this.words.to_read : this.words.is_read, { minute: slot.label, n });
  },

  get nextText() {
    if (this.server.closed || !this.active.started || !this.upcoming) return "";
    const seconds = (this.upcoming.mark - this.elapsed) / this.server.speed;
    const time = clockText(seconds + 0.9);
    return fill(this.words.next, { minute: this.upcoming.label, time });
  },

  get gauge() {
    const slot = this.active.slots[this.due];
    if (!slot || !this.active.started || this.server.paper) return { transform: "scaleX(0)" };
    const share = (this.elapsed - slot.mark) / (slot.until - slot.mark);
    return { transform: `scaleX(${Math.min(1, share).toFixed(3)})` };
  },

  // ---- started and closed

  get canStart() {
    return Boolean(this.nextPhase) && !this.server.closed;
  },

  get startLabel() {
    return this.nextPhase ? this.nextPhase.begin : "";
  },

  get startReady() {
    return !this.active.started || this.due >= this.active.slots.length - 1;
  },

  get startClass() {
    return this.startReady ? "key-go text-lg" : "";
  },

  get startSure() {
    if (this.startReady) return "";
    return fill(this.words.end_phase, { phase: this.active.label.toLowerCase() });
  },

  /** Without a reading of the control there is nothing to measure the others against. */
  get controlUnread() {
    const control = this.server.rows.find((row) => row.control);
    if (!control) return false;
    return !Object.values(this.stored).some((c) => c.entry === control.id && c.text !== "");
  },

  /** Whether a value stands at every mark of every phase. */
  get allRead() {
    return [...this.spots.keys()].every((key) => this.stored[key]?.text);
  },

  get closeSure() {
    if (this.controlUnread) return this.words.close_unread;
    return this.closeClass ? "" : this.words.close_early;
  },

  get canClose() {
    return Boolean(this.server.phases[0].started) && !this.server.closed;
  },

  get closeClass() {
    const passed = this.due >= this.active.slots.length && !this.nextPhase;
    return passed || this.allRead ? "key-go" : "";
  },

  async start() {
    const phase = this.nextPhase;
    if (!phase || this.starting) return;
    wake();
    this.starting = true;
    if (this.cursor) this.putTyped();
    this.place(null);
    this.ahead = [];
    try {
      const { status, body } = await send("POST", this.urls.start, { phase: phase.key });
      if (status === 200) {
        this.take(body);
        this.view = phase.key;
        this.due = -1;
        this.tick();
        this.home();
        this.replay();
      } else this.trouble = body.error;
    } catch {
      this.trouble = this.words.not_started;
    }
    this.starting = false;
  },
};
