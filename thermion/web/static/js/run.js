// A clocked test: clock, due column, the walk of the cursor, an outbox that survives everything.
// What is due, plausible or missed is decided by the server's marks and answers; this only shows it.
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

function clockText(seconds) {
  const whole = Math.max(0, Math.floor(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

document.addEventListener("alpine:init", () => {
  Alpine.data("run", () => ({
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

    // ---- clock
    get active() {
      const started = this.server.phases.filter((p) => p.started);
      return started[started.length - 1] || this.server.phases[0];
    },

    get nextPhase() {
      return this.server.phases.find((p) => !p.started);
    },

    since(phase) {
      if (!phase.started) return 0;
      const seconds = (Date.now() + this.offset - Date.parse(phase.started)) / 1000;
      return seconds * this.server.speed;
    },

    tick() {
      const phase = this.active;
      this.elapsed = Math.floor(this.since(phase) * 5) / 5;
      const due = phase.started
        ? phase.slots.reduce((found, s, i) => (s.mark <= this.elapsed ? i : found), -1)
        : -1;
      const last = phase.slots[phase.slots.length - 1];
      const now = phase.started && this.elapsed >= last.until ? phase.slots.length : due;
      if (now !== this.due) this.turned(now);
      if (this.server.rehearsal && this.probes && !this.board) this.probeRound();
    },

    turned(now) {
      const first = this.due === -1 && now === -1;
      this.due = now;
      if (first) return;
      this.ring(now);
      if (this.typed === "" && !this.detailOpen()) this.home();
    },

    ring(now) {
      if (!this.sound || this.server.closed || now >= this.active.slots.length) return;
      this.beep(880, 0);
      this.beep(1175, 0.18);
    },

    beep(pitch, after) {
      if (!this.audio) return;
      const tone = this.audio.createOscillator();
      const volume = this.audio.createGain();
      const at = this.audio.currentTime + after;
      tone.frequency.value = pitch;
      volume.gain.setValueAtTime(0.25, at);
      volume.gain.exponentialRampToValueAtTime(0.001, at + 0.3);
      tone.connect(volume).connect(this.audio.destination);
      tone.start(at);
      tone.stop(at + 0.3);
    },

    wake() {
      this.audio ||= new AudioContext();
      if (this.audio.state === "suspended") this.audio.resume();
    },

    toggleSound() {
      this.wake();
      this.sound = !this.sound;
      if (this.sound) this.beep(880, 0);
    },

    get soundLabel() {
      return this.sound ? "Sound on" : "Sound off";
    },

    get phaseLabel() {
      return this.server.rehearsal
        ? `${this.active.label}, rehearsal ${this.server.speed}×`
        : this.active.label;
    },

    get elapsedText() {
      return clockText(this.elapsed);
    },

    get upcoming() {
      return this.active.slots.find((s) => s.mark > this.elapsed);
    },

    get nowText() {
      if (this.server.closed) return "This run is closed. Values can still be corrected.";
      if (!this.active.started) return "Probes in, then start. The first reading is at minute 0.";
      const slot = this.active.slots[this.due];
      if (!slot)
        return this.nextPhase ? "All marks have passed." : "All marks have passed. Close the run.";
      const left = this.missing(this.due).length;
      return left ? `Read minute ${slot.label}: ${left} to go` : `Minute ${slot.label} is read`;
    },

    get nextText() {
      if (this.server.closed || !this.active.started || !this.upcoming) return "";
      const seconds = (this.upcoming.mark - this.elapsed) / this.server.speed;
      return `minute ${this.upcoming.label} in ${clockText(seconds + 0.9)}`;
    },

    get gauge() {
      const slot = this.active.slots[this.due];
      if (!slot || !this.active.started) return { transform: "scaleX(0)" };
      const share = (this.elapsed - slot.mark) / (slot.until - slot.mark);
      return { transform: `scaleX(${Math.min(1, share).toFixed(3)})` };
    },

    get canStart() {
      return Boolean(this.nextPhase) && !this.server.closed;
    },

    get startLabel() {
      return this.nextPhase ? this.nextPhase.begin : "";
    },

    get startClass() {
      const ready = !this.active.started || this.due >= this.active.slots.length - 1;
      return ready ? "key-go text-lg" : "";
    },

    get canClose() {
      return Boolean(this.server.phases[0].started) && !this.server.closed;
    },

    get closeClass() {
      return this.due >= this.active.slots.length && !this.nextPhase ? "key-go" : "";
    },

    async start() {
      const phase = this.nextPhase;
      if (!phase || this.starting) return;
      this.wake();
      this.starting = true;
      try {
        const { status, body } = await window.thermion.send("POST", this.urls.start, {
          phase: phase.key,
        });
        if (status === 200) {
          this.take(body);
          this.view = phase.key;
          this.due = -1;
          this.tick();
          this.home();
        } else this.trouble = body.error;
      } catch {
        this.trouble = "No connection: the clock was not started. Try again.";
      }
      this.starting = false;
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

    get rows() {
      const phase = this.viewed;
      const due = this.dueOf(phase);
      const sent = new Map(this.outbox.map((item) => [item.key, item]));
      return this.server.rows.map((row, r) => ({
        ...row,
        name: row.version > 1 ? `${row.name} ${row.version}` : row.name,
        tone: `team-${row.colour}`,
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
        typed: editing ? this.typed : "",
        label: `${row.name}, minute ${slot.label}${missed ? ", not read" : ""}`,
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

    put(key, typed, more) {
      const [entry, phase, mark] = key.split("|");
      const stored = this.server.cells[key];
      delete this.wrong[key];
      const item = {
        key,
        entry: Number(entry),
        phase,
        mark: Number(mark),
        typed,
        client_id: window.thermion.id(),
        entered_at: new Date(Date.now() + this.offset).toISOString(),
        supersedes: stored && stored.source !== "file" ? stored.id : null,
        ...more,
      };
      this.outbox.push(item);
      this.keepOutbox();
      this.flush();
    },

    keepOutbox() {
      localStorage.setItem(this.store, JSON.stringify(this.outbox));
    },

    async flush() {
      if (this.sending || !this.outbox.length) return;
      this.sending = true;
      while (this.outbox.length) {
        const item = this.outbox[0];
        try {
          const { status, body } = await window.thermion.send("POST", this.urls.save, item);
          if (status >= 500 || status === 400) throw new Error(body.error);
          this.offline = false;
          if (status === 200) this.arrived(item, body);
          else this.refused(item, status, body);
          this.outbox.shift();
          this.keepOutbox();
        } catch {
          this.offline = true;
          break;
        }
      }
      this.sending = false;
      if (this.outbox.length) setTimeout(() => this.flush(), 2000);
      else this.redrawSoon();
    },

    arrived(item, body) {
      const before = this.server.cells[item.key];
      if (before && body.cell.earlier) body.cell.earlier = before.earlier + 1;
      this.server.cells[item.key] = body.cell;
      if (body.cell.question) this.bubbleKey = item.key;
      else if (this.bubbleKey === item.key) this.bubbleKey = "";
    },

    refused(item, status, body) {
      this.wrong[item.key] = {
        typed: item.typed,
        message: body.error,
        suggestion: body.suggestion || "",
      };
      this.bubbleKey = item.key;
      if (status === 409) this.sync();
      if (status === 410) this.trouble = body.error;
    },

    get offlineText() {
      const count = this.outbox.length;
      return count
        ? `No connection: ${count} ${count === 1 ? "reading waits" : "readings wait"} on this device and will be sent. Go on reading.`
        : "No connection to Thermion. The clock goes on.";
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

    // ---- other screens, pictures, probes
    async sync() {
      if (this.sending || this.outbox.length || this.probing) return;
      try {
        const response = await fetch(this.urls.state);
        if (response.status === 410) {
          this.trouble = (await response.json()).error;
          return;
        }
        if (!response.ok) throw new Error("away");
        const before = JSON.stringify(this.server.cells);
        const wasActive = this.active.key;
        this.take(await response.json());
        this.offline = false;
        if (this.active.key !== wasActive) {
          this.view = this.active.key;
          this.due = -1;
        }
        if (JSON.stringify(this.server.cells) !== before) {
          this.redraw();
          if (this.typed === "" && !this.detailOpen() && this.cursor !== null) this.home();
        }
      } catch {
        this.offline = true;
      }
    },

    redrawSoon() {
      clearTimeout(this.chartTimer);
      this.chartTimer = setTimeout(() => this.redraw(), 300);
    },

    async redraw() {
      try {
        const response = await fetch(this.urls.curves, { headers: { "X-Inline": "1" } });
        if (response.ok) this.picture.innerHTML = await response.text();
      } catch {
        this.offline = true;
      }
    },

    async probeRound() {
      if (this.probing || this.server.closed || !this.active.started) return;
      const phase = this.active;
      const slot = phase.slots[this.due];
      const left = this.missing(this.due);
      if (!slot || !left.length) {
        if (this.due >= phase.slots.length - 1 && this.nextPhase && !left.length) this.start();
        return;
      }
      this.probing = true;
      for (const key of left) {
        if (phase.slots[this.due] !== slot || !this.probes) break;
        try {
          const { status, body } = await window.thermion.send("POST", this.urls.probe, {
            entry: Number(key.split("|")[0]),
            phase: phase.key,
            mark: slot.mark,
            client_id: window.thermion.id(),
          });
          if (status !== 200) break;
          this.server.cells[key] = body.cell;
        } catch {
          this.offline = true;
          break;
        }
      }
      this.probing = false;
      this.redrawSoon();
    },
  }));
});
