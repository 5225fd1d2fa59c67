/** The person's screen: its code to type or scan, whether they have joined, and ending it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, BACKGROUND, take } from "../../api/client";
import { ErrorPanel } from "../../shared/parts";
import { OnThisMachine, Square } from "../../shared/Square";
import { BackToStop } from "./BackToStop";
import css from "./TreatScreen.module.css";

const LOOK_MS = 2000;

export function TheirScreen({ visitId, close }: { visitId: string; close: () => void }) {
  const queries = useQueryClient();
  const path = { params: { path: { visit_id: visitId } } };
  const standing = useQuery({
    queryKey: ["visit", visitId, "own-say"],
    queryFn: () => take(api.GET("/api/visits/{visit_id}/own-say", { ...path, ...BACKGROUND })),
    refetchInterval: ({ state }) => (state.data?.joined ? false : LOOK_MS),
  });
  const again = () => queries.invalidateQueries({ queryKey: ["visit", visitId, "own-say"] });
  const offer = useMutation({
    mutationFn: () => take(api.POST("/api/visits/{visit_id}/own-say", path)),
    onSuccess: again,
  });
  const end = useMutation({
    mutationFn: () => take(api.POST("/api/visits/{visit_id}/own-say/end", path)),
    onSuccess: () => {
      offer.reset();
      return again();
    },
  });
  const given = offer.data;
  const joined = standing.data?.joined ?? false;
  return (
    <section role="alertdialog" aria-label="Their own screen" className={css.change} data-choices>
      <h2>Their own screen</h2>
      {(offer.isError || end.isError) && <ErrorPanel error={offer.error ?? end.error} />}
      {joined ? (
        <p role="status">Connected. Their screen closes when the session ends.</p>
      ) : given ? (
        <div className={css.code}>
          <p>
            <b>{given.code.replace(/(....)(....)/, "$1 $2")}</b>
            <span>at {given.address.replace(/^https?:\/\//, "")}, within 15 minutes</span>
          </p>
          <Square svg={given.qr} label="QR code with the address and the code" />
          <OnThisMachine address={given.address} />
        </div>
      ) : (
        <p>
          For the person's phone or a second screen: a breathing guide, soreness, Lighter and Stop. It shows nothing
          else.
        </p>
      )}
      <div>
        {!joined && (
          <button type="button" className={css.now} disabled={offer.isPending} onClick={() => offer.mutate()}>
            {given ? "Another code" : "Show a code"}
          </button>
        )}
        {(joined || given) && (
          <button type="button" disabled={end.isPending} onClick={() => end.mutate()}>
            End their screen
          </button>
        )}
      </div>
      <BackToStop close={close} />
    </section>
  );
}
