// The server's clock, on a device whose own may be wrong.

export class ServerClock {
  constructor(now) {
    this.set(now);
  }

  /** What time the server says it is. */
  set(now) {
    this.offset = Date.parse(now) - Date.now();
  }

  /** The moment it is now, for the server. */
  moment() {
    return new Date(Date.now() + this.offset).toISOString();
  }

  /** Seconds since a moment of the server. */
  since(moment) {
    return (Date.now() + this.offset - Date.parse(moment)) / 1000;
  }
}
