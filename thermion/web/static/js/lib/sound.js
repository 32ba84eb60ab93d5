// What is heard: short tones. A browser plays them only after somebody has pressed something on the page.

let audio;

/** Ready to be heard, from a key or tap on. */
export function wake() {
  audio ||= new AudioContext();
  if (audio.state === "suspended") audio.resume();
}

/** A tone of this pitch (Hz), `after` so many seconds; nothing before `wake`. */
export function beep(pitch, after = 0, long = 0.3) {
  if (!audio) return;
  const tone = audio.createOscillator();
  const volume = audio.createGain();
  const at = audio.currentTime + after;
  tone.frequency.value = pitch;
  volume.gain.setValueAtTime(0.25, at);
  volume.gain.exponentialRampToValueAtTime(0.001, at + long);
  tone.connect(volume).connect(audio.destination);
  tone.start(at);
  tone.stop(at + long);
}

/** Time is up. */
export function timeIsUp() {
  for (const [i, pitch] of [660, 880, 660].entries()) beep(pitch, i * 0.35, 0.5);
}

/** Move on: the next team, the next place. */
export function moveOn() {
  beep(780, 0);
  beep(1040, 0.18);
}
