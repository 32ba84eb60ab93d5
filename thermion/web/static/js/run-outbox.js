// Readings on their way to the server: an outbox that survives reloads and lost connections,
// what other screens wrote, and in a rehearsal the simulated probes.
"use strict";

window.thermion.runOutbox = {
  put(key, typed, more) {
    const [entry, phase, mark] = key.split("|");
    const stored = this.server.cells[key];
    delete this.wrong[key];
    const item = {
      key,
      entry: Number(entry),
      phase,
      mark: Number(mark),
      typed,
      client_id: window.thermion.id(),
      entered_at: new Date(Date.now() + this.offset).toISOString(),
      supersedes: stored && stored.source !== "file" ? stored.id : null,
      ...more,
    };
    this.puts += 1;
    this.outbox.push(item);
    this.keepOutbox();
    this.flush();
  },

  keepOutbox() {
    localStorage.setItem(this.store, JSON.stringify(this.outbox));
  },

  async flush() {
    if (this.sending || !this.outbox.length) return;
    this.sending = true;
    while (this.outbox.length) {
      const item = this.outbox[0];
      try {
        const { status, body } = await window.thermion.send("POST", this.urls.save, item);
        if (status >= 500) throw new Error(body.error);
        this.offline = false;
        if (status === 400) {
          this.trouble = `${body.error} Your readings stay on this device and go out after it.`;
          break;
        }
        if (status === 200) this.arrived(item, body);
        else this.refused(item, status, body);
        this.outbox.shift();
        this.keepOutbox();
      } catch {
        this.offline = true;
        break;
      }
    }
    this.sending = false;
    if (this.outbox.length) setTimeout(() => this.flush(), 2000);
    else this.redrawSoon();
  },

  arrived(item, body) {
    const before = this.server.cells[item.key];
    if (before && body.cell.earlier) body.cell.earlier = before.earlier + 1;
    this.server.cells[item.key] = body.cell;
    for (const later of this.outbox)
      if (later !== item && later.key === item.key) later.supersedes = body.cell.id;
    if (body.cell.question) this.bubbleKey = item.key;
    else if (this.bubbleKey === item.key) this.bubbleKey = "";
  },

  refused(item, status, body) {
    this.wrong[item.key] = {
      typed: item.typed,
      message: body.error,
      suggestion: body.suggestion || "",
    };
    this.bubbleKey = item.key;
    if (status === 409) this.sync();
    if (status === 410) this.trouble = body.error;
  },

  get offlineText() {
    const count = this.outbox.length;
    return count
      ? `No connection: ${count} ${count === 1 ? "reading waits" : "readings wait"} on this device and will be sent. Go on reading.`
      : "No connection to Thermion. The clock goes on.";
  },

  async sync() {
    if (this.sending || this.outbox.length || this.probing) return;
    const before = this.puts;
    try {
      const response = await fetch(this.urls.state);
      if (response.status === 410) {
        this.trouble = (await response.json()).error;
        return;
      }
      if (!response.ok) throw new Error("away");
      const state = await response.json();
      if (this.puts !== before) return; // older than what was read meanwhile
      const cells = JSON.stringify(this.server.cells);
      const wasActive = this.active.key;
      this.take(state);
      this.offline = false;
      if (this.active.key !== wasActive) {
        this.view = this.active.key;
        this.due = -1;
      }
      if (JSON.stringify(this.server.cells) !== cells) {
        this.redraw();
        if (this.typed === "" && !this.detailOpen() && this.cursor !== null) this.home();
      }
    } catch {
      this.offline = true;
    }
  },

  redrawSoon() {
    clearTimeout(this.chartTimer);
    this.chartTimer = setTimeout(() => this.redraw(), 300);
  },

  async redraw() {
    try {
      const response = await fetch(this.urls.curves, { headers: { "X-Inline": "1" } });
      if (response.ok) this.picture.innerHTML = await response.text();
    } catch {
      this.offline = true;
    }
  },

  async probeRound() {
    if (this.probing || this.server.closed || !this.active.started) return;
    const phase = this.active;
    const slot = phase.slots[this.due];
    const left = this.missing(this.due);
    if (!slot || !left.length) {
      if (this.due >= phase.slots.length - 1 && this.nextPhase && !left.length) this.start();
      return;
    }
    this.probing = true;
    for (const key of left) {
      if (phase.slots[this.due] !== slot || !this.probes) break;
      try {
        const { status, body } = await window.thermion.send("POST", this.urls.probe, {
          entry: Number(key.split("|")[0]),
          phase: phase.key,
          mark: slot.mark,
          client_id: window.thermion.id(),
        });
        if (status !== 200) break;
        this.server.cells[key] = body.cell;
      } catch {
        this.offline = true;
        break;
      }
    }
    this.probing = false;
    this.redrawSoon();
  },
};
