// Chips of what was seen bring up the question to ask the team.

/** Under `box`: a line [data-asks] that says its own words and the questions of the ticked chips. */
export function asksTheTeam(box) {
  const line = box.querySelector("[data-asks]");
  if (!line) return;
  const ask = () => {
    const ticked = [...box.querySelectorAll("[data-ask]:checked")].map((chip) => chip.dataset.ask);
    line.textContent = ticked.length ? `${line.dataset.asks} ${ticked.join(" ")}` : "";
  };
  box.addEventListener("change", ask);
  ask();
}
