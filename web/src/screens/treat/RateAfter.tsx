/** Before they sit up: the same complaints and acts as before the session, in the same order, by digits or by touch. */
import { useQuery } from "@tanstack/react-query";
import { useMay } from "../../api/practice";
import { complaintsQuery } from "../../api/queries";
import { useKeys } from "../../shared/keys";
import { ErrorPanel } from "../../shared/parts";
import { type Rated, RateLine, ratedOf, ratingAt, useRate } from "../complaints/rating";
import css from "./TreatScreen.module.css";

type Props = { personId: string; visitId: string };

export function RateAfter({ personId, visitId }: Props) {
  const complaints = useQuery(complaintsQuery(personId));
  const writes = useMay("write_health");
  const open = (complaints.data ?? []).filter((one) => !one.closed_on).flatMap(ratedOf);
  const before = open.filter((one) => ratingAt(one.ratings, "before", visitId) !== null);
  const asked = before.length > 0 ? before : open;
  if (!writes || asked.length === 0) return null;
  return <Asked asked={asked} personId={personId} visitId={visitId} />;
}

function Asked({ asked, personId, visitId }: Props & { asked: Rated[] }) {
  const rate = useRate(personId, "after", visitId);
  const now = asked.find((one) => ratingAt(one.ratings, "after", visitId) === null);
  const say = (value: number) => now && !rate.isPending && rate.mutate({ of: now, value });
  useKeys({
    ...Object.fromEntries(Array.from({ length: 10 }, (_, value) => [`Digit${value}`, () => void say(value)])),
    "shift+Digit0": () => void say(10),
  });
  return (
    <section className={css.rateAfter} aria-label="Rate after">
      <h2>{now ? "Before they sit up, ask: how is it now?" : "All rated."}</h2>
      {rate.isError && <ErrorPanel error={rate.error} />}
      {asked.map((one) => {
        const was = ratingAt(one.ratings, "before", visitId);
        return (
          <div key={one.id} data-now={one === now || undefined}>
            <p>
              {one.words}
              {was !== null && <small>{was} before</small>}
            </p>
            <RateLine of={one} moment="after" visitId={visitId} personId={personId} />
          </div>
        );
      })}
    </section>
  );
}
