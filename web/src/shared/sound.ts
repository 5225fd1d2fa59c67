/** Soft sounds made in the browser: a bowl for beginnings, changes and ends, a click for the last seconds. Each is told
 * from the others with closed eyes: by its height, by how often it sounds, and by rising or falling. */
let context: AudioContext | null = null;
let volume = 0.5;

export const setVolume = (value: number) => {
  volume = value;
};

function tone(frequency: number, seconds: number, loudness: number, after = 0) {
  if (volume === 0) return;
  try {
    context ??= new AudioContext();
    const now = context.currentTime + after;
    const gain = context.createGain();
    gain.gain.setValueAtTime(0, now);
    gain.gain.linearRampToValueAtTime(loudness * volume, now + 0.02);
    gain.gain.exponentialRampToValueAtTime(0.0001, now + seconds);
    gain.connect(context.destination);
    // A bowl: a fundamental and two partials that are not quite in tune with it.
    for (const [ratio, share] of [
      [1, 1],
      [2.76, 0.3],
      [5.4, 0.1],
    ] as const) {
      const partial = context.createOscillator();
      const own = context.createGain();
      own.gain.value = share;
      partial.frequency.value = frequency * ratio;
      partial.connect(own).connect(gain);
      partial.start(now);
      partial.stop(now + seconds);
    }
  } catch {
    // Sound is never the only sign; a browser without it loses nothing else.
  }
}

export const sound = {
  start: () => tone(220, 2.4, 0.5),
  half: () => tone(294, 1.2, 0.35),
  /** Rising: the other side. */
  side: () => {
    tone(294, 1, 0.4);
    tone(392, 1.6, 0.45, 0.28);
  },
  tick: () => tone(880, 0.08, 0.2),
  done: () => tone(165, 3, 0.5),
  /** Twice: press as before, and ask. */
  second: () => {
    tone(247, 1, 0.4);
    tone(247, 1.6, 0.4, 0.35);
  },
  /** High and soft, twice: whoever lies there has said something. */
  theirs: () => {
    tone(523, 0.5, 0.3);
    tone(659, 0.9, 0.3, 0.18);
  },
  /** Falling, three: the person turns, and the clock waits. */
  turn: () => {
    tone(330, 1, 0.45);
    tone(262, 1, 0.45, 0.3);
    tone(196, 2.4, 0.5, 0.6);
  },
};
