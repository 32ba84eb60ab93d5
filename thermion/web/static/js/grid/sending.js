// Readings on their way to the server, what other screens wrote, and in a rehearsal the simulated
// probes.

import { fill } from "../lib/format.js";
import { inline, read, send } from "../lib/http.js";
import { newId } from "../lib/page.js";

export const sending = {
  put(key, typed, more) {
    const { row, phase, slot } = this.spots.get(key);
    const stored = this.stored[key];
    delete this.wrong[key];
    const reading = {
      entry: row.id,
      phase: phase.key,
      mark: slot.mark,
      typed,
      client_id: newId(),
      entered_at: this.now.moment(),
      supersedes: stored && stored.source !== "file" ? stored.id : null,
      ...more,
    };
    this.puts += 1;
    this.outbox.put("save", reading, key);
  },

  hooks() {
    return {
      took: (item, answer) => this.took(item, answer),
      away: () => (this.offline = true),
      stale: (error) => (this.trouble = fill(this.words.stale, { error })),
      back: () => (this.offline = false),
      empty: () => {
        if (this.behind) this.sync();
        this.behind = false;
        this.redrawSoon();
      },
      restored: (item) => (item.body ? item : { what: "save", body: item, key: item.key }),
    };
  },

  took(item, { status, body }) {
    if (status === 200) this.arrived(item, body);
    else this.refused(item, status, body);
  },

  arrived({ key }, { cell }) {
    const before = this.stored[key];
    if (before && cell.earlier) cell.earlier = before.earlier + 1;
    this.stored[key] = cell;
    for (const later of this.outbox.items) if (later.key === key) later.body.supersedes = cell.id;
    if (cell.question) this.bubbleKey = key;
    else if (this.bubbleKey === key) this.bubbleKey = "";
  },

  refused({ key, body: reading }, status, body) {
    const { error: message, suggestion = "" } = body;
    const clash = status === 409; // another screen was first: theirs or ours
    this.wrong[key] = {
      typed: reading.typed,
      message,
      suggestion: clash ? reading.typed : suggestion,
      clash,
    };
    this.bubbleKey = key;
    this.behind ||= clash;
    if (status === 410) this.trouble = message;
  },

  get offlineText() {
    const n = this.outbox.items.length;
    return n ? fill(this.words.offline, { n }) : this.words.away;
  },

  /** What the server knows, unless something of ours is still on its way. */
  async sync() {
    if (this.outbox.sending || this.outbox.items.length || this.probing) return;
    const before = this.puts;
    const { status, body, now } = await read(this.urls.state);
    if (now) this.now.set(now);
    if (status === 304) this.offline = false;
    else if (status === 410) this.trouble = body.error;
    else if (status !== 200) this.offline = true;
    else if (this.puts === before) this.synced(body); // else older than what was read meanwhile
  },

  synced(state) {
    const stored = JSON.stringify(this.stored);
    const wasActive = this.active.key;
    this.take(state);
    this.offline = false;
    if (this.active.key !== wasActive) {
      this.view = this.active.key;
      this.due = -1;
    }
    if (JSON.stringify(this.stored) === stored) return;
    this.redraw();
    if (this.typed === "" && !this.detailOpen() && this.cursor !== null) this.home();
  },

  redrawSoon() {
    clearTimeout(this.chartTimer);
    this.chartTimer = setTimeout(() => this.redraw(), 300);
  },

  async redraw() {
    try {
      const drawn = await inline(this.urls.curves);
      if (drawn !== null) this.picture.innerHTML = drawn;
    } catch {
      this.offline = true;
    }
  },

  // ---- a rehearsal's probes

  async probeRound() {
    if (this.probing || this.server.closed || !this.active.started) return;
    const left = this.missing(this.due);
    if (left.length) await this.probeAll(left, this.due);
    else if (this.due >= this.active.slots.length - 1 && this.nextPhase) this.start();
  },

  async probeAll(keys, due) {
    this.probing = true;
    for (const key of keys) if (this.due !== due || !this.probes || !(await this.probe(key))) break;
    this.probing = false;
    this.redrawSoon();
  },

  /** Ask a row's probe; false when it could not be read. */
  async probe(key) {
    const { row, phase, slot } = this.spots.get(key);
    const asked = { entry: row.id, phase: phase.key, mark: slot.mark, client_id: newId() };
    const answer = await send("POST", this.urls.probe, asked).catch(() => null);
    if (!answer) this.offline = true;
    if (answer?.status !== 200) return false;
    this.stored[key] = answer.body.cell;
    return true;
  },
};
