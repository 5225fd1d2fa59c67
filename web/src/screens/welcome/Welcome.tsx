/** The frame of pages that a one-time link opens, and what they have in common. */
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api, type Schema, take } from "../../api/client";
import { ErrorPanel, Waiting } from "../../shared/parts";
import css from "./Welcome.module.css";

export type LinkIsFor = Schema["LinkIsFor"];

/** The token of a link stands behind the #, where no server on the way writes it down. */
const token = () => window.location.hash.slice(1);

type Props = { kind: LinkIsFor["kind"]; wide?: boolean; children: (link: LinkIsFor, token: string) => ReactNode };

export function Welcome({ kind, wide, children }: Props) {
  const link = useQuery({
    queryKey: ["link", token()],
    queryFn: () => take(api.POST("/api/links/look", { body: { token: token() || "none" } })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <main className={css.page}>
      <div className={`${css.sheet} ${wide ? css.wide : ""}`}>
        <div className={css.mark}>
          <img src="/mark.svg" alt="" width="44" height="44" />
          <h1>Acuthesis</h1>
        </div>
        {link.isPending && <Waiting for="Checking your link" />}
        {link.isError && <ErrorPanel error={link.error} retry={() => void link.refetch()} />}
        {link.data && link.data.kind !== kind && <p>This link is for another page. Open it as it was sent to you.</p>}
        {link.data?.kind === kind && children(link.data, token())}
      </div>
    </main>
  );
}
