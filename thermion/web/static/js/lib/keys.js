// Single keys that do something where nothing is being typed. Someone who speaks to the computer, or whose
// hand slips, can switch them off under the question mark; that is kept on the device.

const NAME = "thermion-keys";

/** Whether single keys do anything on this device. */
export function keysOn() {
  try {
    return window.localStorage[NAME] !== "off";
  } catch {
    return true;
  }
}

/** Whether a key pressed there is meant for the page. */
export function keyed(event) {
  if (!keysOn() || event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey)
    return false;
  return !event.target.closest?.("input:not([type=range]), textarea, select");
}

/** What is marked `data-shortcut` is pressed by that key; a field gets the focus. */
export function shortcuts() {
  document.addEventListener("keydown", (event) => {
    if (event.key.length !== 1 || !keyed(event)) return;
    const key = window.CSS.escape(event.key.toLowerCase());
    const found = [...document.querySelectorAll(`[data-shortcut="${key}"]`)].at(-1);
    if (!found) return;
    event.preventDefault();
    if (found.matches("input, textarea")) found.focus();
    else found.click();
  });
  const choice = document.querySelector("[data-keys-on]");
  if (!choice) return;
  choice.checked = keysOn();
  choice.addEventListener("change", () => {
    try {
      window.localStorage[NAME] = choice.checked ? "on" : "off";
    } catch {
      choice.checked = true; // a browser that keeps nothing keeps the keys
    }
  });
}
