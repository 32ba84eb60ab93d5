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

/** What the server says at an address; {status: 0} when it is away or its answer no answer. */
export async function read(url) {
  const response = await fetch(url).catch(() => null);
  const body = await response?.json().catch(() => null);
  return body ? { status: response.status, body } : { status: 0, body: {} };
}

/** A part of a page as the server draws it. */
export async function inline(url) {
  const response = await fetch(url, { headers: { "X-Inline": "1" } });
  return response.ok ? response.text() : null;
}
