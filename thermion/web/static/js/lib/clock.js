// The server's clock, on a device whose own may be wrong, or be set while the page is open.

import { serverNow } from "./http.js";

const JUMP = 1500; // ms that the device's clock and its counter may differ between two looks

export class ServerClock {
  constructor(now) {
    this.set(now);
  }

  /** What time the server says it is. */
  set(now) {
    this.offset = Date.parse(now) - Date.now();
    this.looked();
  }

  looked() {
    this.date = Date.now();
    this.counter = performance.now();
  }

  /** What the device's clock says, whatever it was set to since the server was asked. */
  get here() {
    const jump = Date.now() - this.date - (performance.now() - this.counter);
    // set back, or set forward and found wrong by the server; without an answer the device has slept
    if (jump < -JUMP) this.offset -= jump;
    else if (jump > JUMP) serverNow().then((now) => now && this.set(now));
    if (jump < -JUMP || Date.now() - this.date > JUMP) this.looked();
    return Date.now() + this.offset;
  }

  /** The moment it is now, for the server. */
  moment() {
    return new Date(this.here).toISOString();
  }

  /** Seconds since a moment of the server. */
  since(moment) {
    return (this.here - Date.parse(moment)) / 1000;
  }
}
