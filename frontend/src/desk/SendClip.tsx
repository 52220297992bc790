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
  const send = async (run: number, file: File) => {
    setProblem("");
    setShare(0);
    stop.current = new AbortController();
    try {
      await upload(run, file, setShare, stop.current.signal);
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

export function SendClip({ run, open, onOpen }: { run: Run; open: boolean; onOpen: (open: boolean) => void }) {
  const { share, problem, send, cancel } = useSending();
  const [file, setFile] = useState<File | null>(null);
  return (
    <Dialog title={`The clip of ${run.rider.name}'s run`} open={open} onOpen={onOpen}>
      <form
        className="grid gap-4"
        onSubmit={async (e) => {
          e.preventDefault();
          if (file && (await send(run.id, file))) onOpen(false);
        }}
      >
        <Field label="Clip" hint="MP4, MOV or WebM, as the camera made it" error={problem}>
          {(id) => <Input id={id} type="file" accept={CLIP_TYPES} required onChange={(e) => setFile(e.target.files?.[0] ?? null)} />}
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
