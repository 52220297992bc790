import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { upload, type Run } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { Bar, Button, Field, Input } from "../ui/parts";

export const CLIP_TYPES = ".mp4,.mov,.m4v,.webm";

/** Send a clip and tell how far it is; the state outlives a problem so that nothing is typed twice. */
export function useSending() {
  const client = useQueryClient();
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState("");
  const stop = useRef<AbortController | null>(null);
  const send = async (run: number, file: File, what: "upload" | "tracks" = "upload") => {
    setProblem("");
    setShare(0);
    stop.current = new AbortController();
    try {
      await upload(run, file, what, setShare, stop.current.signal);
      return true;
    } catch (e) {
      setProblem((e as Error).message);
      return false;
    } finally {
      setShare(null);
      void client.invalidateQueries({ queryKey: ["runs"] });
    }
  };
  return { share, problem, send, cancel: () => stop.current?.abort() };
}

interface Props {
  run: Run;
  open: boolean;
  onOpen: (open: boolean) => void;
}

export const SendClip = (props: Props) => <SendFile {...props} what="upload" title={`The clip of ${props.run.rider.name}'s run`} label="Clip" hint="MP4, MOV or WebM, as the camera made it" accept={CLIP_TYPES} />;

/** Tracks made by another program or by hand, with the gear and scene that the tracker does not follow. */
export const SendTracks = (props: Props) => <SendFile {...props} what="tracks" title={`Tracks of ${props.run.rider.name}'s run`} label="Tracks" hint="tracks/1 as JSON or CSV, of this very clip" accept=".json,.csv" />;

function SendFile({ run, open, onOpen, what, title, label, hint, accept }: Props & { what: "upload" | "tracks"; title: string; label: string; hint: string; accept: string }) {
  const { share, problem, send, cancel } = useSending();
  const [file, setFile] = useState<File | null>(null);
  return (
    <Dialog title={title} open={open} onOpen={onOpen}>
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          if (file && (await send(run.id, file, what))) onOpen(false);
        }}
      >
        <Field label={label} hint={hint} error={problem}>
          {(id) => <Input id={id} type="file" accept={accept} required onChange={(e) => setFile(e.target.files?.[0] ?? null)} />}
        </Field>
        {share !== null && <Bar share={share} label="Sending" />}
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
