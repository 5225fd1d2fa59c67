/** Answers kept for when the server is away, sealed like everything else on the device, by the address they came from. */
import { fromDevice, keepOnDevice } from "./device";

type Kept = { type: string; text?: string; base64?: string };
const JSON_TYPE = "application/json";

/** One name for an address, whatever the order of what is asked. */
function nameOf(address: string): string {
  const url = new URL(address, location.origin);
  url.searchParams.sort();
  return url.pathname + url.search;
}

/** Keep an answer that is there already, as if it had come from its address. */
export const put = (address: string, value: unknown): Promise<void> =>
  keepOnDevice(nameOf(address), { type: JSON_TYPE, text: JSON.stringify(value) } satisfies Kept);

/** Fetch an address and keep what it says. Throws where the server does not say it. */
export async function stock(address: string): Promise<void> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(`${address}: ${answer.status}`);
  const type = answer.headers.get("Content-Type") ?? "";
  const kept: Kept = type.startsWith(JSON_TYPE)
    ? { type, text: await answer.text() }
    : { type, base64: toBase64(await answer.arrayBuffer()) };
  await keepOnDevice(nameOf(address), kept);
}

/** What an address said when it was last stocked; null where it never was, or nobody is signed in. */
export async function fromPantry(address: string): Promise<Response | null> {
  const kept = await fromDevice<Kept>(nameOf(address));
  if (!kept) return null;
  const body = kept.base64 === undefined ? (kept.text ?? "") : fromBase64(kept.base64);
  return new Response(body, { headers: { "Content-Type": kept.type } });
}

function toBase64(buffer: ArrayBuffer): string {
  const bytes = new Uint8Array(buffer);
  let letters = "";
  for (let at = 0; at < bytes.length; at += 0x8000) letters += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(letters);
}

const fromBase64 = (letters: string) => Uint8Array.from(atob(letters), (letter) => letter.charCodeAt(0));
