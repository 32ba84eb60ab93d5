// The parts of a plan: what stands where, of which material, how much, in which form.

import { fill } from "../lib/format.js";

export const parts = {
  get here() {
    return this.state.parts
      .map((part, index) => ({ part, index }))
      .filter((row) => row.part.place === this.at)
      .map(({ part, index }) => this.row(part, index));
  },

  row(part, index) {
    const { name, unit, swatch, forms } = this.materialOf(part);
    const [units, reused] = ["units", "reused"].map((f) => this.unread[`${index}-${f}`]);
    return {
      index,
      name,
      unit,
      swatch,
      from: part.idea ? fill(this.words.from, { n: part.idea }) : "",
      units: units ? units.typed : part.units,
      reused: reused ? reused.typed : part.reused,
      forms: forms.map((f) => ({ ...f, on: f.key === part.form })),
      problem: (units || reused || {}).why || this.state.problems[index] || "",
      lessLabel: fill(this.words.less, { name }),
      moreLabel: fill(this.words.more, { name }),
      unitsLabel: fill(this.words.units, { name }),
    };
  },

  /** A material on offer, or what is known of one that no longer is. */
  materialOf(part) {
    const m = this.materials.find((x) => x.key === part.material);
    if (!m) {
      const forms = [{ key: part.form, label: part.form }];
      return { name: part.material, unit: "", swatch: "d-plain", forms };
    }
    const unit = fill(this.words.unit, { unit: m.unit });
    return { name: m.name, unit, swatch: `d-${m.swatch}`, forms: m.forms };
  },

  get shelf() {
    return this.materials.map((m) => {
      const used = this.state.used[m.key] || 0;
      const over = m.limit !== null && used > m.limit;
      const left = m.limit === null ? "" : fill(this.words.left, { used, limit: m.limit });
      return { ...m, left, swatch: `d-${m.swatch}`, tone: over ? "text-alarm!" : "" };
    });
  },

  placeClass(key) {
    const bad = this.state.parts.some((p, i) => p.place === key && this.state.problems[i]);
    return { "key-go": this.at === key, "border-alarm!": bad };
  },

  add(material) {
    const m = this.materials.find((x) => x.key === material);
    const same = this.state.parts.find((p) => p.place === this.at && p.material === material);
    if (same) same.units += 1;
    else
      this.state.parts.push({
        place: this.at,
        material,
        form: m.forms[0].key,
        units: 1,
        reused: 0,
      });
    this.soon(0);
  },

  more(index) {
    this.state.parts[index].units += 1;
    this.soon(0);
  },

  less(index) {
    const part = this.state.parts[index];
    part.units -= 1;
    if (part.units <= 0) this.drop(index);
    else part.reused = Math.min(part.reused, part.units);
    this.soon(0);
  },

  // what cannot be read stays in its field with the reason; the number before stays in the plan
  number(index, field, event) {
    const typed = event.target.value.trim();
    const value = Number(typed.replace(",", "."));
    const fine = typed !== "" && Number.isFinite(value) && value >= 0 && value <= 999;
    const before = this.state.parts[index][field];
    const rest = { ...this.unread };
    delete rest[`${index}-${field}`];
    if (!fine) {
      rest[`${index}-${field}`] = { typed, why: fill(this.words.no_number, { typed, before }) };
    }
    event.target.setAttribute("aria-invalid", String(!fine));
    this.unread = rest;
    return fine ? value : null;
  },

  count(index, event) {
    const value = this.number(index, "units", event);
    if (value === null) return;
    if (value === 0) this.drop(index);
    else this.state.parts[index].units = value;
    this.soon(0);
  },

  drop(index) {
    this.state.parts.splice(index, 1);
    this.unread = {};
  },

  reuse(index, event) {
    const value = this.number(index, "reused", event);
    if (value === null) return;
    this.state.parts[index].reused = value;
    this.soon(0);
  },

  shape(index, form) {
    this.state.parts[index].form = form;
    this.soon(0);
  },
};
