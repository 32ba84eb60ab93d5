// A station: results are pointed at on the drawn track, string or jug; chips bring up a question.
"use strict";

(() => {
  const form = document.querySelector("[data-station]");
  if (!form) return;

  function place(svg) {
    const typed = parseFloat(String(form.elements[svg.dataset.for].value).replace(",", "."));
    const from = Number(svg.dataset.from);
    const to = Number(svg.dataset.to);
    const share = Math.min(Math.max(typed / Number(svg.dataset.most), 0), 1);
    const known = Number.isFinite(share);
    const at = from + (to - from) * share;
    const fill = svg.querySelector(".s-fill");
    if (fill) {
      fill.setAttribute("y", known ? at : from);
      fill.setAttribute("height", known ? from - at : 0);
    } else if (svg.dataset.axis === "x") {
      svg.querySelector(".s-mark").setAttribute("transform", known ? `translate(${at + 40} 0)` : "");
    } else {
      svg.querySelector(".s-mark").setAttribute("transform", known ? `translate(0 ${at - 400})` : "");
    }
  }

  // The stopwatch: S starts and stops it; pointing at where it ended stops it too.
  const watch = form.querySelector("[data-watch]");
  const idle = watch ? watch.innerHTML : "";
  let started = null;

  function seconds() {
    return ((performance.now() - started) / 1000).toFixed(1);
  }

  function stopWatch() {
    if (started === null) return;
    form.elements.time_s.value = seconds();
    started = null;
    watch.innerHTML = idle;
    watch.classList.remove("key-go");
  }

  function press() {
    if (started !== null) return stopWatch();
    started = performance.now();
    watch.classList.add("key-go");
    return undefined;
  }

  if (watch) {
    watch.addEventListener("click", press);
    setInterval(() => {
      if (started !== null) watch.textContent = `${seconds()} s: stop`;
    }, 100);
    document.addEventListener("keydown", (event) => {
      if (event.key.toLowerCase() !== "s" || event.ctrlKey || event.metaKey || event.altKey) return;
      const field = event.target.closest("input, textarea");
      if (field && (field.name === "note" || (started === null && field.value.trim()))) return;
      event.preventDefault();
      press();
    });
  }

  for (const svg of form.querySelectorAll(".scale")) {
    const input = form.elements[svg.dataset.for];
    const point = (event) => {
      const box = svg.getBoundingClientRect();
      const view = svg.viewBox.baseVal;
      const along = svg.dataset.axis === "x"
        ? ((event.clientX - box.left) / box.width) * view.width
        : ((event.clientY - box.top) / box.height) * view.height;
      const from = Number(svg.dataset.from);
      const share = Math.min(Math.max((along - from) / (Number(svg.dataset.to) - from), 0), 1);
      const step = Number(svg.dataset.step);
      const value = Math.round((share * Number(svg.dataset.most)) / step) * step;
      input.value = String(Math.round(value * 100) / 100);
      place(svg);
    };
    svg.addEventListener("pointerdown", (event) => {
      event.preventDefault(); // the field keeps the focus, so that Enter keeps the attempt
      input.focus();
      svg.setPointerCapture(event.pointerId);
      stopWatch();
      point(event);
    });
    svg.addEventListener("pointermove", (event) => {
      if (event.buttons) point(event);
    });
    input.addEventListener("input", () => place(svg));
    place(svg);
  }

  const asks = form.querySelector("[data-asks]");
  function ask() {
    const chosen = [...form.querySelectorAll("[data-ask]:checked")].map((box) => box.dataset.ask);
    asks.textContent = chosen.length ? `Ask the team: ${chosen.join(" ")}` : "";
  }
  form.addEventListener("change", ask);
  ask();

  // One key for a result of zero, outside a field.
  document.addEventListener("keydown", (event) => {
    if (event.key !== "0" || event.target.closest("input, select, textarea")) return;
    event.preventDefault();
    form.querySelector("[data-zero]").click();
  });
})();
