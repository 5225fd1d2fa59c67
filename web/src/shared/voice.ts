/** What is said aloud, where the browser has a voice. The screen always says the same. */

let volume = 0.5;
export const setVoiceVolume = (value: number) => {
  volume = value;
};

const voice = () => (typeof speechSynthesis === "undefined" ? null : speechSynthesis);

/** Say something now; what is still being said gives way. */
export function speak(text: string): void {
  const own = voice();
  if (!own || !text || volume === 0) return;
  try {
    own.cancel();
    const said = new SpeechSynthesisUtterance(text);
    said.lang = "en";
    said.rate = 0.95;
    said.volume = volume;
    own.speak(said);
  } catch {
    // A browser without a voice loses nothing that is not on the screen.
  }
}

export const hush = () => voice()?.cancel();
export const hasVoice = () => voice() !== null;
