// A clocked test: the grid, the due column leading, the walk of the cursor, doubtful values.
// What is due, plausible or missed is decided by the server's marks and answers; this shows it.
"use strict";

const PATHS = {
  circle: "M-9.5,0a9.5,9.5 0 1 0 19,0a9.5,9.5 0 1 0 -19,0z",
  square: "M-8.5,-8.5h17v17h-17z",
  triangle: "M0-10 10 9H-10z",
  diamond: "M0-10 10 0 0 10-10 0z",
  drop: "M0-10q14 14 0 19.5q-14-5.5 0-19.5z",
  hexagon: "M-5-9H5L10 0 5 9H-5L-10 0z",
  cross: "M-5.5-10h11v4.5H10v11H5.5V10h-11V5.5H-10v-11h4.5z",
  star: "M0-10l3 5 6-1-2 6 3 5-6 1-4 4-4-4-6-1 3-5-2-6 6 1z",
};

document.addEventListener("alpine:init", () => {
  Alpine.data("run", () => window.thermion.mix(window.thermion.runClock, window.thermion.runOutbox, {
    urls: {},
    run: 0,
    board: false,
    server: { rows: [], phases: [], cells: {} },
    offset: 0,
    elapsed: 0,
    due: -1,
    view: "",
    cursor: null,
    typed: "",
    overwrite: false,
    outbox: [],
    puts: 0,
    wrong: {},
    bubbleKey: "",
    sound: true,
    offline: false,
    trouble: "",
    starting: false,
    probes: true,
    probing: false,
    sending: false,
    audio: null,
    lastLeft: 0,
    chartTimer: 0,
    page: null,
    picture: null,
    sheet: null,
    detail: { title: "", typed: "", at: "", history: [], key: "" },

    init() {
      // kept here: the magic properties are lost when the calling cell has left the page
      this.page = this.$root;
      this.picture = this.$refs.chart;
      this.sheet = this.$refs.detail;
      const given = window.thermion.data("run-data");
      this.urls = given.urls;
      this.run = given.run;
      this.board = Boolean(given.board);
      this.take(given.state);
      this.view = this.active.key;
      if (!this.board) {
        this.outbox = JSON.parse(localStorage.getItem(this.store) || "[]");
        this.flush();
      }
      this.tick();
      this.home();
      setInterval(() => this.tick(), this.server.speed > 1 ? 80 : 200);
      setInterval(() => this.sync(), this.board ? 2000 : 5000);
      document.addEventListener("visibilitychange", () => document.hidden || this.sync());
    },

    get store() {
      return `thermion-run-${this.run}`;
    },

    take(state) {
      this.offset = Date.parse(state.now) - Date.now();
      this.server = state;
    },

    // ---- grid
    get rehearsal() {
      return this.server.rehearsal;
    },

    get tabs() {
      return this.server.phases.map((p) => ({
        key: p.key,
        label: p.label,
        on: p.key === this.view,
        tone: p.key === this.view ? "key-go" : "",
      }));
    },

    get viewed() {
      return this.server.phases.find((p) => p.key === this.view);
    },

    show(key) {
      this.view = key;
      this.cursor = null;
      if (key === this.active.key) this.home();
    },

    dueOf(phase) {
      if (!phase.started) return -1;
      return phase.key === this.active.key ? this.due : phase.slots.length;
    },

    get columns() {
      const due = this.dueOf(this.viewed);
      return this.viewed.slots.map((s, i) => ({ ...s, tone: i === due ? "is-due" : "" }));
    },

    /** When a build's own clock starts, with staggered starts. */
    startOf(row) {
      if (!row.offset) return "";
      const s = Math.round(row.offset);
      return ` +${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
    },

    get rows() {
      const phase = this.viewed;
      const due = this.dueOf(phase);
      const sent = new Map(this.outbox.map((item) => [item.key, item]));
      return this.server.rows.map((row, r) => ({
        ...row,
        name: (row.version > 1 ? `${row.name} ${row.version}` : row.name) + this.startOf(row),
        tone: `team-${row.colour}`,
        deviceTone: row.device ? `device-${row.device}` : "",
        path: PATHS[row.shape] || "",
        cells: phase.slots.map((slot, i) => this.cell(row, r, phase, slot, i, due, sent)),
      }));
    },

    cell(row, r, phase, slot, i, due, sent) {
      const key = `${row.id}|${phase.key}|${slot.key}`;
      const stored = this.server.cells[key];
      const wrong = this.wrong[key];
      const waiting = sent.get(key);
      const editing = this.cursor === key;
      const text = wrong ? wrong.typed : waiting ? waiting.typed : stored ? stored.text : "";
      const missed = text === "" && i < due;
      const question = wrong ? wrong.message : stored && !waiting ? stored.question : "";
      const suggestion = wrong ? wrong.suggestion : stored ? stored.suggestion : "";
      const late = r > this.server.rows.length / 2;
      return {
        key,
        editing,
        text,
        icon: row.scaled && text !== "" ? `#word-${text}` : "",
        mode: row.scaled ? "none" : "decimal", // no keyboard on a tablet where it is pointed at
        textTone: row.scaled ? "num text-xs" : "",
        typed: editing ? this.typed : "",
        label: `${row.name}${row.device ? ` ${row.device}` : ""}, minute ${slot.label}${missed ? ", not read" : ""}`,
        tone: { "is-due": i === due, "is-missed": missed },
        look: {
          "is-asked": Boolean(question) && !wrong,
          "is-wrong": Boolean(wrong),
          "is-sending": Boolean(waiting),
          "is-logged": Boolean(stored) && stored.source === "file",
        },
        sup: stored && stored.earlier && !waiting ? "✎" : stored && !stored.timed ? "≈" : "",
        bubble: question && (this.bubbleKey === key || editing) ? question : "",
        bubbleTone: {
          "is-left": i >= phase.slots.length / 2,
          "is-up": late,
          "bubble-alarm": Boolean(wrong),
        },
        suggestion,
        suggestText: suggestion ? `take ${suggestion}` : "",
        keepText: wrong ? "leave empty" : `keep ${text}`,
      };
    },

    missing(index) {
      const phase = this.active;
      const slot = phase.slots[index];
      if (!slot) return [];
      const sent = new Set(this.outbox.map((item) => item.key));
      return this.server.rows
        .map((row) => `${row.id}|${phase.key}|${slot.key}`)
        .filter((key) => {
          const stored = this.server.cells[key];
          return !(stored && stored.text !== "") && !sent.has(key) && !this.wrong[key];
        });
    },

    home() {
      // the due column leads: first row still to be read
      if (this.board || this.server.closed || (this.rehearsal && this.probes)) return;
      if (this.view !== this.active.key) return;
      this.place(this.missing(this.due)[0] || null);
    },

    place(key, text = "") {
      this.cursor = key;
      this.typed = text;
      this.overwrite = text !== "";
      if (key === null) return;
      Alpine.nextTick(() => {
        const input = this.page.querySelector(`input[data-cell="${key}"]`);
        if (!input) return;
        input.focus();
        if (this.overwrite) input.select();
      });
    },

    // keys that come before the next field has the focus are its first digits, not lost
    early(event) {
      if (!this.cursor || !/^[\d.,+−-]$/.test(event.key)) return false;
      this.typed = this.overwrite ? event.key : this.typed + event.key;
      this.overwrite = false;
      if (this.oneKey(this.typed)) this.commit();
      event.preventDefault();
      return true;
    },

    pick(key) {
      const stored = this.server.cells[key];
      this.place(key, this.wrong[key] ? this.wrong[key].typed : stored ? stored.text : "");
      this.bubbleKey = key;
    },

    typing(event) {
      this.typed = event.target.value;
      this.overwrite = false;
      if (this.oneKey(this.typed)) this.commit();
    },

    /** A value of a scale in words is one key: it keeps and goes on at once. */
    oneKey(typed) {
      if (!this.cursor || !/^\d$/.test(typed) || !this.server.words[Number(typed)]) return false;
      const entry = Number(this.cursor.split("|")[0]);
      return Boolean((this.server.rows.find((row) => row.id === entry) || {}).scaled);
    },

    pointAt() {
      if (!this.cursor) return;
      this.typed = this.$event.currentTarget.dataset.word;
      this.wake();
      this.commit();
    },

    commit() {
      const key = this.cursor;
      const typed = this.typed.trim();
      if (!key) return;
      const stored = this.server.cells[key];
      if (typed === "" || (stored && stored.text === typed)) {
        this.after(key);
        return;
      }
      this.put(key, typed, {});
      this.after(key);
    },

    after(key) {
      const left = this.missing(this.due);
      const order = this.server.rows.map((row) => row.id);
      const row = Number(key.split("|")[0]);
      const later = left.filter((k) => order.indexOf(Number(k.split("|")[0])) > order.indexOf(row));
      this.place(this.view === this.active.key ? later[0] || left[0] || null : null);
    },

    takeIt(key) {
      const cell = this.wrong[key] || this.server.cells[key];
      if (cell && cell.suggestion) this.put(key, cell.suggestion, { keep: true });
      this.bubbleKey = "";
      this.refocus();
    },

    keepIt(key) {
      if (this.wrong[key]) delete this.wrong[key];
      else if (this.server.cells[key])
        this.put(key, this.server.cells[key].text, { keep: true });
      this.bubbleKey = "";
      this.refocus();
    },

    refocus() {
      const input = this.page.querySelector(".cell-input");
      if (input) input.focus();
      else this.home();
    },

    pressed(event) {
      if (this.board || this.detailOpen() || event.ctrlKey || event.metaKey || event.altKey) return;
      this.wake();
      const inField = event.target.matches("input, textarea, select");
      if (inField && !event.target.matches(".cell-input, [type=checkbox]")) return;
      if (!event.target.matches(".cell-input")) {
        if (this.early(event)) return;
        if (event.key === "Enter" && this.cursor && !event.target.matches("button, a, summary"))
          return void this.commit();
      }
      const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] };
      if (step[event.key]) {
        event.preventDefault();
        this.move(...step[event.key]);
      } else if (event.key === "Escape") {
        this.view = this.active.key;
        this.bubbleKey = "";
        this.home();
      } else if (this.typed === "" || this.untouched()) this.letter(event);
    },

    untouched() {
      const stored = this.cursor && this.server.cells[this.cursor];
      return Boolean(stored) && stored.text === this.typed;
    },

    letter(event) {
      const key = event.key.toLowerCase();
      const asked = this.bubbleKey || this.cursor;
      if (key === "c" && asked) this.takeIt(asked);
      else if (key === "k" && asked) this.keepIt(asked);
      else if (key === "t" && this.cursor) this.openDetail(this.cursor);
      else return;
      event.preventDefault();
    },

    move(down, right) {
      const phase = this.viewed;
      const order = this.server.rows.map((row) => row.id);
      if (!this.cursor) return void this.pick(`${order[0]}|${phase.key}|${phase.slots[0].key}`);
      const [entry, , mark] = this.cursor.split("|");
      const stored = this.server.cells[this.cursor];
      const typed = this.typed.trim();
      if (typed !== "" && !(stored && stored.text === typed)) this.put(this.cursor, typed, {});
      const row = order.indexOf(Number(entry)) + down;
      const column = phase.slots.findIndex((s) => s.key === mark) + right;
      if (row < 0 || row >= order.length || column < 0 || column >= phase.slots.length) return;
      this.pick(`${order[row]}|${phase.key}|${phase.slots[column].key}`);
    },

    get hintText() {
      const left = Object.values(this.server.cells).filter((c) => c.question).length;
      return left ? `${left} doubtful ${left === 1 ? "value" : "values"} (amber)` : "";
    },

    // ---- details of one value
    detailOpen() {
      return Boolean(this.sheet && this.sheet.open);
    },

    async openDetail(key) {
      const [entry, , mark] = key.split("|");
      const row = this.server.rows.find((x) => x.id === Number(entry));
      const stored = this.server.cells[key];
      this.detail = {
        key,
        title: `${row.name}, minute ${Number(mark) / 60}`,
        typed: stored ? stored.text : "",
        at: stored ? stored.time : "",
        history: [],
      };
      this.sheet.showModal();
      if (!stored) return;
      const url = this.urls.history.replace("/0/", `/${stored.id}/`);
      this.detail.history = (await (await fetch(url)).json()).rows;
    },

    saveDetail() {
      const { key, typed, at } = this.detail;
      const stored = this.server.cells[key];
      const changed = !stored || typed.trim() !== stored.text || at.trim() !== stored.time;
      if (changed) this.put(key, typed.trim(), at.trim() ? { at: at.trim() } : {});
      this.closeDetail();
    },

    closeDetail() {
      this.sheet.close();
      this.home();
    },
  }));
});
