// The plan editor: a place is chosen on the drawing, parts are put there, factors are pulled.

import { component, mix, pageData } from "./lib/page.js";
import { drawing } from "./plan/drawing.js";
import { parts } from "./plan/parts.js";
import { saving } from "./plan/saving.js";

const plan = {
  state: {},
  materials: [],
  url: "",
  at: "",
  words: {},
  decimal: ".",
  job: "",
  prediction: "",
  note: "",
  worked: "",
  failed: "",
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
  narrow: window.matchMedia("(max-width: 639px)"),

  init() {
    this.page = this.$root;
    const given = pageData();
    Object.assign(this, given);
    this.prediction = given.state.prediction;
    this.note = given.state.note;
    this.worked = given.state.worked;
    this.failed = given.state.failed;
    this.idea = String(given.state.idea);
    this.wrongPrediction = given.state.errors.prediction || "";
    this.select(given.at);
    this.narrow.addEventListener("change", () => this.soon(0));
    window.addEventListener("pointermove", (event) => this.pull(event));
    window.addEventListener("pointerup", () => (this.drag = null));
  },

  /** The drawing that this width shows. */
  get picture() {
    return this.$refs[this.narrow.matches ? "narrow" : "wide"];
  },

  get hints() {
    return (this.state.hints || []).slice(0, 3);
  },
};

component("plan", () => mix(parts, drawing, saving, plan));
