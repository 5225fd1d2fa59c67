/** Soft sounds made in the browser: a bowl for beginnings and ends, a click for the last seconds. */
let context: AudioContext | null = null;
let volume = 0.5;

export const setVolume = (value: number) => {
  volume = value;
};

function tone(frequency: number, seconds: number, loudness: number) {
  if (volume === 0) return;
  try {
    context ??= new AudioContext();
    const now = context.currentTime;
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
  side: () => tone(330, 1.8, 0.5),
  tick: () => tone(880, 0.08, 0.2),
  done: () => tone(165, 3, 0.5),
  second: () => tone(247, 2, 0.45),
};
