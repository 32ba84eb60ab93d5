// Photographs of sheets, many at once: sent one by one, so that fifty are no more trouble than one.

import { say } from "./lib/page.js";

const form = document.querySelector("[data-photographs]");
const line = form?.querySelector("[data-sent]");
const AWAY = { kept: false, why: "Thermion could not be reached." };

async function keep(file, number) {
  const data = new FormData();
  data.append("pictures", file);
  data.append("once", `${form.elements.once.value.slice(0, 30)}-${number}`);
  const headers = { "X-CSRFToken": form.elements.csrf_token.value, "X-One": "1" };
  const sent = fetch(form.action, { method: "POST", body: data, headers });
  const response = await sent.catch(() => null);
  return response?.ok ? response.json() : AWAY;
}

async function keepAll(event) {
  const files = [...form.elements.pictures.files];
  if (!files.length) return;
  event.preventDefault();
  const refused = [];
  for (const [i, file] of files.entries()) {
    say(line, `${i + 1} / ${files.length}`);
    const { kept, why } = await keep(file, i);
    if (!kept) refused.push(`${file.name}: ${why}`);
  }
  if (!refused.length) location.assign(location.pathname);
  else say(line, `${files.length - refused.length} / ${files.length}. ${refused.join(" ")}`);
}

form?.addEventListener("submit", keepAll);
