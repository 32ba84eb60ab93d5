// The ruler of minutes: point to add or remove a mark, or fill it evenly. The field holds the
// data; what it means is read by the server.

import { trySend } from "./lib/http.js";
import { component } from "./lib/page.js";

const RULER = { from: 20, perMinute: 16, width: 1000, minutes: 60 };

component("marks", () => ({
  text: "",
  until: "",
  count: "",
  wrong: "",
  minutes: [],
  timer: 0,

  init() {
    this.text = document.getElementById(this.$root.dataset.field).value;
    this.ask({}).then(() => (this.until = String(this.minutes.at(-1) ?? 30)));
  },

  async ask(more) {
    const sent = { text: this.text, ...more };
    const away = "Thermion cannot be reached; the ruler does not follow.";
    const { status, body } = await trySend("POST", this.$root.dataset.url, sent, away);
    if (this.text !== sent.text) return; // older than what was typed meanwhile
    this.wrong = body.error;
    if (status !== 200 || body.error) return;
    this.minutes = body.minutes;
    this.count = body.count;
    if (Object.keys(more).length) this.text = body.text;
  },

  typed() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.ask({}), 250);
  },

  get path() {
    return this.minutes
      .filter((m) => m <= RULER.minutes)
      .map((m) => `M${RULER.from + m * RULER.perMinute} 4V50`)
      .join("");
  },

  even() {
    this.ask({ every: Number(this.$event.target.dataset.step), until: this.until });
  },

  point() {
    const box = this.$refs.ruler.getBoundingClientRect();
    const x = ((this.$event.clientX - box.left) / box.width) * RULER.width;
    const minute = Math.round((x - RULER.from) / RULER.perMinute);
    this.ask({ toggle: Math.min(RULER.minutes, Math.max(0, minute)) });
  },
}));
