// A clocked test: the grid, its clock, the cursor, and readings on their way. What is due,
// plausible or missed is decided by the server's marks and answers; this shows it.

import { ServerClock } from "./lib/clock.js";
import "./lib/follow.js";
import { outbox } from "./lib/outbox.js";
import { component, mix, pageData } from "./lib/page.js";
import { cells, cellsOf, spotsOf } from "./grid/cells.js";
import { clock } from "./grid/clock.js";
import { cursor } from "./grid/cursor.js";
import { detail } from "./grid/detail.js";
import { pasting } from "./grid/pasting.js";
import { sending } from "./grid/sending.js";

const run = {
  urls: {},
  words: {},
  board: false,
  server: { rows: [], phases: [], words: [] },
  stored: {}, // cells by key
  spots: new Map(),
  now: null,
  elapsed: 0,
  due: -1,
  view: "",
  cursor: null,
  typed: "",
  digits: "0", // after so many a number on paper is whole; 0: with Enter
  overwrite: false,
  under: null, // what stood in the cursor's cell when it came there
  mine: new Set(), // ids of what was typed in this tab
  moved: { from: null, at: 0 }, // when the cursor went on by itself, and from where
  scope: "",
  where: "", // this run, in words
  waiting: [], // readings on their way
  puts: 0,
  wrong: {},
  bubbleKey: "",
  sound: true,
  trouble: "",
  starting: false,
  ahead: [], // keys pressed while the clock starts
  behind: false, // another screen wrote something that is not shown here yet
  probes: true,
  probing: false,
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
    const given = pageData();
    this.urls = given.urls;
    this.words = given.words;
    this.board = given.board;
    this.where = given.where;
    this.now = new ServerClock(given.state.now);
    this.take(given.state);
    this.view = this.active.key;
    this.scope = given.urls.save ?? "";
    if (!this.board) {
      outbox.listen((event) => this.heard(event));
      this.heard({ kind: "loaded" });
      outbox.ready.then(() => this.fromAddress());
      window.addEventListener("hashchange", () => this.fromAddress());
    }
    this.tick();
    this.home();
    setInterval(() => this.tick(), this.server.speed > 1 ? 80 : 200);
    setInterval(() => this.sync(), this.board ? 2000 : 5000);
    document.addEventListener("visibilitychange", () => document.hidden || this.sync());
  },

  take(state) {
    this.now.set(state.now);
    this.server = state;
    this.stored = cellsOf(state);
    this.spots = spotsOf(state);
  },

  get fromPaper() {
    return this.server.paper;
  },

  get rehearsal() {
    return this.server.rehearsal;
  },
};

component("run", () => mix(cells, clock, cursor, detail, pasting, sending, run));
