// Requests to the server of this page.

const LONGEST = 10000; // ms for an answer; later than that it is no answer

/** What a page says of itself in its head. */
function meta(name) {
  return document.querySelector(`meta[name="${name}"]`);
}

/** Which data this page is of. */
export function house() {
  return meta("house")?.content ?? "";
}

/** When the run of this page was made; "" on a page of no run. */
export function madeOfRun() {
  return meta("made")?.content ?? "";
}

/** JSON with the page's CSRF token; {status, body}; throws when the server is away. */
export async function send(method, url, data) {
  const response = await fetch(url, {
    method,
    headers: {
      "Content-Type": "application/json",
      "X-CSRFToken": meta("csrf").content,
      "X-Made": madeOfRun(),
    },
    body: JSON.stringify(data),
  });
  const body = await response.json().catch(() => ({ error: "The answer could not be read." }));
  return { status: response.status, body };
}

/** The same, but {status: 0} with this sentence as its error when the server is away. */
export function trySend(method, url, data, away) {
  return send(method, url, data).catch(() => ({ status: 0, body: { error: away } }));
}

/**
 * What an outbox keeps, once more until it is answered: {status, body}. An answer that is not of
 * our server (a network's login page) is none: it throws.
 */
export async function deliver({ url, body, form, made, house: of }) {
  const response = await fetch(url, {
    method: "POST",
    headers: {
      "Content-Type": form ? "application/x-www-form-urlencoded" : "application/json",
      "X-CSRFToken": meta("csrf").content,
      "X-House": of,
      "X-Made": made,
    },
    body: form ? new URLSearchParams(body) : JSON.stringify(body),
    redirect: "error",
    keepalive: true, // goes on when the page is closed meanwhile
    signal: AbortSignal.timeout(LONGEST),
  });
  if (!response.headers.has("X-House")) throw new Error("not our server");
  return { status: response.status, body: await response.json() };
}

/** A new token for a page that is older than the server's key. */
export async function renewToken() {
  const response = await fetch("/token.json");
  if (response.ok) meta("csrf").content = (await response.json()).token;
  return response.ok;
}

/** What time the server says it is; null without a connection. */
export async function serverNow() {
  const response = await fetch("/token.json").catch(() => null);
  return response?.headers.get("X-Now") ?? null;
}

const marks = new Map(); // of what was read last at each address

/** An address asked again and again: the server answers 304 while nothing was stored. */
export async function ask(url) {
  const known = marks.get(url);
  const headers = known ? { "If-None-Match": known } : {};
  const response = await fetch(url, { headers }).catch(() => null);
  if (response?.ok) marks.set(url, response.headers.get("ETag"));
  return response;
}

/** What the server says there: {status, body, now}; {status: 0} when it is away or it is no answer. */
export async function read(url) {
  const response = await ask(url);
  const now = response?.headers.get("X-Now");
  if (response?.status === 304) return { status: 304, body: {}, now };
  const body = await response?.json().catch(() => null);
  return body ? { status: response.status, body, now } : { status: 0, body: {} };
}

/** A part of a page as the server draws it: {text, again}; `again` when there is a newer one soon. */
export async function inline(url) {
  const response = await fetch(url, { headers: { "X-Inline": "1" } });
  return response.ok
    ? { text: await response.text(), again: response.headers.has("X-Again") }
    : { text: null, again: false };
}
