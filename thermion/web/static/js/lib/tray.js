// The tray on every page of the desk: what waits on this device, what the server refused, and what
// can be done about it.

import { fill } from "./format.js";
import { say } from "./page.js";

const WHEN = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

const LONG = 60; // letters of what was typed that a line shows

/** Which entry it is, where it belongs and why it was refused. */
const said = ({ where, typed, answer }) => ({
  where,
  typed: typed.length > LONG ? `${typed.slice(0, LONG)}…` : typed,
  why: answer.error || answer.ask,
});

export class Tray {
  constructor(box, outbox) {
    this.outbox = outbox;
    this.find = (name) => box.querySelector(`[data-tray-${name}]`);
    this.box = box;
    this.words = JSON.parse(this.find("words").textContent);
    this.list = this.find("list");
    this.find("open").addEventListener("click", () => this.open());
    this.find("close").addEventListener("click", () => this.list.close());
    this.find("all").addEventListener("click", () => this.allAgain());
    this.find("file").addEventListener("click", () => this.save());
    this.find("drop").addEventListener("click", () => this.dropForeign());
    outbox.listen(() => this.show());
    this.show();
  }

  /** What there is to say, the most urgent first. */
  get lines() {
    const { outbox, words } = this;
    const n = outbox.waiting().length;
    const sentence = outbox.state && words[n ? outbox.state : `${outbox.state}_only`];
    const refused = outbox.refused().filter((item) => !outbox.here.has(item.id));
    const foreign = outbox.foreign.length;
    return [
      sentence ? fill(sentence, { n, said: outbox.said }) : "",
      refused.length ? fill(words.refused, { n: refused.length, ...said(refused[0]) }) : "",
      foreign ? fill(words.foreign, { n: foreign }) : "",
      outbox.shelf.blocked ? words.blocked : "",
    ].filter(Boolean);
  }

  show() {
    const { outbox, lines } = this;
    const some = outbox.refused().length + outbox.foreign.length > 0;
    this.box.hidden = !lines.length;
    this.find("line").textContent = lines.join(" ");
    this.find("open").hidden = !some && !(outbox.state && outbox.waiting().length);
    this.find("door").hidden = outbox.state !== "door";
    if (this.list.open) this.fillList();
  }

  open() {
    this.fillList();
    this.list.showModal();
  }

  fillList() {
    const { outbox } = this;
    const refused = outbox.refused();
    this.find("all").hidden = refused.length < 2;
    this.find("foreign").hidden = !outbox.foreign.length;
    this.find("rows").replaceChildren(
      ...refused.map((item) => this.row(item)),
      ...outbox.waiting().map((item) => this.row(item)),
    );
    if (!refused.length && !outbox.waiting().length && !outbox.foreign.length) this.list.close();
  }

  row(item) {
    const line = this.find("row").content.firstElementChild.cloneNode(true);
    const part = (name) => line.querySelector(`[data-${name}]`);
    part("what").textContent = `${item.what}: ${item.typed}`;
    part("where").textContent = item.where;
    part("at").textContent = WHEN.format(new Date(item.at));
    say(part("why"), item.answer ? item.answer.error || item.answer.ask : this.words.waits);
    part("ways").hidden = !item.answer;
    if (item.answer) this.waysOf(item, part);
    return line;
  }

  waysOf(item, part) {
    const again = part("again");
    const ways = item.answer.ways ?? [];
    for (const { label, change } of ways) {
      const way = again.cloneNode(true);
      way.textContent = label;
      way.addEventListener("click", () => this.outbox.again(item.id, change));
      again.before(way);
    }
    if (ways.length) again.remove();
    again.addEventListener("click", () => this.outbox.again(item.id));
    part("there").href = `${item.page}#kept-${item.id}`;
    part("there").addEventListener("click", () => this.list.close());
    part("drop").addEventListener("click", () => this.outbox.drop(item.id));
  }

  allAgain() {
    for (const item of this.outbox.refused()) this.outbox.again(item.id);
  }

  /** Of other data: nothing can be sent here, but it need not be lost. */
  save() {
    const content = JSON.stringify(this.outbox.foreign, null, 2);
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([content], { type: "application/json" }));
    link.download = "thermion-kept.json";
    link.click();
    URL.revokeObjectURL(link.href);
  }

  dropForeign() {
    for (const item of this.outbox.foreign) this.outbox.drop(item.id);
  }
}
