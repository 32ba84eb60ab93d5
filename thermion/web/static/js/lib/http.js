// Requests to the server of this page.

/** JSON with the page's CSRF token; {status, body}; throws when the server is away. */
export async function send(method, url, data) {
  const token = document.querySelector('meta[name="csrf"]').content;
  const response = await fetch(url, {
    method,
    headers: { "Content-Type": "application/json", "X-CSRFToken": token },
    body: JSON.stringify(data),
  });
  const body = await response.json().catch(() => ({ error: "The answer could not be read." }));
  return { status: response.status, body };
}

/** The same, but {status: 0} with this sentence as its error when the server is away. */
export function trySend(method, url, data, away) {
  return send(method, url, data).catch(() => ({ status: 0, body: { error: away } }));
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

/** A part of a page as the server draws it. */
export async function inline(url) {
  const response = await fetch(url, { headers: { "X-Inline": "1" } });
  return response.ok ? response.text() : null;
}
