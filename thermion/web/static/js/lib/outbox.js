// Things on their way to the server, of all pages of this device. Each stays here, over reloads and
// lost connections, until the server has it or a person decided what becomes of what was refused.

import { deliver, house, madeOfRun, renewToken } from "./http.js";
import { newId } from "./page.js";
import { DeviceStore } from "./device_store.js";

const AGAIN = 2000; // ms until the next try after one that failed
const MY_TURN = 200; // ms until the next look whether another tab has done sending
const RENEW = 500; // ms after which the sending tab says that it still does it
const STALE = 400; // the page is older than the server's key
const DOOR = 401; // this device has to join again

/** Whether the server has said what becomes of it: stored, or refused for a reason. */
const answered = (status) => status < 500 && ![STALE, DOOR, 408, 429].includes(status);

class Outbox {
  constructor() {
    this.tab = tabId();
    this.house = house();
    this.shelf = new DeviceStore();
    this.items = []; // as they stand on the shelf, with those that are being put there
    this.state = ""; // "away" without a connection, "trouble" when the server cannot take it, "door"
    this.said = ""; // what the server said of its trouble
    this.missed = new Set(); // ids of items that were not on the shelf at the last look
    this.here = new Set(); // ids of what this page shows as refused where it was typed
    this.hooks = [];
    this.busy = false;
    this.timer = 0;
    this.channel = new BroadcastChannel("thermion-outbox");
    this.channel.addEventListener("message", (event) => this.heard(event.data));
    window.addEventListener("online", () => this.flush());
    window.addEventListener("pagehide", () => this.shelf.release(this.tab));
    this.ready = this.load();
  }

  async load() {
    await this.shelf.adopt();
    const items = await this.shelf.all();
    const known = new Set(items.map((item) => item.id));
    this.items = [...items, ...this.items.filter((item) => !known.has(item.id))];
    this.tell({ kind: "loaded" }, false);
    this.flush();
  }

  /** `hook(event)` is told what happens in any tab: {kind, item, answer}. */
  listen(hook) {
    this.hooks.push(hook);
  }

  tell(event, others = true) {
    for (const hook of this.hooks) hook(event);
    if (others) this.channel.postMessage(event);
  }

  /** What another tab did. */
  heard(event) {
    const { kind, item } = event;
    if (kind === "state") Object.assign(this, { state: event.state, said: event.said });
    else if (kind === "took" || kind === "dropped") this.forget(item.id);
    else if (item) this.items = [...this.items.filter((each) => each.id !== item.id), item];
    for (const hook of this.hooks) hook(event);
  }

  forget(id) {
    this.items = this.items.filter((each) => each.id !== id);
  }

  // ---- what is asked of it

  get mine() {
    return this.items.filter((item) => item.house === this.house);
  }

  /** What is still on its way, of one scope or of all. */
  waiting(scope) {
    return this.mine.filter((item) => !item.answer && (!scope || item.scope === scope));
  }

  /** What the server refused and nobody decided yet. */
  refused(scope) {
    return this.mine.filter((item) => item.answer && (!scope || item.scope === scope));
  }

  /** What this device keeps of other data. */
  get foreign() {
    return this.items.filter((item) => item.house !== this.house);
  }

  // ---- what is done with it

  /**
   * Keep and send `body` to `url`. With it: its `id`; the `scope` (page) and `key` (place there)
   * that show it; `what` it is, `where` and `typed`, in words; `form` if it is sent as one.
   * `instead` names a refused one that it replaces.
   */
  put({ instead = "", ...given }) {
    const item = {
      key: "",
      form: false,
      made: madeOfRun(),
      house: this.house,
      page: location.pathname + location.search,
      at: new Date().toISOString(),
      order: Math.max(Date.now(), ...this.items.map((each) => each.order)) + 1,
      ...given,
    };
    this.items = [...this.items, item];
    this.tell({ kind: "put", item });
    if (instead) this.drop(instead);
    this.shelf.keep(item).then(() => this.flush());
    return item;
  }

  /** A refused one once more, with this changed in it. */
  again(id, change = {}) {
    const item = this.items.find((each) => each.id === id);
    if (!item) return;
    delete item.answer;
    item.body = item.form ? changedPairs(item.body, change) : { ...item.body, ...change };
    this.tell({ kind: "put", item });
    this.shelf.keep(item).then(() => this.flush());
  }

  /** A person decided that it is not needed. */
  drop(id) {
    const item = this.items.find((each) => each.id === id);
    if (!item) return;
    this.forget(id);
    this.shelf.drop(id);
    this.tell({ kind: "dropped", item });
  }

  /** A page that asks the server for something else tells what it saw. */
  see(state, said = "") {
    if (this.state === state && this.said === said) return;
    this.state = state;
    this.said = said;
    this.tell({ kind: "state", state, said });
    this.flush();
  }

  // ---- on the way

  async flush() {
    clearTimeout(this.timer);
    if (this.busy) return;
    this.busy = true;
    let more = true;
    // whatever the browser's storage does, what waits is tried again
    while (more) more = await this.sendNext().catch(() => false);
    this.busy = false;
    if (this.state && !this.waiting().length) await this.look();
    clearTimeout(this.timer);
    if (this.state || this.waiting().length)
      this.timer = setTimeout(() => this.flush(), this.state ? AGAIN : MY_TURN);
  }

  /** Nothing waits: is the server there again? */
  async look() {
    if (await renewToken().catch(() => false)) this.see("");
  }

  /** True when the next one may go out at once. */
  async sendNext() {
    if (!this.waiting().length) return false;
    if (!(await this.shelf.lease(this.tab))) return false;
    const kept = (await this.shelf.all()).filter(
      (item) => item.house === this.house && !item.answer,
    );
    if (!kept.length) {
      // another tab has sent them and this one did not hear of it, or is just about to keep them
      const stays = new Set((await this.shelf.all()).map((item) => item.id));
      this.items = this.items.filter((item) => stays.has(item.id) || !this.missed.has(item.id));
      this.missed = new Set(this.items.filter(({ id }) => !stays.has(id)).map(({ id }) => id));
      this.tell({ kind: "loaded" }, false);
      await this.shelf.release(this.tab);
      return false;
    }
    const going = await this.deliver(kept[0]);
    if (!going || kept.length === 1) await this.shelf.release(this.tab);
    return going;
  }

  async deliver(item) {
    const mine = setInterval(() => this.shelf.lease(this.tab), RENEW);
    let answer = await deliver(item).catch(() => null);
    if (answer?.status === STALE && (await renewToken().catch(() => false)))
      answer = await deliver(item).catch(() => null);
    clearInterval(mine);
    if (!answer) this.see("away");
    else if (!answered(answer.status))
      this.see(answer.status === DOOR ? "door" : "trouble", answer.body.error ?? "");
    else {
      await this.settle(item, answer);
      return true;
    }
    return false;
  }

  /** The server has said what becomes of it. */
  async settle(item, answer) {
    this.see("");
    const stored = answer.status < 300;
    if (stored) {
      await this.shelf.drop(item.id);
      this.forget(item.id); // not before: until a page hears that it was taken, it is on its way
    } else {
      const refused = { ...item, answer: { status: answer.status, ...answer.body } };
      this.items = this.items.map((each) => (each.id === item.id ? refused : each));
      await this.shelf.keep(refused);
      item = refused;
    }
    this.tell({ kind: stored ? "took" : "refused", item, answer });
  }
}

/** The tab, over reloads: what it was sending it may go on sending at once. */
function tabId() {
  try {
    return (sessionStorage.thermionTab ||= newId());
  } catch {
    return newId();
  }
}

/** A form's pairs with some of its fields changed. */
function changedPairs(pairs, change) {
  const others = pairs.filter(([name]) => !(name in change));
  return [...others, ...Object.entries(change).map(([name, value]) => [name, String(value)])];
}

/** The one of this tab. */
export const outbox = new Outbox();
