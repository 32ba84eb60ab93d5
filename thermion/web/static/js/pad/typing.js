// What the team types, and the question about a slip.

import { fill } from "../lib/format.js";
import { outbox } from "../lib/outbox.js";
import { newId } from "../lib/page.js";

const MOST = 6; // characters of a number

export const typing = {
  choose() {
    this.row = Number(this.$el.dataset.row);
    this.typed = "";
  },

  press() {
    const digit = this.$el.dataset.digit.replace("−", "-");
    if (digit === "-" && this.typed) return;
    if (".,".includes(digit) && /[.,]/.test(this.typed)) return;
    if (this.typed.length < MOST) this.typed += digit;
  },

  rub() {
    this.typed = this.typed.slice(0, -1);
  },

  keep() {
    if (this.typed) this.put(this.typed);
  },

  word() {
    this.put(this.$el.dataset.typed);
  },

  put(typed, more = {}) {
    const id = newId();
    const replaced = this.waitingAt(this.row)?.id ?? "";
    const at = this.keyOf(this.row);
    outbox.put({
      id,
      url: this.urls.save,
      scope: this.scope,
      key: at,
      body: {
        row: this.row,
        phase: this.phase.key,
        mark: this.mark.mark,
        typed,
        client_id: id,
        entered_at: this.now.moment(),
        supersedes: this.cellOf(this.row)?.id ?? null,
        after: replaced,
        ...more,
      },
      what: this.words.what,
      where: this.where,
      typed,
      instead: this.refused?.id,
    });
    this.refused = null;
    this.wrong = "";
    this.typed = "";
    const next = this.run.rows.find((row) => row.id !== this.row && !this.textOf(row.id));
    if (next) this.row = next.id;
  },

  heard({ kind, item, answer }) {
    this.waiting = outbox.waiting(this.scope);
    if (item?.scope !== this.scope) return;
    if (kind === "took") {
      const { cell } = answer.body;
      const others = this.run.cells.filter(
        (c) => !(c.row === cell.row && c.phase === cell.phase && c.mark === cell.mark),
      );
      this.run = { ...this.run, cells: [...others, cell] };
      if (cell.question) this.row = cell.row;
    }
    if (kind === "refused") {
      outbox.here.add(item.id);
      this.refused = item;
      this.wrong = item.answer.error;
      this.row = item.body.row;
    }
  },

  get asked() {
    const cell = this.cellOf(this.row);
    return cell?.question && !this.waitingAt(this.row) && !this.typed ? cell : null;
  },

  get question() {
    return this.asked?.question ?? "";
  },

  get likely() {
    return this.asked?.suggestion ?? "";
  },

  get likelyKey() {
    return fill(this.words.likely, { likely: this.likely });
  },

  get rightKey() {
    return fill(this.words.yes, { typed: this.asked?.text ?? "" });
  },

  takeLikely() {
    this.put(this.likely);
  },

  itIsRight() {
    this.put(this.asked.text, { keep: true });
  },
};
