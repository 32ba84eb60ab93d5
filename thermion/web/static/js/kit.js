// The kit list: a tick or a number is kept as soon as it is set.
"use strict";

document.addEventListener("change", async (event) => {
  const field = event.target.closest("[data-item]");
  if (!field) return;
  const table = field.closest("[data-kit]");
  const value = field.type === "checkbox" ? field.checked : field.value;
  const answer = await window.thermion
    .send("POST", table.dataset.kit, { item: field.dataset.item, [field.dataset.key]: value })
    .catch(() => ({ status: 0, body: { error: "Thermion cannot be reached; this is not kept yet." } }));
  field.removeAttribute("aria-invalid");
  field.parentElement.querySelector(".wrong")?.remove();
  if (answer.status !== 200) {
    if (field.type === "checkbox") field.checked = !field.checked;
    field.setAttribute("aria-invalid", "true");
    const said = document.createElement("p");
    said.className = "wrong";
    said.role = "alert";
    said.textContent = answer.body.error || "Not kept.";
    field.parentElement.append(said);
  } else if (field.type !== "checkbox") {
    location.reload();
  }
});
