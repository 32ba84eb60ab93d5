// The plan editor: every change is kept as a draft; the server answers with drawing and counts.
"use strict";

document.addEventListener("alpine:init", () => {
  Alpine.data("plan", () => ({
    state: {},
    materials: [],
    editable: false,
    url: "",
    at: "window",
    job: "",
    prediction: "",
    note: "",
    saying: "",
    trouble: "",
    wrongPrediction: "",
    unread: {},
    dirty: false,
    busy: false,
    timer: 0,
    drag: null,
    idea: 0,
    page: null,
    picture: null,

    init() {
      this.page = this.$root;
      this.picture = this.$refs.drawing;
      const given = window.thermion.data("plan-data");
      Object.assign(this, given);
      this.prediction = given.state.prediction;
      this.note = given.state.note;
      this.idea = String(given.state.idea);
      this.select(this.page.querySelector("button[data-place]").dataset.place);
      window.addEventListener("pointermove", (event) => this.pull(event));
      window.addEventListener("pointerup", () => (this.drag = null));
    },

    get hints() {
      return (this.state.hints || []).slice(0, 3);
    },

    get here() {
      return this.state.parts
        .map((part, index) => ({ part, index }))
        .filter((row) => row.part.place === this.at)
        .map(({ part, index }) => this.row(part, index));
    },

    row(part, index) {
      const m = this.materials.find((x) => x.key === part.material);
      const name = m ? m.name : part.material;
      const [units, reused] = ["units", "reused"].map((f) => this.unread[`${index}-${f}`]);
      const forms = m ? m.forms : [{ key: part.form, label: part.form }];
      return {
        index,
        name,
        unit: m ? `× ${m.unit}` : "",
        swatch: m ? `d-${m.swatch}` : "d-plain",
        units: units ? units.typed : part.units,
        reused: reused ? reused.typed : part.reused,
        forms: forms.map((f) => ({ ...f, on: f.key === part.form })),
        formLabel: (forms.find((f) => f.key === part.form) || {}).label,
        problem: (units || reused || {}).why || this.state.problems[index] || "",
        lessLabel: `One ${name} less`,
        moreLabel: `One ${name} more`,
        unitsLabel: `Units of ${name}`,
      };
    },

    get shelf() {
      return this.materials.map((m) => {
        const used = this.state.used[m.key] || 0;
        const over = m.limit !== null && used > m.limit;
        const left = m.limit === null ? "" : `${used}/${m.limit}`;
        return { ...m, left, swatch: `d-${m.swatch}`, tone: over ? "text-alarm!" : "" };
      });
    },

    placeClass(key) {
      const bad = this.state.parts.some((p, i) => p.place === key && this.state.problems[i]);
      return { "key-go": this.at === key, "border-alarm!": bad };
    },

    choose() {
      this.select(this.$event.currentTarget.dataset.place);
    },

    pointed() {
      const place = this.$event.target.closest("[data-place]");
      if (place) this.select(place.dataset.place);
    },

    // ---- handles: a factor is pulled on the drawing; its slider says the same in a number
    grab() {
      const event = this.$event;
      const handle = event.target.closest("[data-handle]");
      if (!handle || !this.editable) return;
      event.preventDefault();
      const svg = handle.ownerSVGElement;
      const toDrawing = svg.getScreenCTM().inverse();
      const input = this.page.querySelector(`[data-factor="${handle.dataset.handle}"]`);
      const numbers = (text) => (text || "").split(" ").map(Number);
      this.drag = {
        toDrawing,
        input,
        from: new DOMPoint(event.clientX, event.clientY).matrixTransform(toDrawing),
        value: Number(input.value),
        step: numbers(handle.dataset.step),
        about: handle.dataset.about ? numbers(handle.dataset.about) : null,
        turn: Number(handle.dataset.turn),
      };
    },

    pull(event) {
      const d = this.drag;
      if (!d) return;
      const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(d.toDrawing);
      let more;
      if (d.about) {
        const angle = (p) => (Math.atan2(d.about[1] - p.y, p.x - d.about[0]) * 180) / Math.PI;
        const turned = ((angle(at) - angle(d.from) + 540) % 360) - 180;
        more = turned / d.turn;
      } else {
        const [sx, sy] = d.step;
        more = ((at.x - d.from.x) * sx + (at.y - d.from.y) * sy) / (sx * sx + sy * sy);
      }
      const before = d.input.value;
      d.input.value = String(d.value + more); // the slider keeps to its ends and steps
      if (d.input.value !== before) d.input.dispatchEvent(new Event("input", { bubbles: true }));
    },

    select(key) {
      this.at = key;
      const button = this.page.querySelector(`button[data-place="${key}"]`);
      this.job = button ? button.dataset.job : "";
      for (const g of this.picture.querySelectorAll("[data-place]"))
        g.classList.toggle("d-chosen", g.dataset.place === key);
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
        const why = `“${typed}” is no number of units; ${before} stays.`;
        rest[`${index}-${field}`] = { typed, why };
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

    turn() {
      const input = this.$event.target;
      this.state.factors[input.dataset.factor] = Number(input.value);
      const out = this.page.querySelector(`[data-out="${input.dataset.factor}"]`);
      out.textContent = out.textContent.replace(/^\S+/, input.value);
      this.soon(60);
    },

    soon(wait) {
      if (!this.editable) return;
      this.dirty = true;
      this.saying = "keeping …";
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.save(), typeof wait === "number" ? wait : 350);
    },

    async save() {
      if (this.busy) return void this.soon(80);
      this.busy = true;
      this.dirty = false;
      const sent = {
        revision: this.state.revision,
        parts: this.state.parts,
        factors: this.state.factors,
        prediction: this.prediction,
        note: this.note,
        idea: Number(this.idea),
      };
      try {
        const { status, body } = await window.thermion.send("PUT", this.url, sent);
        if (status === 200) this.took(body);
        else {
          this.trouble = `${body.error} Your changes are still on this screen.`;
          this.saying = "not kept";
        }
      } catch {
        this.saying = "no connection; trying again";
        this.dirty = true;
        setTimeout(() => this.soon(0), 2000);
      }
      this.busy = false;
    },

    took(body) {
      const typedMeanwhile = this.dirty;
      const mine = { parts: this.state.parts, factors: this.state.factors };
      this.state = typedMeanwhile ? { ...body, ...mine } : body;
      this.wrongPrediction = body.errors.prediction || "";
      this.trouble = "";
      this.saying = typedMeanwhile ? "keeping …" : "kept";
      this.picture.innerHTML = body.svg;
      this.select(this.at);
    },

    async handIn() {
      if (!this.dirty && !this.busy) return;
      const form = this.$event.target;
      this.$event.preventDefault();
      clearTimeout(this.timer);
      while (this.busy) await new Promise((done) => setTimeout(done, 40));
      await this.save();
      if (!this.trouble) form.submit();
    },

    leaving() {
      if (this.dirty) this.$event.preventDefault();
    },

    reload() {
      this.dirty = false;
      location.reload();
    },
  }));
});
