import { Ellipsis } from "lucide-react";
import { DropdownMenu as Menu } from "radix-ui";
import { useState } from "react";

import type { Prescription, Schemas } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { ChooseWords } from "./ChooseWords";
import { DropSeveral } from "./DropSeveral";

export type Say = (edit: Schemas["EditRequest"]) => void;
const ITEM = "cursor-pointer rounded px-3 py-1.5 outline-none data-[highlighted]:bg-tint data-[disabled]:text-soft";

/** The coach's word on one finding: the main thing, given too, with which cue and drill, or dropped. */
export function FindingMenu({
  runId,
  version,
  fault,
  title,
  prescription,
  word,
  onSay,
}: {
  runId: number;
  version: string;
  fault: string;
  title: string;
  prescription: Prescription;
  word: Schemas["Word"];
  onSay: Say;
}) {
  const [open, setOpen] = useState<"" | "words" | "drop">("");
  const main = prescription.main?.fault === fault;
  const given = !main && prescription.cues.some((c) => c.fault === fault);
  return (
    <>
      <Menu.Root>
        <Menu.Trigger
          aria-label={`Your word on: ${title}`}
          className="grid size-7 shrink-0 place-items-center rounded hover:bg-tint"
        >
          <Ellipsis aria-hidden className="size-4" />
        </Menu.Trigger>
        <Menu.Portal>
          <Menu.Content
            align="end"
            className="z-50 min-w-44 rounded border border-line bg-sheet p-1 text-ink shadow-lg"
          >
            {word.main === fault ? (
              <Menu.Item className={ITEM} onSelect={() => onSay({ kind: "choose", fault: "" })}>
                Leave the main thing to the software
              </Menu.Item>
            ) : (
              !main && (
                <Menu.Item className={ITEM} onSelect={() => onSay({ kind: "choose", fault })}>
                  Make this the main thing
                </Menu.Item>
              )
            )}
            {!main &&
              (word.also.includes(fault) ? (
                <Menu.Item className={ITEM} onSelect={() => onSay({ kind: "also", fault, on: false })}>
                  Keep it for later
                </Menu.Item>
              ) : (
                <Menu.Item className={ITEM} disabled={given} onSelect={() => onSay({ kind: "also", fault, on: true })}>
                  {given ? "Given already" : "Give it too"}
                </Menu.Item>
              ))}
            <Menu.Item className={ITEM} onSelect={() => setOpen("words")}>
              Cue and drill…
            </Menu.Item>
            <Menu.Item className={`${ITEM} text-bad`} onSelect={() => setOpen("drop")}>
              Drop…
            </Menu.Item>
          </Menu.Content>
        </Menu.Portal>
      </Menu.Root>
      <Dialog
        title={`Cue and drill: ${title}`}
        open={open === "words"}
        onOpen={(o) => setOpen(o ? "words" : "")}
        keep
        wide
      >
        <ChooseWords {...{ runId, version, fault, word }} onSay={onSay} onDone={() => setOpen("")} />
      </Dialog>
      <Dialog
        title="Drop findings"
        about="They are judged as if they could not be there; what they explained is looked at again."
        open={open === "drop"}
        onOpen={(o) => setOpen(o ? "drop" : "")}
      >
        <DropSeveral
          {...{ runId, version }}
          findings={prescription.findings}
          first={fault}
          onDrop={(faults, reason) => {
            onSay({ kind: "drop", faults, reason });
            setOpen("");
          }}
        />
      </Dialog>
    </>
  );
}
