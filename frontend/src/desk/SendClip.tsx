import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Run } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { Bar, Button, Field, Input } from "../ui/parts";
import { forget, sendTo, useSendingTo } from "./sendings";

export const CLIP_TYPES = ".mp4,.mov,.m4v,.mkv,.webm,.avi";
export const CLIP_HINT = "MP4, MOV, MKV, WebM or AVI, as the camera made it";

/** Send a file to a run and tell how far it is; the state outlives a problem so that nothing is typed twice. */
export function useSending(run: number | null) {
  const client = useQueryClient();
  const now = useSendingTo(run);
  const send = async (to: number, file: File, what: "upload" | "tracks" = "upload") => {
    const arrived = await sendTo(to, file, what);
    void client.invalidateQueries({ queryKey: ["runs"] });
    return arrived;
  };
  return {
    share: now?.share ?? null,
    problem: now?.problem ?? "",
    elsewhere: now?.elsewhere ?? null,
    send,
    label: now?.waiting ? "Waiting for the connection" : "Sending",
    cancel: () => now?.cancel(),
  };
}

/** Where the very clip is that was refused, and the way to use it here too. */
export function Elsewhere({ run, into, onUsed }: { run: number | null; into?: number | null; onUsed?: () => void }) {
  const client = useQueryClient();
  const use = useMutation({
    mutationFn: () =>
      need(api.POST("/api/runs/{id}/same_clip", { params: { path: { id: into! } }, body: { run: run! } })),
    onSuccess: () => {
      forget(into!);
      void client.invalidateQueries({ queryKey: ["runs"] });
      onUsed?.();
    },
  });
  if (run === null) return null;
  return (
    <span className="flex flex-wrap items-center gap-3">
      <a href={`/runs/${run}`} className="w-fit underline">
        Open that run
      </a>
      {into != null && (
        <Button onClick={() => use.mutate()} disabled={use.isPending}>
          Use its clip here too
        </Button>
      )}
      {use.error && (
        <span role="alert" className="text-sm text-bad">
          {use.error.message}
        </span>
      )}
    </span>
  );
}

interface Props {
  run: Run;
  open: boolean;
  onOpen: (open: boolean) => void;
}

export const SendClip = (props: Props) => (
  <SendFile
    {...props}
    what="upload"
    title={`The clip of ${props.run.rider.name}'s run`}
    label="Clip"
    hint={CLIP_HINT}
    accept={CLIP_TYPES}
  />
);

/** Tracks made by another program or by hand, with the gear and scene that the tracker does not follow. */
export const SendTracks = (props: Props) => (
  <SendFile
    {...props}
    what="tracks"
    title={`Tracks of ${props.run.rider.name}'s run`}
    label="Tracks"
    hint="tracks/1 as JSON, CSV or Parquet, COCO keypoints or C3D, of this very clip"
    accept=".json,.csv,.parquet,.c3d"
  />
);

function SendFile({
  run,
  open,
  onOpen,
  what,
  title,
  label,
  hint,
  accept,
}: Props & { what: "upload" | "tracks"; title: string; label: string; hint: string; accept: string }) {
  const { share, problem, elsewhere, send, label: sending, cancel } = useSending(run.id);
  const [file, setFile] = useState<File | null>(null);
  return (
    <Dialog title={title} open={open} onOpen={onOpen}>
      <form
        className="grid gap-4"
        onSubmit={(e) => {
          e.preventDefault();
          if (file) void send(run.id, file, what).then((done) => done && onOpen(false));
        }}
      >
        <Field label={label} hint={hint} error={problem}>
          {(id) => (
            <Input
              id={id}
              type="file"
              accept={accept}
              required
              onChange={(e) => setFile(e.target.files?.[0] ?? null)}
            />
          )}
        </Field>
        <Elsewhere run={elsewhere} into={run.id} onUsed={() => onOpen(false)} />
        {share !== null && <Bar share={share} label={sending} />}
        <div className="flex justify-end gap-2">
          {share !== null && <Button onClick={cancel}>Cancel</Button>}
          <Button type="submit" tone="main" disabled={!file || share !== null}>
            Send
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
