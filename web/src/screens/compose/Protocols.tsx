/** The practice's protocols: this score kept without the person, shared as a file, applied to whoever is here. */
import { Button, FileButton, Modal } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ApiError, api, type Schema, take } from "../../api/client";
import { protocolsQuery, refresh } from "../../api/queries";
import { KeepAs } from "../../shared/KeepAs";
import { Empty, ErrorPanel, Waiting } from "../../shared/parts";
import css from "./ComposeScreen.module.css";
import type { ScoreOfVisit } from "./useScore";

type Props = { visitId: string; score: ScoreOfVisit; hasScore: boolean; onClose: () => void };

export function Protocols({ visitId, score, hasScore, onClose }: Props) {
  const queries = useQueryClient();
  const protocols = useQuery(protocolsQuery);
  const changed = () => void refresh(queries, protocolsQuery.queryKey);
  const keep = useMutation({
    mutationFn: (name: string) => take(api.POST("/api/protocols", { body: { visit_id: visitId, name, note: "" } })),
    onSuccess: changed,
  });
  const read = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      return take(api.POST("/api/protocols/import", { body: parsed(text, file.name) }));
    },
    onSuccess: changed,
  });
  const drop = useMutation({
    mutationFn: (protocol_id: string) =>
      take(api.DELETE("/api/protocols/{protocol_id}", { params: { path: { protocol_id } } })),
    onSuccess: changed,
  });
  const failure = keep.error ?? read.error ?? drop.error;
  return (
    <Modal opened onClose={onClose} title="Protocols" size="lg">
      {hasScore && (
        <KeepAs
          label="Name of the protocol"
          placeholder="Rods overhead"
          button="Save this score"
          loading={keep.isPending}
          onKeep={(name, done) => keep.mutate(name, { onSuccess: done })}
        />
      )}
      {failure && <ErrorPanel error={failure} />}
      {protocols.isPending && <Waiting for="Loading protocols" />}
      {protocols.isError && <ErrorPanel error={protocols.error} />}
      {protocols.data?.length === 0 && (
        <Empty>No protocols yet. Save a score here to apply it to anyone, within their limits.</Empty>
      )}
      <ul className={css.rows}>
        {protocols.data?.map(({ id, protocol }) => (
          <li key={id}>
            <b>{protocol.name}</b>
            <span>
              {protocol.minutes} min, {protocol.stops.length} stops{protocol.affected && `, ${protocol.affected} side`}
            </span>
            <Button
              size="xs"
              aria-label={`Apply ${protocol.name} here`}
              onClick={() => score.apply.mutate(id, { onSuccess: onClose })}
            >
              Apply here
            </Button>
            <Button
              size="xs"
              variant="default"
              component="a"
              aria-label={`File of ${protocol.name}`}
              href={`/api/protocols/${id}/file`}
            >
              File
            </Button>
            <Button size="xs" variant="default" aria-label={`Remove ${protocol.name}`} onClick={() => drop.mutate(id)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <FileButton accept="application/json" onChange={(file) => file && read.mutate(file)}>
        {(props) => (
          <Button variant="default" loading={read.isPending} {...props}>
            Import one from a file
          </Button>
        )}
      </FileButton>
    </Modal>
  );
}

/** The content of a file; what is not JSON is an error that says so. */
function parsed(text: string, name: string): Schema["Protocol"] {
  try {
    return JSON.parse(text) as Schema["Protocol"];
  } catch {
    throw new ApiError(422, { code: "invalid", message: `${name} is not a protocol file.`, where: "", details: [] });
  }
}
