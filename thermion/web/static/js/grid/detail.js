// Details of one value: what stood there before, another value, a time given by hand.

import { fill } from "../lib/format.js";
import { outbox } from "../lib/outbox.js";

export const detail = {
  detailOpen() {
    return Boolean(this.sheet && this.sheet.open);
  },

  async openDetail(key) {
    const { row, slot } = this.spots.get(key);
    const stored = this.stored[key];
    this.detail = {
      key,
      title: fill(this.words.cell, { row: row.name, minute: slot.label }),
      typed: stored ? stored.text : "",
      at: stored ? stored.time : "",
      history: [],
    };
    this.sheet.showModal();
    if (!stored) return;
    const url = this.urls.history.replace("/0/", `/${stored.id}/`);
    const response = await fetch(url).catch(() => null);
    if (response?.ok) this.detail.history = (await response.json()).rows;
    else if (!response) outbox.see("away");
  },

  saveDetail() {
    const { key } = this.detail;
    const stored = this.stored[key];
    const typed = this.detail.typed.trim();
    const at = this.detail.at.trim();
    if (typed !== (stored?.text ?? null) || at !== stored.time)
      this.put(key, typed, at ? { at } : {});
    this.closeDetail();
  },

  closeDetail() {
    this.sheet.close();
    this.home();
  },
};
