// The lesson's own page: start any step, say it in other words, put something on the board.

import { send } from "./lib/http.js";
import { line } from "./lib/line.js";
import { wrongLine } from "./lib/page.js";
import { Clocks } from "./lib/steps.js";

const page = () => document.querySelector("[data-lesson]");
const clocks = new Clocks(page(), { sound: false });

/** Words being typed, or typed and not yet sent, are not taken away. */
const typing = () =>
  [...page().querySelectorAll("input[name=says]")].some(
    (field) => field === document.activeElement || field.value !== field.defaultValue,
  );

async function renew() {
  if (typing()) return;
  const response = await fetch(location.href).catch(() => null);
  const text = response?.ok ? await response.text().catch(() => "") : "";
  if (!text || typing()) return; // asked last: a word may be begun while the page comes in
  const found = new DOMParser().parseFromString(text, "text/html");
  const at = document.activeElement?.getAttribute?.("aria-label");
  page().innerHTML = found.querySelector("[data-lesson]").innerHTML;
  if (at)
    page()
      .querySelector(`[aria-label="${window.CSS.escape(at)}"]`)
      ?.focus();
  settle();
}

/** The clock of this page is the line's. */
function settle() {
  if (line?.clocks.server) clocks.server = line.clocks.server;
  clocks.tick();
}

async function show(key) {
  const { show: shows, step } = key.dataset;
  const challenge = page().querySelector("[data-board-challenge]")?.value;
  const data = { shows, challenge: Number(challenge ?? 0), step: Number(step ?? 0) };
  const url = line.url.replace(/line$/, "board/show");
  const sent = send("POST", url, data);
  const { status, body } = await sent.catch(() => ({ status: 0, body: {} }));
  if (status === 200) renew();
  else key.after(wrongLine(body.error || "Thermion cannot be reached; the board is as it was."));
}

/** A step that this lesson was not planned for. */
function other() {
  const [challenge, phase, act] = page().querySelector("[data-other-step]").value.split(" ");
  return { challenge, phase, act };
}

document.addEventListener("lesson", () => {
  settle();
  renew();
});
document.addEventListener("click", (event) => {
  const shown = event.target.closest("[data-show]");
  if (shown) show(shown);
  const key = event.target.closest("[data-lesson] [data-do]");
  if (!key) return;
  const {
    challenge = "",
    phase = "",
    act = "",
  } = key.hasAttribute("data-other") ? other() : key.dataset;
  line.act({ what: key.dataset.do, challenge, phase, act });
});
document.addEventListener("submit", (event) => {
  const form = event.target.closest("[data-says]");
  if (!form) return;
  event.preventDefault();
  const field = form.elements.says;
  const row = Number(form.dataset.says);
  const before = field.defaultValue;
  field.defaultValue = field.value; // on its way
  field.blur();
  line.act({ what: "says", row, says: field.value }).then((done) => {
    if (done) return;
    field.defaultValue = before;
    field.focus();
  });
});
