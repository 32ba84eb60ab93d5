// What the team has read, with what is still on its way.

export const values = {
  keyOf(row) {
    return this.mark ? `${row}-${this.phase.key}-${this.mark.key}` : "";
  },

  cellOf(row) {
    return this.run.cells.find(
      (c) => c.row === row && c.phase === this.phase.key && c.mark === this.mark?.key,
    );
  },

  waitingAt(row) {
    return this.waiting.findLast((item) => item.key === this.keyOf(row));
  },

  textOf(row) {
    if (row === this.row && this.typed) return this.typed;
    const text = this.waitingAt(row)?.body.typed ?? this.cellOf(row)?.text ?? "";
    return text && this.choices.length ? (this.choices[Number(text)] ?? text) : text;
  },

  get rows() {
    return this.run.rows.map((row) => ({
      ...row,
      on: row.id === this.row,
      text: this.textOf(row.id) || "–",
    }));
  },

  get missing() {
    return this.run.rows.filter((row) => !this.textOf(row.id));
  },

  get past() {
    return this.run.cells
      .filter((c) => c.phase === this.phase.key && c.row === this.row && c.text)
      .sort((a, b) => Number(a.mark) - Number(b.mark))
      .map((c) => ({ key: c.mark, label: `${Number(c.mark) / 60} min`, text: c.text }));
  },

  get kept() {
    return this.waiting.length ? this.words.kept : "";
  },
};
