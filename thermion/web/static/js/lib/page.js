// What the server put into the page, and what scripts put there.

/** The data in the page, as its payload names them. */
export function pageData() {
  return JSON.parse(document.getElementById("page-data").textContent);
}

/** What is wrong, as a line at its place. */
export function wrongLine(text) {
  const line = document.createElement("p");
  line.className = "wrong";
  line.role = "alert";
  line.textContent = text;
  return line;
}

/** A line that is there only while it says something. */
export function say(line, text) {
  line.textContent = text;
  line.hidden = !text;
}

/** One object with the methods and getters of several. */
export function mix(...parts) {
  const whole = {};
  for (const part of parts) Object.defineProperties(whole, Object.getOwnPropertyDescriptors(part));
  return whole;
}

/** An id nobody else will make; works without a secure origin too. */
export function newId() {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
}

/** An Alpine component: name and the function that makes it. */
export function component(name, make) {
  document.addEventListener("alpine:init", () => Alpine.data(name, make));
}
