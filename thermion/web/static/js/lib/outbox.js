// Things on their way to the server. They stay on this device, over reloads and lost connections,
// until the server has them; they go out one after the other, in the order in which they came.

import { send } from "./http.js";

export class Outbox {
  /**
   * `store` names it on this device. `urls` has an address for each `what`. The page's hooks:
   * took(item, answer), away(left), stale(error, left), back(), empty(); restored(item) for one
   * that an earlier page left here.
   */
  constructor(store, urls, hooks) {
    this.store = store;
    this.urls = urls;
    this.hooks = hooks;
    this.sending = false;
    const left = JSON.parse(localStorage.getItem(store) || "[]");
    this.items = hooks.restored ? left.map(hooks.restored) : left;
  }

  put(what, body, key = "") {
    this.items.push({ what, body, key });
    this.keep();
    this.flush();
  }

  keep() {
    localStorage.setItem(this.store, JSON.stringify(this.items));
  }

  async flush() {
    if (this.sending || !this.items.length) return;
    this.sending = true;
    while (this.items.length && (await this.sendFirst()));
    this.sending = false;
    if (this.items.length) setTimeout(() => this.flush(), 2000);
    else this.hooks.empty();
  }

  /** True when the server has answered for it, whatever the answer was. */
  async sendFirst() {
    const item = this.items[0];
    const answer = await send("POST", this.urls[item.what], item.body).catch(() => null);
    if (!answer || answer.status >= 500) {
      this.hooks.away(this.items.length);
      return false;
    }
    if (answer.status === 400) {
      // the page is older than the server's key: a reload lets everything out
      this.hooks.stale(answer.body.error, this.items.length);
      return false;
    }
    this.hooks.back();
    this.items.shift();
    this.keep();
    this.hooks.took(item, answer);
    this.keep();
    return true;
  }
}
