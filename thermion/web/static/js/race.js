// A race with one probe: one key starts, one stops. What was pressed is kept on this device until
// the server has it, with the moment at which it was pressed.

import { asksTheTeam } from "./lib/team_question.js";
import { ServerClock } from "./lib/clock.js";
import { clockText, fill } from "./lib/format.js";
import { outbox } from "./lib/outbox.js";
import { newId, pageData, say } from "./lib/page.js";

const EVERY = 2000; // ms

class RaceDesk {
  constructor(box) {
    const given = pageData();
    this.words = given.words;
    this.race = given.race;
    this.clock = new ServerClock(given.now);
    this.find = (name) => box.querySelector(`[data-${name}]`);
    this.ready = this.find("ready");
    this.going = this.find("going");
    this.asked = null; // what was typed when the server asked
    this.urls = given.urls;
    this.where = `${given.where}: ${given.who}`;
    outbox.listen((event) => this.heard(event));
    this.listen();
    this.show();
    if (this.race) this.probeField.focus();
    if (given.probed) setInterval(() => this.look(), EVERY);
  }

  /** The probe reads by itself: what it showed since. */
  async look() {
    if (!this.race?.key) return; // none is on, or the server has not heard of it yet
    try {
      const answer = await fetch(this.urls.now);
      if (!answer.ok) return;
      const body = await answer.json();
      if (body.race?.key === this.race?.key)
        this.done("probe", { ...body, note: body.note || this.noted });
    } catch {
      // the next look will tell
    }
  }

  get probeField() {
    return this.going.querySelector("#probe");
  }

  listen() {
    // until here, Enter would have sent the form past this script
    for (const button of [this.ready, this.find("probe")].map((f) => f.querySelector("button")))
      button.disabled = false;
    this.ready.addEventListener("submit", (event) => {
      event.preventDefault();
      this.start(this.ready.elements.typed.value, false);
    });
    this.find("probe").addEventListener("submit", (event) => {
      event.preventDefault();
      this.probe();
    });
    this.find("sure-start").addEventListener("click", () => this.start(this.asked, true));
    this.find("stop").addEventListener("click", () => this.stop(true));
    this.find("end").addEventListener("click", () => this.stop(false));
    this.find("false").addEventListener("click", () => this.falseStart());
    document.addEventListener("keydown", (event) => this.pressed(event));
    asksTheTeam(this.going);
    setInterval(() => this.tick(), 100);
  }

  /** Space stops, wherever the focus is, except on another button or a box to tick. */
  pressed(event) {
    if (event.key !== " " || !this.race || event.repeat) return;
    if (event.target.closest("button:not([data-stop]), [type=checkbox], summary, a")) return;
    event.preventDefault();
    this.stop(true);
  }

  // ---- what is pressed

  put(what, more, said = what) {
    const id = newId();
    outbox.put({
      id,
      url: this.urls[what],
      scope: this.urls.start,
      key: what,
      body: { client_id: id, pressed_at: this.clock.moment(), ...more },
      what: this.words[said],
      where: this.where,
      typed: more.typed ?? this.find("clock").textContent,
    });
  }

  start(typed, sure) {
    const entry = Number(this.ready.elements.entry.value);
    const started = this.clock.moment();
    this.put("start", { entry, typed, sure });
    if (!typed.trim()) return;
    this.race = { key: "", started, readings: [] };
    this.show();
    this.probeField.focus();
  }

  probe() {
    const field = this.probeField;
    if (field.value.trim()) this.put("probe", { typed: field.value });
    field.value = "";
    field.focus();
  }

  stop(reached) {
    if (!this.race) return;
    const seen = [...this.going.querySelectorAll("[name=seen]:checked")].map((chip) => chip.value);
    const said = reached ? "stop" : "end";
    this.put("stop", { key: this.race.key, at_target: reached, seen, note: "" }, said);
  }

  falseStart() {
    if (this.race) this.put("false_start", { key: this.race.key });
  }

  // ---- what the server answers

  heard({ kind, item, answer }) {
    if (item?.scope !== this.urls.start) return;
    if (kind === "took") this.done(item.key, answer.body);
    else if (kind === "refused") this.refused(item);
  }

  refused(item) {
    if (item.key !== "start")
      say(this.going.querySelector(":scope > [data-wrong]"), item.answer.error || item.answer.ask);
    else {
      outbox.drop(item.id); // said here, and later no start any more
      this.notStarted(item.body, item.answer);
    }
  }

  done(what, body) {
    say(this.ready.querySelector("[data-wrong]"), "");
    say(this.going.querySelector(":scope > [data-wrong]"), "");
    if (what === "stop" || what === "false_start") {
      location.assign(location.pathname);
      return;
    }
    this.race = body.race;
    if (what === "start") this.find("ask").hidden = true;
    else this.find("chart").innerHTML = body.chart;
    this.noted = body.note;
    say(this.find("note"), body.note);
    this.show();
  }

  notStarted(sent, body) {
    this.race = null;
    this.show();
    if (body.ask) {
      this.asked = sent.typed;
      this.find("ask-text").textContent = body.ask;
      this.find("ask").hidden = false;
    } else say(this.ready.querySelector("[data-wrong]"), body.error);
    this.ready.elements.typed.focus();
  }

  // ---- what is shown

  show() {
    this.ready.hidden = Boolean(this.race);
    this.going.hidden = !this.race;
    const last = this.race?.readings.at(-1);
    this.find("last").textContent = last
      ? fill(this.words.last, { value: last.text, time: last.time })
      : "";
    this.tick();
  }

  tick() {
    if (this.race) this.find("clock").textContent = clockText(this.clock.since(this.race.started));
  }
}

const box = document.querySelector("[data-race]");
if (box) new RaceDesk(box);
