// A race with one probe: one key starts, one stops. What was pressed is kept on this device until
// the server has it, with the moment at which it was pressed.
"use strict";

(() => {
  const box = document.querySelector("[data-race]");
  if (!box) return;
  const given = window.thermion.data("race-data");
  const offset = Date.parse(given.now) - Date.now();
  const store = `thermion-race-${given.run}`;
  const find = (name) => box.querySelector(`[data-${name}]`);
  const ready = find("ready");
  const going = find("going");
  const trouble = document.querySelector("[data-trouble]");
  let race = given.race;
  const outbox = JSON.parse(localStorage.getItem(store) || "[]");
  let sending = false;

  const moment = () => new Date(Date.now() + offset).toISOString();

  function show() {
    ready.hidden = Boolean(race);
    going.hidden = !race;
    if (race) {
      const last = race.readings[race.readings.length - 1];
      find("last").textContent = last ? `last ${last.text} at ${last.time}` : "";
    }
    tick();
  }

  function tick() {
    if (!race) return;
    const s = Math.max(0, (Date.now() + offset - Date.parse(race.started)) / 1000);
    const whole = Math.floor(s);
    find("clock").textContent = `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
  }

  function say(where, text) {
    const line = where.querySelector("[data-wrong]");
    line.textContent = text;
    line.hidden = !text;
  }

  function put(what, more) {
    outbox.push({ what, body: { client_id: window.thermion.id(), pressed_at: moment(), ...more } });
    localStorage.setItem(store, JSON.stringify(outbox));
    flush();
  }

  async function flush() {
    if (sending) return;
    sending = true;
    while (outbox.length) {
      const { what, body } = outbox[0];
      let answer;
      try {
        answer = await window.thermion.send("POST", given.urls[what], body);
        if (answer.status >= 500) throw new Error("away");
      } catch {
        trouble.textContent = `No connection: what you pressed is kept on this device with its moment (${outbox.length}). The clock goes on.`;
        trouble.hidden = false;
        setTimeout(flush, 2000);
        break;
      }
      trouble.hidden = true;
      outbox.shift();
      localStorage.setItem(store, JSON.stringify(outbox));
      took(what, body, answer);
    }
    sending = false;
  }

  function took(what, sent, { status, body }) {
    if (status === 200) {
      say(box, "");
      if (what === "stop" || what === "false_start") location.assign(location.pathname);
      else if (what === "start") begin(body.race);
      else {
        race = body.race;
        find("chart").innerHTML = body.chart;
        find("stop").classList.toggle("key-wait", !body.reached);
        show();
      }
      return;
    }
    if (what === "start") {
      race = null;
      show();
      if (body.ask) ask(sent, body.ask);
      else say(ready, body.error);
      ready.elements.typed.focus();
    } else {
      const line = going.querySelector(":scope > [data-wrong]");
      line.textContent = body.error;
      line.hidden = false;
    }
  }

  function begin(started) {
    race = started;
    find("ask").hidden = true;
    show();
  }

  let asked = null;
  function ask(sent, text) {
    asked = sent.typed;
    find("ask-text").textContent = text;
    find("ask").hidden = false;
  }

  function start(typed, sure) {
    say(ready, "");
    find("ask").hidden = true;
    const pressed = moment();
    put("start", { entry: Number(ready.elements.entry.value), typed, sure, pressed_at: pressed });
    if (typed.trim()) {
      race = { key: "", started: pressed, readings: [] };
      show();
      going.querySelector("#probe").focus();
    }
  }

  ready.addEventListener("submit", (event) => {
    event.preventDefault();
    start(ready.elements.typed.value, false);
  });
  find("sure-start").addEventListener("click", () => start(asked, true));

  find("probe").addEventListener("submit", (event) => {
    event.preventDefault();
    const field = going.querySelector("#probe");
    if (field.value.trim()) put("probe", { typed: field.value });
    field.value = "";
    field.focus();
  });

  const seen = () => [...going.querySelectorAll("[name=seen]:checked")].map((b) => b.value);
  const stop = (at_target) =>
    race && put("stop", { key: race.key, at_target, seen: seen(), note: "" });
  find("stop").addEventListener("click", () => stop(true));
  find("end").addEventListener("click", () => stop(false));
  find("false").addEventListener("click", () => race && put("false_start", { key: race.key }));

  going.addEventListener("change", () => {
    const asks = [...going.querySelectorAll("[name=seen]:checked")].map((b) => b.dataset.ask);
    find("asks").textContent = asks.length ? `Ask the team: ${asks.join(" ")}` : "";
  });

  // Space stops, wherever the focus is, except on another button or a box to tick
  document.addEventListener("keydown", (event) => {
    if (event.key !== " " || !race || event.repeat) return;
    if (event.target.closest("button:not([data-stop]), [type=checkbox], summary, a")) return;
    event.preventDefault();
    stop(true);
  });

  setInterval(tick, 100);
  show();
  if (race) going.querySelector("#probe").focus();
  flush();
})();
