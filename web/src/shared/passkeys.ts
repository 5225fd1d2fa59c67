/** Passkeys in the browser: made and shown with the challenges that the server gives out. */
import { api, type Schema, take } from "../api/client";

/** Whether this browser, at this address, can use passkeys. */
export const canUsePasskeys = (): boolean =>
  typeof PublicKeyCredential !== "undefined" &&
  "parseCreationOptionsFromJSON" in PublicKeyCredential &&
  window.isSecureContext &&
  !/^[\d.]+$|^\[/.test(location.hostname); // an address in figures is no site that a passkey could belong to

/** What the user of an authenticator did not want, or what it could not do, in a sentence. */
export const passkeyProblem = (error: unknown): string | null =>
  error instanceof DOMException ? "The passkey was not used. Try again, or use your password." : null;

type Made = { token: string; credential: Record<string, unknown>; id: Uint8Array<ArrayBuffer> };

/** Ask the authenticator of this device for a new passkey. */
export async function makePasskey(password: string): Promise<Made> {
  const challenge = await take(api.POST("/api/me/passkeys/challenge", { body: { password } }));
  const options = PublicKeyCredential.parseCreationOptionsFromJSON(
    challenge.options as unknown as PublicKeyCredentialCreationOptionsJSON,
  );
  options.extensions = { ...options.extensions, prf: {} } as AuthenticationExtensionsClientInputs;
  const made = (await navigator.credentials.create({ publicKey: options })) as PublicKeyCredential;
  return { token: challenge.token, credential: { ...made.toJSON() }, id: new Uint8Array(made.rawId) };
}

/** Show a passkey of this site to the server's challenge. */
export async function showPasskey(): Promise<Schema["PasskeyAnswer"]> {
  const challenge = await take(api.POST("/api/sign-in/challenge"));
  const options = PublicKeyCredential.parseRequestOptionsFromJSON(
    challenge.options as unknown as PublicKeyCredentialRequestOptionsJSON,
  );
  const shown = (await navigator.credentials.get({ publicKey: options })) as PublicKeyCredential;
  return { token: challenge.token, credential: { ...shown.toJSON() } };
}
