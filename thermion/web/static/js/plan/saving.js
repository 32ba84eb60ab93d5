// Every change is kept as a draft; the server answers with drawing and counts.

import { fill } from "../lib/format.js";
import { send } from "../lib/http.js";

function hiddenField(name, value) {
  const field = document.createElement("input");
  Object.assign(field, { type: "hidden", name, value });
  return field;
}

export const saving = {
  soon(wait) {
    this.dirty = true;
    this.saying = this.words.keeping;
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
      worked: this.worked,
      failed: this.failed,
      idea: Number(this.idea),
      narrow: this.narrow.matches,
    };
    try {
      const { status, body } = await send("PUT", this.url, sent);
      if (status === 200) this.took(body);
      else {
        this.trouble = fill(this.words.refused, { error: body.error });
        this.saying = this.words.not_kept;
      }
    } catch {
      this.saying = this.words.trying;
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
    this.saying = typedMeanwhile ? this.words.keeping : body.said;
    this.picture.innerHTML = body.svg;
    this.select(this.at);
  },

  async handIn() {
    if (!this.dirty && !this.busy) return;
    const form = this.$event.target;
    const { submitter } = this.$event;
    this.$event.preventDefault();
    clearTimeout(this.timer);
    while (this.busy) await new Promise((done) => setTimeout(done, 40));
    await this.save();
    if (this.trouble) return;
    if (submitter?.name) form.append(hiddenField(submitter.name, submitter.value));
    form.submit();
  },

  leaving() {
    if (this.dirty) this.$event.preventDefault();
  },

  reload() {
    this.dirty = false;
    location.reload();
  },
};
