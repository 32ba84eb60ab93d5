// Leaving this page for another, once.

const PATIENCE = 30000; // ms; then a page that has not come is asked for again

let left = -PATIENCE;

/** Where an answer says that this page should be now. Asked again before that page has come, a slow
 *  line would begin it anew each time, and it never would. */
export function leaveFor(address) {
  const now = performance.now();
  if (now - left < PATIENCE) return;
  left = now;
  location.replace(address);
}
