import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { preview as previewQuery } from "../api/queries";
import { Dialog } from "../ui/Dialog";
import { Button, Trouble, Waiting } from "../ui/parts";
import { RiderPage } from "./RiderPage";

/** The rider's page as it would be now, at a phone's width. */
export function Preview({ run }: { run: number }) {
  const [open, setOpen] = useState(false);
  const page = useQuery({ ...previewQuery(run), enabled: open });
  return (
    <>
      <Button onClick={() => setOpen(true)}>As the rider sees it</Button>
      <Dialog title="As the rider sees it" open={open} onOpen={setOpen}>
        {page.data ? (
          <div className="mx-auto max-w-[390px] rounded border border-line bg-paper">
            <RiderPage page={page.data} />
          </div>
        ) : page.error ? (
          <Trouble error={page.error} />
        ) : (
          <Waiting what="Laying it out" />
        )}
      </Dialog>
    </>
  );
}
