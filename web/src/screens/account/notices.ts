/** Security notices of one's account, and their words. */
import { queryOptions } from "@tanstack/react-query";
import { api, type Schema, take } from "../../api/client";

export const noticesQuery = queryOptions({
  queryKey: ["me", "notices"],
  queryFn: () => take(api.GET("/api/me/notices")),
  staleTime: 60_000,
});

export const noticeWords: Record<Schema["Notice"]["kind"], string> = {
  new_device: "Signed in on a new device",
  factor_on: "Two-step verification turned on",
  factor_off: "Two-step verification turned off",
  passkey_added: "Passkey added",
  passkey_removed: "Passkey removed",
  codes_stopped: "Codes turned off after ten wrong ones: someone may know your password",
  password_changed: "Password changed",
  pin_set: "PIN changed",
};
