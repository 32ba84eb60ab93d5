// The kit list: a tick or a number is kept as soon as it is set.

import { trySend } from "./lib/http.js";
import { wrongLine } from "./lib/page.js";

async function keep(field) {
  const table = field.closest("[data-kit]");
  const tick = field.type === "checkbox";
  const { status, body } = await trySend(
    "POST",
    table.dataset.kit,
    { item: field.dataset.item, [field.dataset.key]: tick ? field.checked : field.value },
    "Thermion cannot be reached; this is not kept yet.",
  );
  field.removeAttribute("aria-invalid");
  field.parentElement.querySelector(".wrong")?.remove();
  if (status !== 200) {
    if (tick) field.checked = !field.checked;
    field.setAttribute("aria-invalid", "true");
    field.parentElement.append(wrongLine(body.error || "Not kept."));
  } else if (!tick) location.reload();
}

document.addEventListener("change", (event) => {
  const field = event.target.closest("[data-item]");
  if (field) keep(field);
});
