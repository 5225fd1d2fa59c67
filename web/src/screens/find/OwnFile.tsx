/** A practice's own points and areas as a file: out, and in again (all of it, or nothing and the reason). */
import { Button, FileButton } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ApiError, api, type Schema, take } from "../../api/client";
import { refresh } from "../../api/queries";
import { ErrorPanel } from "../../shared/parts";
import css from "./FindScreen.module.css";

const NO_JSON = { code: "invalid", where: "", details: [] };

async function readPack(file: File): Promise<Schema["AtlasPack"]> {
  try {
    return JSON.parse(await file.text());
  } catch {
    throw new ApiError(422, { ...NO_JSON, message: `${file.name} is not a JSON file. Nothing was imported.` });
  }
}

export function OwnFile({ empty }: { empty: boolean }) {
  const queries = useQueryClient();
  const takeIn = useMutation({
    mutationFn: async (file: File) => take(api.POST("/api/atlas/file", { body: await readPack(file) })),
    onSuccess: async (taken) => {
      await refresh(queries, ["atlas"]);
      await refresh(queries, ["person"]);
      notifications.show({ message: `${taken.added.length} added, ${taken.changed.length} changed.` });
    },
  });
  return (
    <div className={css.own}>
      {takeIn.isError && <ErrorPanel error={takeIn.error} />}
      {!empty && (
        <a href="/api/atlas/file?own=true" download>
          Export to a file
        </a>
      )}
      <FileButton accept="application/json,.json" onChange={(file) => file && takeIn.mutate(file)}>
        {(props) => (
          <Button variant="default" size="compact-sm" loading={takeIn.isPending} {...props}>
            Import from a file
          </Button>
        )}
      </FileButton>
    </div>
  );
}
