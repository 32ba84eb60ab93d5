// Trying a brief out: batch after batch of designs, until all have run.
import { send } from "./lib/http.js";
import { component } from "./lib/page.js";

component("tryout", () => ({
  done: 0,
  of: 0,
  going: false,
  trouble: "",

  get said() {
    return this.of ? `${this.done} of ${this.of}` : "";
  },

  get label() {
    return this.going ? "Trying …" : "Try the designs";
  },

  // A brief that was not tried yet is tried while the page is looked at.
  init() {
    if (this.$root.dataset.begin) this.go();
  },

  async go() {
    this.going = true;
    this.trouble = "";
    try {
      for (;;) {
        const { status, body } = await send("POST", this.$root.dataset.url, {});
        if (status !== 200)
          throw new Error(body.error || "It stopped. Try again; what ran is kept.");
        this.done = body.done;
        this.of = body.of;
        if (body.html) {
          this.$refs.result.innerHTML = body.html;
          break;
        }
      }
    } catch (error) {
      this.trouble = error.message;
    }
    this.going = false;
  },
}));
