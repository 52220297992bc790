import type { Schemas } from "../api/client";
import { ChooseClip, OnItsWay } from "../ui/OnItsWay";
import { useSend, type Send } from "../ui/useSend";

const STATES: Record<Schemas["ClipBack"]["state"], string> = {
  arriving: "did not arrive whole yet. Choose the same file again to go on",
  waits: "has arrived and waits to be looked at",
  ready: "has arrived; your coach can see it",
  unreadable: "has arrived, but cannot be judged",
};

/** A clip of the next try, back to the coach; it goes on by itself where the connection breaks. */
export function ClipBack({ sent, coach, onClip }: { sent: Schemas["ClipBack"][]; coach: string; onClip?: Send }) {
  const sending = useSend();
  return (
    <section className="no-print grid gap-1.5">
      <h2 className="text-lg">A clip back to {coach || "your coach"}</h2>
      {sent.map((x) => (
        <p key={x.run} className="rounded bg-tint px-3 py-1.5">
          {x.name} {STATES[x.state]}
          {x.problem ? `: ${x.problem}` : "."}
        </p>
      ))}
      {onClip && sending.share === null && (
        <>
          <p className="text-sm text-soft">
            Filmed as before: from the same side, the whole run, and you not too small. It is judged against this page.
          </p>
          <ChooseClip label="Your clip" onFile={(file) => void sending.send(onClip, file)} />
        </>
      )}
      <OnItsWay sending={sending} />
    </section>
  );
}
