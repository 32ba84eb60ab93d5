// Every page: a form is sent once, and fields with an error get the focus.
"use strict";

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (event.defaultPrevented || form.method !== "post") return;
  if (form.dataset.sent) {
    event.preventDefault();
    return;
  }
  form.dataset.sent = "yes";
  setTimeout(() => form.removeAttribute("data-sent"), 4000);
});

// What cannot be undone is asked once more, on the button itself.
document.addEventListener(
  "click",
  (event) => {
    const button = event.target.closest("[data-sure]");
    if (!button || !button.dataset.sure || button.dataset.armed) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const label = button.textContent;
    button.textContent = button.dataset.sure;
    button.dataset.armed = "yes";
    setTimeout(() => {
      button.textContent = label;
      delete button.dataset.armed;
    }, 4000);
  },
  true,
);

// A sentence that fills a field when it is chosen; it can still be changed there.
document.addEventListener("click", (event) => {
  const chosen = event.target.closest("[data-sentence]");
  if (!chosen) return;
  const field = document.querySelector(chosen.dataset.sentence);
  field.value = chosen.textContent.trim();
  field.focus();
});

// Print buttons, and the bell: minutes left in the lesson, counted down while the page is open.
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
});

function bell() {
  const strip = document.querySelector(".bell");
  if (!strip) return;
  const left = (moment) => Math.max(0, Math.ceil((new Date(moment) - Date.now()) / 60000));
  const minutes = left(strip.dataset.ends);
  strip.querySelector("[data-left]").textContent = `${minutes} min`;
  strip.querySelector("[data-pack]").textContent = `${left(strip.dataset.packs)} min`;
  strip.classList.toggle("is-near", left(strip.dataset.packs) <= 5);
  if (minutes === 0) strip.remove();
}
document.addEventListener("DOMContentLoaded", bell);
setInterval(bell, 5000);

window.addEventListener("pageshow", () => {
  for (const form of document.querySelectorAll("form[data-sent]")) form.removeAttribute("data-sent");
});

document.addEventListener("DOMContentLoaded", () => {
  document.querySelector('[aria-invalid="true"]')?.focus();
});

window.thermion = {
  /** JSON request with the page's CSRF token; {status, body}; throws when the server is away. */
  async send(method, url, data) {
    const token = document.querySelector('meta[name="csrf"]').content;
    const response = await fetch(url, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": token },
      body: JSON.stringify(data),
    });
    const body = await response.json().catch(() => ({ error: "The answer could not be read." }));
    return { status: response.status, body };
  },

  /** Data that the server put into the page. */
  data(id) {
    return JSON.parse(document.getElementById(id).textContent);
  },

  /** One object with the methods and getters of several. */
  mix(...parts) {
    const whole = {};
    for (const part of parts)
      Object.defineProperties(whole, Object.getOwnPropertyDescriptors(part));
    return whole;
  },

  /** An id nobody else will make; works without a secure origin too. */
  id() {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    return [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  },
};
