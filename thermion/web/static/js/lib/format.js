// Numbers and sentences as they are shown.

/** Seconds as minutes and seconds, e.g. 7:30. */
export function clockText(seconds) {
  const whole = Math.max(0, Math.floor(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

/** A sentence of the server with its {gaps} filled; of two, the first is for one ({n} is 1). */
export function fill(sentence, values = {}) {
  const chosen = Array.isArray(sentence) ? sentence[values.n === 1 ? 0 : 1] : sentence;
  return chosen.replace(/\{(\w+)\}/g, (_, name) => values[name] ?? "");
}
