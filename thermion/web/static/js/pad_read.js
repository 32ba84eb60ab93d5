// A team reads its own build: the mark that is due, large keys, the same outbox as at the Desk. Two pads
// of one team see each other's values.

import { ServerClock } from "./lib/clock.js";
import { read } from "./lib/http.js";
import { outbox } from "./lib/outbox.js";
import { component, mix, pageData } from "./lib/page.js";
import { clock } from "./pad/clock.js";
import { typing } from "./pad/typing.js";
import { values } from "./pad/values.js";

const EVERY = 1000; // ms

const looking = {
  init() {
    this.now = new ServerClock(this.run.now);
    this.scope = this.urls.save;
    this.row = this.run.rows[0]?.id ?? 0;
    outbox.listen((event) => this.heard(event));
    setInterval(() => this.tick(), 250);
    this.tick();
    this.look();
  },

  async look() {
    const { status, body, now } = await read(this.urls.state);
    if (now) this.now.set(now);
    if (status === 200) this.run = body;
    if (status === 401 || status === 403) location.reload(); // this device is out
    setTimeout(() => this.look(), EVERY);
  },
};

component("padRead", () =>
  mix(
    {
      ...pageData(),
      typed: "",
      row: 0,
      due: -1,
      elapsed: 0,
      waiting: [], // on its way to the server
      wrong: "",
      refused: null, // what the server refused, while it is looked at
    },
    looking,
    clock,
    values,
    typing,
  ),
);
