// Loaded before anything can be pressed, so no module: what cannot be undone is asked once more, on the
// button itself, also while the page's scripts are still on their way.

function askOnce(event) {
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
}

document.addEventListener("click", askOnce, true);
