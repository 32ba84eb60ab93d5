// The run's clock: what time it is in the test, which mark is due, what is said and heard of it.
"use strict";

function clockText(seconds) {
  const whole = Math.max(0, Math.floor(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

window.thermion.runClock = {
  get active() {
    const started = this.server.phases.filter((p) => p.started);
    return started[started.length - 1] || this.server.phases[0];
  },

  get nextPhase() {
    return this.server.phases.find((p) => !p.started);
  },

  since(phase) {
    if (!phase.started) return 0;
    const seconds = (Date.now() + this.offset - Date.parse(phase.started)) / 1000;
    return seconds * this.server.speed;
  },

  tick() {
    const phase = this.active;
    this.elapsed = Math.floor(this.since(phase) * 5) / 5;
    const due = phase.started
      ? phase.slots.reduce((found, s, i) => (s.mark <= this.elapsed ? i : found), -1)
      : -1;
    const last = phase.slots[phase.slots.length - 1];
    const now = phase.started && this.elapsed >= last.until ? phase.slots.length : due;
    if (now !== this.due) this.turned(now);
    this.countDown();
    if (this.server.rehearsal && this.probes && !this.board) this.probeRound();
  },

  turned(now) {
    const first = this.due === -1 && now === -1;
    this.due = now;
    if (first) return;
    this.ring(now);
    if (this.typed === "" && !this.detailOpen()) this.home();
  },

  ring(now) {
    if (!this.sound || this.server.closed || now >= this.active.slots.length) return;
    this.beep(880, 0);
    this.beep(1175, 0.18);
  },

  // the last three seconds before a mark can be heard, so that eyes can stay on the thermometer
  countDown() {
    if (!this.sound || this.server.rehearsal || this.server.closed || !this.upcoming) return;
    if (!this.active.started) return;
    const left = Math.ceil(this.upcoming.mark - this.since(this.active));
    if (left === this.lastLeft || left < 1 || left > 3) return;
    this.lastLeft = left;
    this.beep(520, 0);
  },

  beep(pitch, after) {
    if (!this.audio) return;
    const tone = this.audio.createOscillator();
    const volume = this.audio.createGain();
    const at = this.audio.currentTime + after;
    tone.frequency.value = pitch;
    volume.gain.setValueAtTime(0.25, at);
    volume.gain.exponentialRampToValueAtTime(0.001, at + 0.3);
    tone.connect(volume).connect(this.audio.destination);
    tone.start(at);
    tone.stop(at + 0.3);
  },

  wake() {
    this.audio ||= new AudioContext();
    if (this.audio.state === "suspended") this.audio.resume();
  },

  toggleSound() {
    this.wake();
    this.sound = !this.sound;
    if (this.sound) this.beep(880, 0);
  },

  get soundLabel() {
    return this.sound ? "Sound on" : "Sound off";
  },

  get phaseLabel() {
    return this.server.rehearsal
      ? `${this.active.label}, rehearsal ${this.server.speed}×`
      : this.active.label;
  },

  get elapsedText() {
    return clockText(this.elapsed);
  },

  get upcoming() {
    return this.active.slots.find((s) => s.mark > this.elapsed);
  },

  get nowText() {
    if (this.server.closed) return "This run is closed. Values can still be corrected.";
    if (!this.active.started)
      return `${this.server.unit.startsWith("°") ? "Probes in" : "All in place"}, then start. The first reading is at minute 0.`;
    const slot = this.active.slots[this.due];
    if (!slot)
      return this.nextPhase ? "All marks have passed." : "All marks have passed. Close the run.";
    const left = this.missing(this.due).length;
    return left ? `Read minute ${slot.label}: ${left} to go` : `Minute ${slot.label} is read`;
  },

  get nextText() {
    if (this.server.closed || !this.active.started || !this.upcoming) return "";
    const seconds = (this.upcoming.mark - this.elapsed) / this.server.speed;
    return `minute ${this.upcoming.label} in ${clockText(seconds + 0.9)}`;
  },

  get gauge() {
    const slot = this.active.slots[this.due];
    if (!slot || !this.active.started) return { transform: "scaleX(0)" };
    const share = (this.elapsed - slot.mark) / (slot.until - slot.mark);
    return { transform: `scaleX(${Math.min(1, share).toFixed(3)})` };
  },

  get canStart() {
    return Boolean(this.nextPhase) && !this.server.closed;
  },

  get startLabel() {
    return this.nextPhase ? this.nextPhase.begin : "";
  },

  get startReady() {
    return !this.active.started || this.due >= this.active.slots.length - 1;
  },

  get startClass() {
    return this.startReady ? "key-go text-lg" : "";
  },

  get startSure() {
    return this.startReady ? "" : `End ${this.active.label.toLowerCase()} now?`;
  },

  /** Without a reading of the control there is nothing to measure the others against. */
  get controlUnread() {
    const control = this.server.rows.find((row) => row.control);
    const read = Object.entries(this.server.cells).some(
      ([key, cell]) => control && key.startsWith(`${control.id}|`) && cell.text !== "",
    );
    return Boolean(control) && !read;
  },

  get closeSure() {
    if (this.controlUnread) return "The control was not read. Close anyway?";
    return this.closeClass ? "" : "Close before the last mark?";
  },

  get canClose() {
    return Boolean(this.server.phases[0].started) && !this.server.closed;
  },

  get closeClass() {
    return this.due >= this.active.slots.length && !this.nextPhase ? "key-go" : "";
  },

  async start() {
    const phase = this.nextPhase;
    if (!phase || this.starting) return;
    this.wake();
    this.starting = true;
    try {
      const { status, body } = await window.thermion.send("POST", this.urls.start, {
        phase: phase.key,
      });
      if (status === 200) {
        this.take(body);
        this.view = phase.key;
        this.due = -1;
        this.tick();
        this.home();
      } else this.trouble = body.error;
    } catch {
      this.trouble = "No connection: the clock was not started. Try again.";
    }
    this.starting = false;
  },
};
