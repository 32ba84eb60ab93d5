// The list of teams: add, move up, redraw the badge.
import { component } from "./lib/page.js";

const fields = (row) => ({
  name: row.querySelector('[name="team_name"]'),
  letter: row.querySelector('[name="team_letter"]'),
});

const namesIn = (text) =>
  text
    .split(/[\n\r\t;]+/)
    .map((name) => name.trim())
    .filter(Boolean);

/** A row of its own: what it is called says which. */
function numbered(row, number) {
  for (const field of row.querySelectorAll("[aria-label]"))
    field.ariaLabel = field.ariaLabel.replace(/team \d+/, `team ${number}`);
  const { name } = fields(row);
  name.placeholder = name.placeholder.replace(/\d+/, number);
}

component("teams", () => ({
  init() {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const select = this.$root.querySelector("select[name=zone]");
    const known = [...select.options].some((option) => option.value === zone);
    if (this.$root.dataset.fresh && known) select.value = zone;
  },

  rows() {
    return [...this.$refs.list.querySelectorAll("[data-team]")];
  },

  add() {
    const all = this.rows();
    const made = all[0].cloneNode(true);
    for (const input of made.querySelectorAll("input")) input.value = "";
    numbered(made, all.length + 1);
    const [shape, colour] = made.querySelectorAll("select");
    const turn = Math.floor(all.length / shape.options.length);
    shape.selectedIndex = all.length % shape.options.length;
    colour.selectedIndex = (all.length + 3 * turn) % colour.options.length;
    this.$refs.list.append(made);
    this.draw(made);
    fields(made).name.focus();
  },

  /** A list that was copied fills a row for each name, from the one in which it is pasted. */
  pasted() {
    const names = namesIn(this.$event.clipboardData?.getData("text") ?? "");
    if (names.length < 2 || this.$event.target.name !== "team_name") return;
    this.$event.preventDefault();
    const from = this.rows().indexOf(this.$event.target.closest("[data-team]"));
    for (const [number, name] of names.entries()) {
      if (from + number >= this.rows().length) this.add();
      const row = this.rows()[from + number];
      fields(row).name.value = name;
      fields(row).letter.value = "";
      this.draw(row);
    }
  },

  up() {
    const row = this.$event.target.closest("[data-team]");
    row.previousElementSibling?.before(row);
    this.$event.target.focus();
  },

  redraw() {
    this.draw(this.$event.target.closest("[data-team]"));
  },

  draw(row) {
    const badge = row.querySelector(".badge");
    const [shape, colour] = [...row.querySelectorAll("select")].map((s) => s.value);
    const picture = this.$root.querySelector(`template[data-shape="${shape}"]`);
    badge.className = `badge team-${colour}`;
    badge.querySelector("svg").replaceWith(picture.content.querySelector("svg").cloneNode(true));
    badge.querySelector("b").textContent = fields(row).letter.value;
  },
}));
