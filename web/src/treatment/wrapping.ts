/** The device's key under lock: wrapped by a PIN or a passkey, so that who finds the device cannot read what it keeps.
 *
 * A PIN is stretched (PBKDF2, SHA-256); a passkey gives a secret of its own (the `prf` extension of WebAuthn). Either
 * wraps the key with AES-GCM. Decision: docs/decisions/0028-a-lost-device.md
 */

/** So many rounds: a guess takes some tenths of a second on a tablet. Source: OWASP password storage, PBKDF2-SHA256. */
const ROUNDS = 600_000;

type Sealed = { salt: Uint8Array<ArrayBuffer>; iv: Uint8Array<ArrayBuffer>; data: ArrayBuffer };
export type PinWrap = Sealed & { kind: "pin" };
export type PasskeyWrap = Sealed & { kind: "passkey"; credentialId: Uint8Array<ArrayBuffer> };
export type Wrap = PinWrap | PasskeyWrap;

const random = (length: number) => crypto.getRandomValues(new Uint8Array(length));

async function pinKey(pin: string, salt: Uint8Array<ArrayBuffer>): Promise<CryptoKey> {
  const typed = await crypto.subtle.importKey("raw", new TextEncoder().encode(pin), "PBKDF2", false, ["deriveKey"]);
  const how = { name: "PBKDF2", hash: "SHA-256", salt, iterations: ROUNDS };
  return crypto.subtle.deriveKey(how, typed, { name: "AES-GCM", length: 256 }, false, ["encrypt", "decrypt"]);
}

async function secretKey(secret: ArrayBuffer): Promise<CryptoKey> {
  const raw = await crypto.subtle.importKey("raw", secret, "HKDF", false, ["deriveKey"]);
  const info = new TextEncoder().encode("acuthesis device key");
  const how = { name: "HKDF", hash: "SHA-256", salt: new Uint8Array(32), info };
  return crypto.subtle.deriveKey(how, raw, { name: "AES-GCM", length: 256 }, false, ["encrypt", "decrypt"]);
}

async function sealed(key: CryptoKey, bytes: Uint8Array<ArrayBuffer>, salt: Uint8Array<ArrayBuffer>): Promise<Sealed> {
  const iv = random(12);
  return { salt, iv, data: await crypto.subtle.encrypt({ name: "AES-GCM", iv }, key, bytes) };
}

async function opened(key: CryptoKey, { iv, data }: Sealed): Promise<Uint8Array<ArrayBuffer> | null> {
  try {
    return new Uint8Array(await crypto.subtle.decrypt({ name: "AES-GCM", iv }, key, data));
  } catch {
    return null; // another PIN, or another passkey
  }
}

export async function wrapByPin(bytes: Uint8Array<ArrayBuffer>, pin: string): Promise<PinWrap> {
  const salt = random(16);
  return { kind: "pin", ...(await sealed(await pinKey(pin, salt), bytes, salt)) };
}

/** The key's bytes; null for a wrong PIN. */
export const unwrapByPin = async (wrap: PinWrap, pin: string) => opened(await pinKey(pin, wrap.salt), wrap);

type Prf = { prf?: { results?: { first?: ArrayBuffer } } };

/** What a passkey of this device answers to `salt`; null where the browser or the authenticator cannot. Asks its owner. */
async function prf(credentialId: Uint8Array<ArrayBuffer>, salt: Uint8Array<ArrayBuffer>): Promise<ArrayBuffer | null> {
  const answer = await navigator.credentials.get({
    publicKey: {
      challenge: random(32),
      allowCredentials: [{ type: "public-key", id: credentialId }],
      userVerification: "required",
      extensions: { prf: { eval: { first: salt } } } as AuthenticationExtensionsClientInputs,
    },
  });
  const results = (answer as PublicKeyCredential | null)?.getClientExtensionResults() as Prf | undefined;
  return results?.prf?.results?.first ?? null;
}

/** Wrap by a passkey; null where it gives no secret. */
export async function wrapByPasskey(
  bytes: Uint8Array<ArrayBuffer>,
  credentialId: Uint8Array<ArrayBuffer>,
): Promise<PasskeyWrap | null> {
  const salt = random(32);
  const secret = await prf(credentialId, salt);
  if (secret === null) return null;
  return { kind: "passkey", credentialId, ...(await sealed(await secretKey(secret), bytes, salt)) };
}

export async function unwrapByPasskey(wrap: PasskeyWrap): Promise<Uint8Array<ArrayBuffer> | null> {
  const secret = await prf(wrap.credentialId, wrap.salt);
  return secret === null ? null : opened(await secretKey(secret), wrap);
}
