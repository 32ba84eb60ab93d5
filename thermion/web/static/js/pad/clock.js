// Which mark is due, and what is said of it.

import { clockText, fill } from "../lib/format.js";

export const clock = {
  get phase() {
    return this.run.phases.filter((p) => p.started).at(-1) ?? this.run.phases[0];
  },

  tick() {
    const { started, marks } = this.phase;
    this.elapsed = started ? Math.max(0, this.now.since(started) * this.run.speed) : 0;
    let due = -1;
    if (started) due = marks.findLastIndex((m) => m.mark <= this.elapsed && this.elapsed < m.until);
    if (due === this.due) return;
    this.due = due; // what was typed for the mark before is not this one's
    this.typed = "";
    this.row = this.run.rows[0]?.id ?? 0;
  },

  get mark() {
    return this.phase.marks[this.due];
  },

  get cannot() {
    return !this.mark || this.run.closed;
  },

  get says() {
    if (this.run.closed) return this.words.closed;
    if (!this.phase.started) return this.words.before;
    if (this.mark && !this.missing.length) return this.coming;
    if (this.mark)
      return `${this.words.now}: ${fill(this.words.minute, { minute: this.mark.label })}`;
    return this.coming;
  },

  get coming() {
    const next = this.phase.marks.find((m) => m.mark > this.elapsed);
    if (!next) return this.words.over;
    const left = clockText(Math.ceil((next.mark - this.elapsed) / this.run.speed));
    return fill(this.words.next, { minute: next.label, left });
  },

  get clock() {
    return this.phase.started ? clockText(this.elapsed) : "";
  },
};
