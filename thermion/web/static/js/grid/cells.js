// The cells of a clocked test: where each one stands, and how it looks.

import { fill } from "../lib/format.js";

/** The key of a cell; only ever compared, never taken apart. */
export function cellKey(entry, phase, mark) {
  return `${entry}|${phase}|${mark}`;
}

/** Key to row, phase and mark of every cell of a run. */
export function spotsOf(state) {
  const spots = new Map();
  for (const phase of state.phases)
    for (const [column, slot] of phase.slots.entries())
      for (const [line, row] of state.rows.entries()) {
        const key = cellKey(row.id, phase.key, slot.key);
        spots.set(key, { row, line, phase, slot, column });
      }
  return spots;
}

/** What stands in the cells, by key. */
export function cellsOf(state) {
  return Object.fromEntries(state.cells.map((c) => [cellKey(c.entry, c.phase, c.mark), c]));
}

export const cells = {
  get tabs() {
    return this.server.phases.map((p) => ({
      key: p.key,
      label: p.label,
      on: p.key === this.view,
      tone: p.key === this.view ? "key-go" : "",
    }));
  },

  get viewed() {
    return this.server.phases.find((p) => p.key === this.view);
  },

  show(key) {
    this.view = key;
    this.cursor = null;
    if (key === this.active.key) this.home();
  },

  dueOf(phase) {
    if (!phase.started) return -1;
    return phase.key === this.active.key ? this.due : phase.slots.length;
  },

  get columns() {
    const due = this.dueOf(this.viewed);
    return this.viewed.slots.map((s, i) => ({ ...s, tone: i === due ? "is-due" : "" }));
  },

  get rows() {
    const phase = this.viewed;
    const due = this.dueOf(phase);
    const sent = new Map(this.waiting.map((item) => [item.key, item.body]));
    return this.server.rows.map((row, line) => ({
      ...row,
      tone: `team-${row.colour}`,
      deviceTone: row.device ? `device-${row.device}` : "",
      cells: phase.slots.map((slot, column) => {
        const spot = { row, line, phase, slot, column };
        return this.cell(spot, due, sent);
      }),
    }));
  },

  cell(spot, due, sent) {
    const key = cellKey(spot.row.id, spot.phase.key, spot.slot.key);
    const wrong = this.wrong[key];
    const waiting = sent.get(key);
    const editing = this.cursor === key;
    const text = (wrong || waiting || { typed: this.stored[key]?.text ?? "" }).typed;
    const missed = text === "" && spot.column < due;
    const question = this.questionOf(key, waiting);
    return {
      key,
      editing,
      text,
      ...this.asDrawn(spot.row, text),
      typed: editing ? this.typed : "",
      label: this.labelOf(spot, missed),
      tone: { "is-due": spot.column === due, "is-missed": missed },
      look: {
        "is-asked": Boolean(question) && !wrong,
        "is-wrong": Boolean(wrong),
        "is-sending": Boolean(waiting),
        "is-logged": this.stored[key]?.source === "file",
      },
      sup: this.signOf(this.stored[key], waiting),
      bubble: this.bubbleKey === key || editing ? question : "",
      ...this.bubbleOf(spot, wrong, this.stored[key], text),
    };
  },

  /** What is asked about a value, or said of one that was refused. */
  questionOf(key, waiting) {
    if (this.wrong[key]) return this.wrong[key].message;
    return waiting ? "" : this.stored[key]?.question || "";
  },

  bubbleOf(spot, wrong, stored, text) {
    return {
      bubbleTone: {
        "is-left": spot.column >= spot.phase.slots.length / 2,
        "is-up": spot.line > this.server.rows.length / 2,
        "bubble-alarm": Boolean(wrong),
      },
      both: false,
      ...(wrong?.clash ? this.clashOf(wrong, stored) : this.doubtOf(wrong || stored, wrong, text)),
    };
  },

  /** Another screen was first: theirs, ours, or both. */
  clashOf({ suggestion }, stored) {
    const theirs = stored?.text;
    return {
      suggestion,
      suggestText: fill(this.words.write, { value: suggestion }),
      keepText: theirs ? fill(this.words.keep, { value: theirs }) : this.words.theirs,
      both: true,
    };
  },

  doubtOf(said, wrong, text) {
    const suggestion = said?.suggestion || "";
    return {
      suggestion,
      suggestText: suggestion ? fill(this.words.take, { value: suggestion }) : "",
      keepText: wrong ? this.words.leave : fill(this.words.keep, { value: text }),
    };
  },

  /** A scale in words is pointed at, so a tablet brings up no keyboard. */
  asDrawn(row, text) {
    if (!row.scaled) return { icon: "", mode: "decimal", textTone: "" };
    return { icon: text === "" ? "" : `#word-${text}`, mode: "none", textTone: "num text-xs" };
  },

  signOf(stored, waiting) {
    if (!stored) return "";
    if (stored.earlier && !waiting) return "✎";
    return stored.timed ? "" : "≈";
  },

  nameOf(row) {
    return row.device ? `${row.name} ${row.device}` : row.name;
  },

  labelOf({ row, slot }, missed) {
    return fill(missed ? this.words.cell_empty : this.words.cell, {
      row: this.nameOf(row),
      minute: slot.label,
    });
  },

  /** Keys of a column of the active phase that are still to be read. */
  missing(index, phase = this.active) {
    const slot = phase.slots[index];
    if (!slot) return [];
    const sent = new Set(this.waiting.map((item) => item.key));
    return this.server.rows
      .map((row) => cellKey(row.id, phase.key, slot.key))
      .filter((key) => !this.stored[key]?.text && !sent.has(key) && !this.wrong[key]);
  },

  get hintText() {
    const n = Object.values(this.stored).filter((c) => c.question).length;
    return n ? fill(this.words.doubtful, { n }) : "";
  },
};
