// The walk of the cursor: the due column leads, keys and pointing put values into cells.

import { outbox } from "../lib/outbox.js";
import { cellKey } from "./cells.js";
import { wake } from "../lib/sound.js";

const STEPS = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };
const EYE = 700; // ms that an eye and a hand take to follow
const OTHER_FIELDS = "input:not(.cell-input, [type=checkbox]), textarea, select";

export const cursor = {
  /** The first row of the due column that is still to be read. */
  home() {
    if (this.board || this.server.closed || (this.server.rehearsal && this.probes)) return;
    if (this.view !== this.active.key) return;
    this.place(this.missing(this.due)[0] || null);
  },

  /** The cursor goes on by itself; a key that comes within moments was meant for where it was. */
  goOn() {
    this.moved = { from: this.cursor, at: performance.now() };
    this.home();
  },

  /** The cell that the eye was on when this key was pressed. */
  lookBack(typed) {
    const { from, at } = this.moved;
    this.moved = { from: null, at: 0 };
    if (!from || from === this.cursor || performance.now() - at > EYE) return;
    this.place(from);
    this.typed = typed;
  },

  place(key, text = "") {
    this.cursor = key;
    this.under = this.stored[key]?.id ?? null;
    this.typed = text;
    this.overwrite = text !== "";
    if (key === null) return;
    Alpine.nextTick(() => {
      const input = this.page.querySelector(`input[data-cell="${key}"]`);
      if (!input) return;
      input.focus();
      if (this.overwrite) input.select();
    });
  },

  /** Keys that come before the next field has the focus are its first digits, not lost. */
  early(event) {
    if (!this.cursor || !/^[\d.,+−-]$/.test(event.key)) return false;
    this.typed = this.overwrite ? event.key : this.typed + event.key;
    this.overwrite = false;
    this.lookBack(this.typed);
    if (this.whole()) this.commit();
    event.preventDefault();
    return true;
  },

  pick(key) {
    this.place(key, this.wrong[key]?.typed ?? this.stored[key]?.text ?? "");
    this.bubbleKey = key;
  },

  typing(event) {
    this.typed = event.target.value;
    this.overwrite = false;
    this.lookBack(this.typed);
    if (this.whole()) this.commit();
  },

  /** What was typed needs no Enter: one key of a scale in words, or all digits of a number on paper. */
  whole() {
    return this.oneKey(this.typed) || this.allDigits();
  },

  /** From paper a number can be whole after so many digits; the last of three is a tenth. */
  allDigits() {
    const digits = Number(this.digits);
    if (!this.server.paper || !digits || !this.cursor) return false;
    if (this.typed.length !== digits || !/^\d+$/.test(this.typed)) return false;
    if (digits === 3) this.typed = `${this.typed.slice(0, 2)}${this.words.point}${this.typed[2]}`;
    return true;
  },

  /** A value of a scale in words is one key: it keeps and goes on at once. */
  oneKey(typed) {
    if (!this.cursor || !/^\d$/.test(typed) || !this.server.words[Number(typed)]) return false;
    return this.spots.get(this.cursor).row.scaled;
  },

  pointAt() {
    if (!this.cursor) return;
    this.typed = this.$event.currentTarget.dataset.word;
    wake();
    this.commit();
  },

  commit() {
    const key = this.cursor;
    if (!key) return;
    this.putTyped();
    const { line } = this.spots.get(key);
    if (this.server.paper) this.nextColumn();
    const left = this.missing(this.due);
    const next = left.find((k) => this.spots.get(k).line > line) || left[0] || null;
    this.place(this.view === this.active.key ? next : null);
  },

  /** From paper there is no clock to wait for: the next column leads as soon as one is whole. */
  nextColumn() {
    this.due = this.dueNow(this.active);
    this.view = this.active.key;
  },

  /** What was typed goes out, unless it stands there already. */
  putTyped() {
    const typed = this.typed.trim();
    if (typed !== "" && this.stored[this.cursor]?.text !== typed) this.put(this.cursor, typed, {});
  },

  takeIt(key) {
    const { id, suggestion, clash } = this.wrong[key] || this.stored[key] || {};
    if (clash) outbox.again(id, { way: "mine" });
    else if (suggestion) this.put(key, suggestion, { keep: true });
    this.bubbleKey = "";
    this.refocus();
  },

  /** Theirs stands, and what was typed here is kept among the earlier values. */
  takeBoth(key) {
    outbox.again(this.wrong[key].id, { way: "both" });
    this.bubbleKey = "";
    this.refocus();
  },

  keepIt(key) {
    if (this.wrong[key]) outbox.drop(this.wrong[key].id);
    else if (this.stored[key]) this.put(key, this.stored[key].text, { keep: true });
    this.bubbleKey = "";
    this.refocus();
  },

  refocus() {
    const input = this.page.querySelector(".cell-input");
    if (input) input.focus();
    else this.home();
  },

  pressed(event) {
    if (this.board || this.detailOpen() || event.ctrlKey || event.metaKey || event.altKey) return;
    wake();
    if (event.target.matches(OTHER_FIELDS)) return;
    if (this.starting) {
      this.aheadOf(event);
      return;
    }
    if (!event.target.matches(".cell-input") && this.outside(event)) return;
    this.command(event);
  },

  command(event) {
    if (STEPS[event.key]) {
      event.preventDefault();
      this.move(...STEPS[event.key]);
    } else if (event.key === "Escape") {
      this.view = this.active.key;
      this.bubbleKey = "";
      this.home();
    } else if (this.untouched()) this.letter(event);
  },

  /** Nothing new is being typed: the field is empty or shows what stands there, or was refused. */
  untouched() {
    const here = [this.stored[this.cursor]?.text, this.wrong[this.cursor]?.typed];
    return this.typed === "" || here.includes(this.typed);
  },

  /** A digit or Enter while the field has not the focus yet. */
  outside(event) {
    if (this.early(event)) return true;
    if (event.key !== "Enter" || !this.cursor) return false;
    if (event.target.matches("button, a, summary")) return false;
    this.commit();
    return true;
  },

  /** Keys that are pressed while the clock starts wait for the cell they are meant for. */
  aheadOf(event) {
    if (!/^[\d.,+−-]$/.test(event.key) && event.key !== "Enter") return;
    this.ahead.push(event.key);
    event.preventDefault();
  },

  replay() {
    for (const key of this.ahead.splice(0)) {
      if (key === "Enter") this.commit();
      else if (this.cursor) this.typed += key;
      if (this.whole()) this.commit();
    }
  },

  letter(event) {
    const key = event.key.toLowerCase();
    const asked = this.bubbleKey || this.cursor;
    if (key === "c" && asked) this.takeIt(asked);
    else if (key === "b" && this.wrong[asked]?.clash) this.takeBoth(asked);
    else if (key === "k" && asked) this.keepIt(asked);
    else if (key === "t" && this.cursor) this.openDetail(this.cursor);
    else return;
    event.preventDefault();
  },

  move(down, right) {
    const phase = this.viewed;
    const at = (line, column) => {
      const row = this.server.rows[line];
      const slot = phase.slots[column];
      return row && slot ? cellKey(row.id, phase.key, slot.key) : null;
    };
    if (!this.cursor) {
      this.pick(at(0, 0));
      return;
    }
    this.putTyped();
    const { line, column } = this.spots.get(this.cursor);
    const next = at(line + down, column + right);
    if (next) this.pick(next);
  },
};
