// Forms whose content must not be lost: marked `data-kept`, they go through the outbox. `data-what`
// and `data-where` say in words what they are.

import { outbox } from "./outbox.js";
import { newId, wrongLine } from "./page.js";

const SLOW = 600; // ms after which nobody should wait for an answer
const HIDDEN = new Set(["csrf_token", "once", "back"]);

const ticks = (field) => ["checkbox", "radio"].includes(field.type);

/** A field in words; "" when nothing is typed or chosen there. */
function fieldWords(field) {
  if (!field.name || ["hidden", "submit"].includes(field.type)) return "";
  const label = field.labels?.[0]?.innerText.trim() || field.ariaLabel || "";
  if (ticks(field)) return field.checked ? label : "";
  if (field.tagName === "SELECT") return field.selectedOptions[0].text;
  const typed = field.value?.trim();
  return typed ? `${label} ${typed}`.trim() : "";
}

/** What was typed and chosen, in words; of a form with a button only, what the button says. */
function typedIn(form, submitter) {
  const said = [...form.elements].map(fieldWords).filter(Boolean);
  if (submitter?.name || !said.length) said.push(submitter?.innerText.trim() ?? "");
  return said.join(", ");
}

function pairsOf(form, submitter, id) {
  const data = [...new FormData(form, submitter)];
  const own = data.filter(([name]) => name !== "csrf_token" && name !== "once");
  return [...own, ["once", id], ["screen", outbox.tab]];
}

function clearWrong(form) {
  for (const line of form.querySelectorAll(".wrong")) line.remove();
  for (const field of form.querySelectorAll("[aria-invalid]"))
    field.removeAttribute("aria-invalid");
}

/** Keys for what can be done about it: sent again with an answer, or not needed after all. */
function waysOut(form, item) {
  const key = (label, act) => {
    const made = document.createElement("button");
    made.type = "button";
    made.className = "key key-small";
    made.textContent = label;
    made.addEventListener("click", act);
    return made;
  };
  const again = (change) => {
    clearWrong(form);
    form.dataset.sending = "yes";
    sent.set(item.id, form);
    outbox.again(item.id, change);
  };
  const drop = () => {
    outbox.drop(item.id);
    delete form.dataset.instead;
    clearWrong(form);
    form.reset();
    goTo(location.pathname);
  };
  const keys = document.createElement("span");
  keys.className = "flex flex-wrap gap-2 mt-1 mb-2";
  for (const { label, change } of item.answer.ways ?? [])
    keys.append(key(label, () => again(change)));
  keys.append(key("Leave this one out", drop));
  return keys;
}

/** What was refused, at its field. It is in the tray too until it is sent again or thrown away. */
function showWrong(form, item) {
  clearWrong(form);
  outbox.here.add(item.id);
  const asks = item.answer.status === 409; // of another screen: what is typed next is another thing
  if (asks) form.dataset.asked = item.id;
  else form.dataset.instead = item.id;
  const field = item.answer.field && form.elements[item.answer.field];
  const line = wrongLine(item.answer.error);
  if (asks) line.append(waysOut(form, item));
  if (!(field instanceof HTMLElement)) {
    form.prepend(line);
    return;
  }
  field.setAttribute("aria-invalid", "true");
  (field.closest("div, label") ?? field).append(line);
  field.focus();
}

/** Put what waits in the tray back where it was typed. */
function restore(form, item) {
  for (const [name, value] of item.body) {
    const fields = [...form.elements].filter((each) => each.name === name && !HIDDEN.has(name));
    for (const field of fields) {
      if (ticks(field)) field.checked ||= field.value === value;
      else if (field.type !== "submit") field.value = value;
    }
  }
  form.dispatchEvent(new Event("input", { bubbles: true }));
  if (item.answer) showWrong(form, item);
}

const touched = (field) =>
  ticks(field) ? field.checked !== field.defaultChecked : field.value !== field.defaultValue;

/** Whether anything is being typed on this page. */
export const busy = () =>
  [...document.querySelectorAll("main input:not([type=hidden]), main textarea")].some(touched);

/** Forms of this page whose item is on its way: id of the item and form. */
const sent = new Map();

function submitted(event) {
  const form = event.target.closest("form[data-kept]");
  if (!form || event.defaultPrevented) return;
  event.preventDefault();
  if (form.dataset.sending) return;
  const { once } = form.elements;
  const id = once?.value || newId();
  if (once) once.value = newId(); // what comes next is another thing
  const { instead = "" } = form.dataset;
  form.dataset.sending = "yes";
  clearWrong(form);
  outbox.here.delete(form.dataset.asked); // not answered yet: it stands in the tray
  delete form.dataset.asked;
  sent.set(id, form);
  outbox.put({
    id,
    url: form.action,
    form: true,
    scope: form.action,
    body: pairsOf(form, event.submitter, id),
    what: form.dataset.what,
    where: form.dataset.where,
    typed: typedIn(form, event.submitter),
    instead,
  });
  delete form.dataset.instead;
  setTimeout(() => waits(form), SLOW);
}

/** Nobody waits for a connection: the form is free for the next one. */
function waits(form) {
  if (!form.dataset.sending) return;
  delete form.dataset.sending;
  form.reset();
  form.dispatchEvent(new Event("kept", { bubbles: true }));
}

let leaving = false; // somebody goes elsewhere: nobody is fetched back

function goTo(address) {
  if (leaving) return;
  if (address === location.href) location.reload();
  else location.assign(address);
}

/** Sent by another page or before this one was loaded: what it did shows here too. */
function news(item) {
  const path = new URL(item.page, location.href).pathname;
  if (path === location.pathname && !busy()) goTo(location.href);
}

function answered({ kind, item, answer }) {
  if (!item?.form || !["took", "refused"].includes(kind)) return;
  const form = sent.get(item.id);
  if (!form) {
    if (kind === "took") news(item);
    return;
  }
  sent.delete(item.id);
  const still = form.dataset.sending; // nothing else was typed there meanwhile
  delete form.dataset.sending;
  if (kind === "refused") {
    if (!still) return; // it stands in the tray
    showWrong(form, item);
    return;
  }
  if (still) form.reset();
  if (!busy()) goTo(answer.body.to);
}

/** From the tray: the address names the item that is to be put right. */
function fromTray() {
  const id = location.hash.startsWith("#kept-") ? location.hash.slice("#kept-".length) : "";
  const item = outbox.refused().find((each) => each.id === id);
  if (!item?.form) return;
  const form = [...document.querySelectorAll("form[data-kept]")].find((f) => f.action === item.url);
  if (form) restore(form, item);
}

export function keepForms() {
  if (!document.querySelector("form[data-kept]")) return;
  document.addEventListener("submit", submitted);
  window.addEventListener("beforeunload", () => (leaving = true));
  window.addEventListener("pageshow", () => (leaving = false));
  outbox.listen(answered);
  outbox.ready.then(fromTray);
  window.addEventListener("hashchange", fromTray);
}
