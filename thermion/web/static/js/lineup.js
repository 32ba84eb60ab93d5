// A logger's file slid along the test: what it would do is asked of the server.
import { trySend } from "./lib/http.js";
import { say } from "./lib/page.js";

const room = document.getElementById("lineup");
const AWAY = "Thermion cannot be reached; nothing was stored.";

if (room) {
  const slide = room.querySelector("#slide");
  const begin = room.querySelector("#begin");
  const moved = room.querySelector("[data-slides]");
  const per = Number(room.dataset.per);
  const picture = room.querySelector(".lineup");
  let asked = 0;
  let timer = 0;
  let drag = null;

  const chosen = (name) => room.querySelector(`[name=${name}]:checked`)?.value ?? "";

  /** The file's curves stand where its first reading falls. */
  function draw() {
    moved.setAttribute("transform", `translate(${(Number(slide.value) * per).toFixed(1)} 0)`);
    for (const track of moved.querySelectorAll("[data-track]")) {
      const row = room.querySelector(`[name=row-${track.dataset.track}]`);
      track.setAttribute("class", `c-path team-${row.selectedOptions[0].dataset.colour}`);
      track.classList.toggle("is-out", row.value === "0");
    }
  }

  async function ask(named) {
    const mine = (asked += 1);
    const rows = {};
    for (const box of room.querySelectorAll("select[name^=row-]"))
      rows[box.name.slice(4)] = Number(box.value);
    const sent = {
      phase: chosen("phase"),
      begin_s: Number(slide.value),
      rows,
      overlap: chosen("overlap") || "both",
    };
    const { body } = await trySend("POST", room.dataset.where, sent, AWAY);
    if (mine !== asked) return; // older than where it stands now
    if (body.begin && named !== begin) begin.value = body.begin;
    room.querySelector("[data-said]").replaceChildren(
      ...(body.said ?? []).map((text) => {
        const line = document.createElement("li");
        line.textContent = text;
        return line;
      }),
    );
    room.querySelector("[data-before]").hidden = !body.before;
    room.querySelector("[data-over]").hidden = !body.over && chosen("overlap") !== "gaps";
    say(room.querySelector("[data-wrong]"), body.error ?? "");
    if (body.store) room.querySelector("[data-store]").textContent = body.store;
  }

  function soon(named) {
    draw();
    clearTimeout(timer);
    timer = setTimeout(() => ask(named), 150);
  }

  /** Minutes and seconds as they are typed, while they are typed. */
  function typed() {
    const found = /^([-−]?)\s*(\d+):([0-5]?\d)$/.exec(begin.value.trim());
    if (!found) return;
    const seconds = Number(found[2]) * 60 + Number(found[3]);
    slide.value = String(found[1] ? -seconds : seconds);
    soon(begin);
  }

  slide.addEventListener("input", () => soon(slide));
  room.querySelector("[data-to-start]").addEventListener("click", () => {
    slide.value = "0";
    soon(slide);
    slide.focus();
  });
  begin.addEventListener("input", typed);
  room.addEventListener("change", (event) => {
    if (event.target.name === "phase") {
      window.location.search = `?phase=${event.target.value}`;
      return;
    }
    if (event.target !== begin) soon(event.target);
  });
  picture.addEventListener("pointerdown", (event) => {
    drag = { x: event.clientX, at: Number(slide.value) };
    picture.setPointerCapture(event.pointerId);
  });
  picture.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const wide = picture.getBoundingClientRect().width / 1000;
    slide.value = String(Math.round(drag.at + (event.clientX - drag.x) / wide / per));
    soon(slide);
  });
  for (const end of ["pointerup", "pointercancel"])
    picture.addEventListener(end, () => (drag = null));
  draw();
  ask(null);
}
