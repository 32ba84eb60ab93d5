// Where things wait on this device: one shelf for all its tabs, kept over reloads and restarts.

import { openDB } from "../../vendor/idb.js";

const LONGEST_WAIT = 1500; // ms for a browser to say whether it keeps anything
const LEASE = 1500; // ms for which one tab does the sending, unless it takes it anew

const EARLY = "thermion-early:"; // before the name of what was put while the shelf may not be open yet

/** Kept at once, before anything is waited for: a page can be closed in its first moment. */
const early = {
  put(item) {
    try {
      window.localStorage[EARLY + item.id] = JSON.stringify(item);
    } catch {
      // a browser that keeps nothing: the shelf says so
    }
  },

  drop(id) {
    try {
      delete window.localStorage[EARLY + id];
    } catch {
      // nothing was kept
    }
  },

  /** What pages left behind that were closed before it was on the shelf. */
  all() {
    try {
      const names = Object.keys(window.localStorage).filter((name) => name.startsWith(EARLY));
      return names.map((name) => JSON.parse(window.localStorage[name]));
    } catch {
      return [];
    }
  },
};

/** A promise that fails when it is not kept in time. */
function soon(promise, ms) {
  const late = new Promise((_, fail) => setTimeout(() => fail(new Error("no answer")), ms));
  return Promise.race([promise, late]);
}

export class DeviceStore {
  constructor() {
    this.blocked = false; // this browser keeps nothing: a private window, or its storage is full
    this.loose = []; // what it has not taken; lost when the page is closed
    this.base = soon(this.open(), LONGEST_WAIT).catch(() => this.refuse());
  }

  async open() {
    return openDB("thermion-outbox", 1, {
      upgrade(base) {
        base.createObjectStore("items", { keyPath: "id" }).createIndex("order", "order");
        base.createObjectStore("lease");
      },
    });
  }

  refuse() {
    this.blocked = true;
    return null;
  }

  /** Put an item there, or anew in its place. One put and no look before it, so that it is on its
   * way before the page can be closed. */
  async keep(item) {
    this.loose = [...this.loose.filter((each) => each.id !== item.id), item];
    early.put(item);
    const base = await this.base;
    try {
      const change = base.transaction("items", "readwrite");
      change.store.put(item);
      change.commit();
      await change.done;
      this.loose = this.loose.filter((each) => each !== item);
      early.drop(item.id);
    } catch {
      this.refuse();
    }
  }

  async drop(id) {
    this.loose = this.loose.filter((each) => each.id !== id);
    early.drop(id);
    const base = await this.base;
    await base?.delete("items", id).catch(() => this.refuse());
  }

  /** Take over what pages left that were closed in their first moment. */
  async adopt() {
    const mine = new Set(this.loose.map((item) => item.id));
    for (const item of early.all()) if (!mine.has(item.id)) await this.keep(item);
  }

  /** All that waits, in the order in which it came. */
  async all() {
    const base = await this.base;
    const kept = base ? await base.getAllFromIndex("items", "order").catch(() => []) : [];
    const loose = new Set(this.loose.map((item) => item.id));
    const all = [...kept.filter((item) => !loose.has(item.id)), ...this.loose];
    return all.sort((a, b) => a.order - b.order);
  }

  /** Whether this tab may send now: one at a time does, so that things arrive in their order. */
  async lease(tab) {
    const base = await this.base;
    if (!base) return true;
    try {
      const change = base.transaction("lease", "readwrite");
      const held = await change.store.get("sender");
      const now = Date.now();
      // one that ends far ahead was taken before the device's clock was set back
      const free = !held || held.tab === tab || held.until < now || held.until > now + 2 * LEASE;
      if (free) change.store.put({ tab, until: now + LEASE }, "sender");
      await change.done;
      return free;
    } catch {
      return true; // sent twice is stored once
    }
  }

  async release(tab) {
    const base = await this.base;
    if (!base) return;
    const change = base.transaction("lease", "readwrite");
    const held = await change.store.get("sender");
    if (held?.tab === tab) change.store.delete("sender");
    await change.done.catch(() => {});
  }
}
