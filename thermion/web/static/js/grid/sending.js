// Readings on their way to the server, what other screens wrote, and in a rehearsal the simulated
// probes.

import { fill } from "../lib/format.js";
import { inline, read, send } from "../lib/http.js";
import { outbox } from "../lib/outbox.js";
import { newId } from "../lib/page.js";
import { cellKey } from "./cells.js";

const SOON = 300; // ms
const DRAWN_EVERY = 3000; // ms

export const sending = {
  drawnAt: -Infinity,

  put(key, typed, more) {
    const { row, phase, slot } = this.spots.get(key);
    const stored = this.stored[key];
    const reading = {
      entry: row.id,
      phase: phase.key,
      mark: slot.mark,
      typed,
      client_id: newId(),
      entered_at: this.now.moment(),
      supersedes: stored?.source === "file" ? null : this.replaced(key),
      after: this.waiting.findLast((item) => item.key === key)?.id ?? "",
      ...more,
    };
    this.puts += 1;
    this.pasted = this.pasted.filter((each) => each !== key);
    this.mine.add(reading.client_id);
    outbox.put({
      id: reading.client_id,
      url: this.urls.save,
      scope: this.scope,
      key,
      body: reading,
      what: fill(this.words.kept_what, { phase: phase.label }),
      where: `${this.where}: ${fill(this.words.kept_where, { row: this.nameOf(row), minute: slot.label })}`,
      typed: typed === "" ? this.words.taken_back : typed,
      instead: this.wrong[key]?.id,
    });
  },

  /** What the eye saw there when it was typed; what came meanwhile is not replaced unasked. */
  replaced(key) {
    return key === this.cursor ? this.under : (this.stored[key]?.id ?? null);
  },

  /** What happens in the outbox, in this tab or another of this device. */
  heard({ kind, item, answer }) {
    if (item && item.scope !== this.scope) return;
    this.waiting = outbox.waiting(this.scope);
    if (kind === "took") this.arrived(item, answer.body);
    this.wrong = {};
    for (const each of outbox.refused(this.scope)) this.refused(each);
    if (kind === "refused") this.refusedNow(item);
    if (["took", "refused"].includes(kind) && !this.waiting.length) this.settled();
  },

  arrived({ id, key }, { cell }) {
    const before = this.stored[key];
    if (before && cell.earlier) cell.earlier = before.earlier + 1;
    this.stored[key] = cell;
    if (key === this.cursor && this.mine.has(id)) this.under = cell.id;
    else if (key === this.cursor && this.typed === "" && !this.detailOpen()) this.goOn();
    if (!this.waiting.some((each) => each.body.after === id) && cell.question) this.bubbleKey = key;
    else if (this.bubbleKey === key) this.bubbleKey = "";
  },

  refused({ id, key, body: reading, answer }) {
    if (reading.phase === this.view)
      outbox.here.add(id); // its cell says it
    else outbox.here.delete(id);
    const clash = answer.status === 409; // another screen was first: theirs or ours
    this.wrong[key] = {
      id,
      typed: reading.typed,
      message: answer.error,
      suggestion: clash ? reading.typed : (answer.suggestion ?? ""),
      clash,
    };
  },

  refusedNow({ key, answer }) {
    this.bubbleKey = key;
    this.behind ||= answer.status === 409;
    if (answer.status === 410) this.trouble = answer.error;
  },

  /** Nothing is on its way any more. */
  settled() {
    if (this.behind) this.sync();
    this.behind = false;
    this.redrawSoon();
  },

  /** From the tray: the address names a reading that is to be put right. */
  fromAddress() {
    if (location.hash.startsWith("#at-")) {
      this.lookAt(...location.hash.slice("#at-".length).split("-"));
      return;
    }
    const id = location.hash.replace("#kept-", "");
    const item = outbox.refused(this.scope).find((each) => each.id === id);
    if (!item || !this.spots.has(item.key)) return;
    this.view = item.body.phase;
    this.pick(item.key);
  },

  /** A cell that the findings led to. */
  lookAt(entry, phase, mark) {
    const key = cellKey(entry, phase, mark);
    if (!this.spots.has(key)) return;
    this.view = phase;
    this.pick(key);
  },

  /** What the server knows, unless something of ours is still on its way. */
  async sync() {
    if (this.waiting.length || this.probing) return;
    const before = this.puts;
    const { status, body, now } = await read(this.urls.state);
    if (now) this.now.set(now);
    this.see(status, body);
    if (status === 410) this.trouble = body.error;
    else if (status === 200 && this.puts === before) this.synced(body); // else it is older
  },

  /** A board has no outbox: it only shows. */
  see(status, body = {}) {
    if (this.board) return;
    if (!status) outbox.see("away");
    else outbox.see(status >= 500 ? "trouble" : "", body.error);
  },

  synced(state) {
    const stored = JSON.stringify(this.stored);
    const wasActive = this.active.key;
    this.take(state);
    if (this.active.key !== wasActive) {
      this.view = this.active.key;
      this.due = -1;
    }
    if (JSON.stringify(this.stored) === stored) return;
    this.redrawSoon();
    if (this.typed === "" && !this.detailOpen() && this.cursor !== null) this.goOn();
  },

  /** Soon, but not again and again while a whole class types. */
  redrawSoon() {
    const since = performance.now() - this.drawnAt;
    clearTimeout(this.chartTimer);
    this.chartTimer = setTimeout(() => this.redraw(), Math.max(SOON, DRAWN_EVERY - since));
  },

  async redraw() {
    this.drawnAt = performance.now();
    try {
      const { text, again } = await inline(this.urls.curves);
      if (text !== null) this.picture.innerHTML = text;
      if (again) this.redrawSoon();
    } catch {
      this.see(0);
    }
  },

  // ---- a rehearsal's probes

  async probeRound() {
    if (this.probing || this.server.closed || !this.active.started) return;
    const left = this.comeSoFar().flatMap((mark) => this.missing(mark));
    if (left.length) await this.probeAll(left);
    else if (this.due >= this.active.slots.length - 1 && this.nextPhase) this.start();
  },

  /** The marks of this phase that have come: a slow computer reads what it missed afterwards. */
  comeSoFar() {
    const count = Math.min(this.due + 1, this.active.slots.length);
    return [...Array(Math.max(count, 0)).keys()];
  },

  async probeAll(keys) {
    this.probing = true;
    for (const key of keys) if (!this.probes || !(await this.probe(key))) break;
    this.probing = false;
    this.redrawSoon();
  },

  /** Ask a row's probe; false when it could not be read. */
  async probe(key) {
    const { row, phase, slot } = this.spots.get(key);
    const asked = { entry: row.id, phase: phase.key, mark: slot.mark, client_id: newId() };
    const answer = await send("POST", this.urls.probe, asked).catch(() => null);
    if (!answer) this.see(0);
    if (answer?.status !== 200) return false;
    this.stored[key] = answer.body.cell;
    return true;
  },
};
