// The materials that are not on offer yet are found by typing; all of them on demand.

const room = document.querySelector("[data-materials]");
const find = room.querySelector("[data-find]");
const rows = [...room.querySelectorAll("tr[data-name]")];
const tables = [...room.querySelectorAll("table")];
const ticked = (row) => row.querySelector("input[type=checkbox]").checked;
const wrong = (row) => row.querySelector("[aria-invalid]");

let all = false;

function show() {
  const typed = find.value.trim().toLowerCase();
  const found = rows.filter((row) => typed && row.dataset.name.includes(typed));
  for (const row of rows) row.hidden = !(all || found.includes(row) || ticked(row) || wrong(row));
  for (const table of tables) table.hidden = [...table.tBodies[0].rows].every((row) => row.hidden);
  room.querySelector("[data-found]").textContent =
    typed && !found.length ? "none of that name: Enter makes it one of our own" : "";
}

find.addEventListener("input", show);
find.addEventListener("keydown", (event) => {
  if (event.key !== "Enter") return;
  event.preventDefault(); // the first that was found is on offer
  const first = rows.find((row) => !row.hidden && !ticked(row));
  if (!find.value.trim()) return;
  if (!first) {
    nameOwn();
    return;
  }
  first.querySelector("input[type=checkbox]").checked = true;
  find.value = "";
  show();
  first.querySelector("input[inputmode=decimal]").focus();
});
const own = room.querySelector("[data-own]");
const openOwn = room.querySelector("[data-own-open]");

/** One that ships nowhere, with the name that was looked for. */
function nameOwn() {
  openOwn.hidden = true;
  own.hidden = false;
  const name = own.querySelector("[name=own_name]");
  name.value ||= find.value.trim();
  find.value = "";
  show();
  (name.value ? own.querySelector("button") : name).focus();
}

openOwn.addEventListener("click", nameOwn);
room.querySelector("[data-all]").addEventListener("click", (event) => {
  all = true;
  event.target.hidden = true;
  show();
});
room.addEventListener("change", show);
show();
