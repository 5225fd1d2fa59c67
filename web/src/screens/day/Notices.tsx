/** Security events of the account that its owner has not dismissed yet: at the top of the day, where work begins. */
import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, take } from "../../api/client";
import { clock, dateOf } from "../../shared/words";
import { noticesQuery, noticeWords } from "../account/notices";
import css from "./DayScreen.module.css";

const MOST = 3;

export function Notices() {
  const queries = useQueryClient();
  const notices = useQuery(noticesQuery);
  const dismiss = useMutation({
    mutationFn: () => take(api.POST("/api/me/notices/dismiss")),
    onSuccess: () => queries.invalidateQueries(noticesQuery),
  });
  const unseen = notices.data?.filter((notice) => notice.unseen) ?? [];
  if (unseen.length === 0) return null;
  return (
    <section className={css.notices} aria-label="Security notices">
      <ul>
        {unseen.slice(0, MOST).map((notice) => (
          <li key={notice.id}>
            <strong>{noticeWords[notice.kind]}</strong>
            {notice.device && `, ${notice.device}`}
            {notice.address && ` (${notice.address})`}, {dateOf(notice.at)} {clock(notice.at)}
          </li>
        ))}
        {unseen.length > MOST && <li>and {unseen.length - MOST} more under Your account</li>}
      </ul>
      <p>
        If this was not you, change your password and sign out other devices under{" "}
        <Link to="/account">Your account</Link>.
      </p>
      <Button variant="default" size="compact-md" loading={dismiss.isPending} onClick={() => dismiss.mutate()}>
        Dismiss
      </Button>
    </section>
  );
}
