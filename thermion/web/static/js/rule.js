// The rule editor: rows of terms.
import { component } from "./lib/page.js";

component("rule", () => ({
  school: "",
  adding: false,

  init() {
    this.school = this.$root.dataset.school;
    this.adding = "adding" in this.$refs.own.dataset;
  },

  openOwn() {
    this.adding = true;
    this.$nextTick(() => this.$refs.own.querySelector("input").focus());
  },

  get isOwn() {
    return this.school === "own";
  },

  add() {
    const rows = this.$refs.terms.querySelectorAll("tr");
    const made = rows[rows.length - 1].cloneNode(true);
    const fresh = ["1", "1", ""];
    made.querySelectorAll("input").forEach((input, i) => (input.value = fresh[i]));
    this.$refs.terms.append(made);
    made.querySelector("select").focus();
  },

  remove() {
    if (this.$refs.terms.querySelectorAll("tr").length > 1)
      this.$event.target.closest("tr").remove();
  },
}));
