// The lessons to scale: steps are dragged or keyed to another lesson, and stretched.
"use strict";

(() => {
  const host = () => document.getElementById("strip");

  async function change(data, focus) {
    const { status, body } = await window.thermion
      .send("POST", host().dataset.url, data)
      .catch(() => ({ status: 0, body: { error: "Thermion cannot be reached; nothing was moved." } }));
    if (status !== 200) {
      const said = document.createElement("p");
      said.className = "wrong";
      said.role = "alert";
      said.textContent = body.error || "Nothing was moved.";
      host().prepend(said);
      return;
    }
    host().innerHTML = body.html;
    if (focus) host().querySelector(`[data-phase="${focus}"]`)?.focus();
  }

  function lessons() {
    return host().querySelectorAll(".l-room").length;
  }

  document.addEventListener("keydown", (event) => {
    const bar = event.target.closest?.(".l-mine[data-phase]");
    if (!bar) return;
    const phase = bar.dataset.phase;
    const lesson = Number(bar.dataset.lesson);
    const move = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    const stretch = { "+": 5, "=": 5, "-": -5, "−": -5 }[event.key];
    if (move !== undefined) {
      event.preventDefault();
      change({ phase, lesson: Math.min(Math.max(lesson + move, 0), lessons() - 1) }, phase);
    } else if (stretch !== undefined && !bar.dataset.test) {
      event.preventDefault();
      change({ phase, minutes: Math.max(whole(phase) + stretch, 5) }, phase);
    } else if (event.key === "Delete" && !bar.dataset.test) {
      event.preventDefault();
      change({ phase, minutes: 0 });
    }
  });

  /** All minutes of a step, over the lessons it runs through. */
  function whole(phase) {
    const parts = [...host().querySelectorAll(`[data-phase="${phase}"]`)];
    return parts.reduce((sum, part) => sum + Number(part.dataset.minutes), 0);
  }

  document.addEventListener("click", (event) => {
    const back = event.target.closest("[data-back]");
    if (back) change({ phase: back.dataset.back, minutes: back.dataset.minutes }, back.dataset.back);
  });

  document.addEventListener("pointerdown", (event) => {
    const bar = event.target.closest(".l-mine[data-phase]");
    if (!bar) return;
    const svg = bar.ownerSVGElement;
    const scale = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
    const grip = event.target.classList.contains("l-grip");
    const start = { x: event.clientX, y: event.clientY };
    let moved = false;
    bar.setPointerCapture(event.pointerId);
    bar.classList.add("is-held");

    const drag = (e) => {
      moved = moved || Math.hypot(e.clientX - start.x, e.clientY - start.y) > 4;
      if (!grip) bar.setAttribute("transform", `translate(0 ${(e.clientY - start.y) * scale})`);
    };
    const drop = (e) => {
      bar.removeEventListener("pointermove", drag);
      bar.classList.remove("is-held");
      bar.removeAttribute("transform");
      if (!moved) return;
      const phase = bar.dataset.phase;
      if (grip) {
        const perMinute = Number(svg.dataset.pxPerMin);
        const more = Math.round(((e.clientX - start.x) * scale) / perMinute / 5) * 5;
        if (more) change({ phase, minutes: Math.max(whole(phase) + more, 5) }, phase);
        return;
      }
      const rows = Math.round(((e.clientY - start.y) * scale) / Number(svg.dataset.row));
      const lesson = Number(bar.dataset.lesson) + rows;
      if (rows) change({ phase, lesson: Math.min(Math.max(lesson, 0), lessons() - 1) }, phase);
    };
    bar.addEventListener("pointermove", drag);
    bar.addEventListener("pointerup", drop, { once: true });
    bar.addEventListener("pointercancel", drop, { once: true });
  });
})();
