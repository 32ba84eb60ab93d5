// A board goes where its class's board is to look: to the step, a test, or results.

import { read } from "./http.js";
import { leaveFor } from "./leave.js";

const EVERY = 1500; // ms

const asked = document.body.dataset.follow;

async function look() {
  const { status, body } = await read(asked); // away: what stands here stays
  if (status === 200) {
    const to = new URL(body.to, location.href);
    if (to.pathname + to.search !== location.pathname + location.search) leaveFor(to.href);
  }
  setTimeout(look, EVERY);
}

if (asked) look();
