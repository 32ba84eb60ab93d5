// A block copied from a spreadsheet goes into the cells from the cursor on, down and to the right. The
// server looks at each value as at one that was typed. A table with names of its own is looked into first.

import { fill } from "../lib/format.js";
import { outbox } from "../lib/outbox.js";
import { cellKey } from "./cells.js";

const NUMBERLESS = new Set(["", "-", "–", "—"]); // a cell that was not read

export const pasting = {
  pasted: [], // keys of the last block, while it can be taken back

  /** A single value is the field's own affair. */
  paste(event) {
    const text = event.clipboardData?.getData("text") ?? "";
    const block = text
      .trimEnd()
      .split(/\r?\n/)
      .map((line) => line.split("\t").map((c) => c.trim()));
    if (!this.cursor || (block.length === 1 && block[0].length === 1)) return;
    event.preventDefault();
    if (block.length > 1 && block.flat().some((cell) => /\p{L}{2}/u.test(cell))) {
      this.lookInto(text);
      return;
    }
    const cells = this.cellsOfBlock(block);
    if (!cells) return;
    this.trouble = "";
    this.typed = "";
    for (const [key, typed] of cells) this.put(key, typed, {});
    this.pasted = cells.map(([key]) => key);
    this.bubbleKey = "";
    this.look();
  },

  lookInto(text) {
    const form = this.$refs.table;
    form.elements.namedItem("text").value = text;
    form.submit();
  },

  /** What was pasted stays in view; the cursor goes on where the same phase has room. */
  look() {
    this.due = this.dueNow(this.active);
    this.place(null);
    this.home();
  },

  /** [key, value] of each cell; none, and why, where the block does not fit as it is. */
  cellsOfBlock(block) {
    const { line, column } = this.spots.get(this.cursor);
    const phase = this.viewed;
    const rows = this.server.rows.slice(line, line + block.length);
    const wide = Math.max(...block.map((each) => each.length));
    const slots = phase.slots.slice(column, column + wide);
    const read = block.flatMap((values, i) =>
      values
        .map((typed, k) => [rows[i], slots[k], typed])
        .filter((each) => !NUMBERLESS.has(each[2])),
    );
    const come = (slot) => this.server.paper || slot.mark <= this.since(phase);
    if (rows.length < block.length || slots.length < wide)
      return this.refuse(this.words.paste_large);
    if (read.some(([, , typed]) => !/\d/.test(typed))) return this.refuse(this.words.paste_words);
    if (!slots.every(come)) return this.refuse(this.words.paste_ahead);
    const cells = read.map(([row, slot, typed]) => [cellKey(row.id, phase.key, slot.key), typed]);
    if (cells.some(([key]) => this.stored[key]?.text)) return this.refuse(this.words.paste_over);
    return cells;
  },

  refuse(why) {
    this.trouble = why;
    return null;
  },

  get pastedText() {
    return this.pasted.length ? fill(this.words.pasted, { n: this.pasted.length }) : "";
  },

  /** Not what was corrected since: see `put`. */
  unpaste() {
    const sent = new Set(this.waiting.map((item) => item.key));
    const keys = this.pasted;
    this.pasted = [];
    for (const key of keys) {
      if (this.wrong[key]) outbox.drop(this.wrong[key].id);
      else if (this.stored[key]?.text || sent.has(key)) this.put(key, "", {});
    }
    this.view = keys.length ? this.spots.get(keys[0]).phase.key : this.view;
    this.look();
  },

  /** Whether a value stands here, or is on its way. */
  get nothingTyped() {
    return !this.waiting.length && !Object.values(this.stored).some((cell) => cell.text);
  },
};
