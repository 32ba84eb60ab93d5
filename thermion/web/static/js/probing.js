// Probes now: what each reads, what is wrong, and in which build it stands. The server decides all.
import { send } from "./lib/http.js";
import { say } from "./lib/page.js";

const room = document.querySelector("[data-probing]");
const EVERY = 2000; // ms
const AWAY = "Thermion cannot be reached.";

/** What the server says of all channels, into the page. */
function show(found) {
  const lines = document.querySelector("[data-probe-lines]");
  if (lines) say(lines, found.lines.join(" "));
  const standing = {};
  for (const channel of found.channels) {
    const row = room.querySelector(`[data-channel="${channel.id}"]`);
    if (!row) continue;
    row.querySelector("[data-value]").textContent = channel.value;
    row.querySelector("[data-age]").textContent = channel.age;
    row.querySelector("[data-itself]").textContent = channel.itself;
    row.querySelector("[data-trouble]").textContent = channel.trouble;
    const box = row.querySelector("select");
    if (document.activeElement !== box) box.value = channel.spot;
    if (channel.spot) standing[channel.spot] = row.querySelector("[data-drag]").textContent;
  }
  for (const place of room.querySelectorAll("[data-drop]"))
    place.querySelector("[data-stands]").textContent = standing[place.dataset.drop] ?? "–";
}

async function look() {
  try {
    const answer = await fetch(room.dataset.probing);
    if (answer.ok) show(await answer.json());
  } catch {
    // the next look will tell
  }
  setTimeout(look, EVERY);
}

async function put(channel, spot) {
  const wrong = room.querySelector("[data-wrong]");
  try {
    const { status, body } = await send("POST", room.dataset.put, { channel, spot });
    say(wrong, status === 200 ? "" : body.error);
    if (status === 200) show(body);
  } catch {
    say(wrong, AWAY);
  }
}

if (room) {
  room.addEventListener("change", (event) => {
    const channel = event.target.closest("[data-channel]")?.dataset.channel;
    if (channel) put(Number(channel), event.target.value);
  });
  room.addEventListener("dragstart", (event) => {
    event.dataTransfer.setData("text/plain", event.target.dataset.drag ?? "");
  });
  room.addEventListener("dragover", (event) => {
    if (event.target.closest("[data-drop]")) event.preventDefault();
  });
  room.addEventListener("drop", (event) => {
    const place = event.target.closest("[data-drop]");
    if (!place) return;
    event.preventDefault();
    const channel = Number(event.dataTransfer.getData("text/plain"));
    if (channel) put(channel, place.dataset.drop);
  });
  for (const box of room.querySelectorAll("select")) {
    const chosen = box.selectedOptions[0]; // by somebody who was quicker than this script
    if (!chosen.defaultSelected && (box.value || box.querySelector("[selected]")))
      put(Number(box.closest("[data-channel]").dataset.channel), box.value);
  }
  look();
}
