import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { disciplines, eyeNext } from "../api/queries";
import { Button, Field, Select, Trouble } from "../ui/parts";
import { Profile } from "./Profile";
import { Session } from "./Session";
import { EXERCISES } from "./types";

/** Training the coach's own eye: five minutes, and what has come of it. */
export function EyePage() {
  const [running, setRunning] = useState(false);
  const [discipline, setDiscipline] = useState(() => localStorage.getItem("eye-discipline") ?? "");
  const [exercise, setExercise] = useState("");
  const books = useQuery(disciplines);
  const ahead = useQuery({
    ...eyeNext({ discipline, exercise, count: 2 }, []),
    // While the first ones are being made it is asked again; then not any more.
    refetchInterval: (q) => (q.state.data && q.state.data.items.length < 1 ? 3000 : false),
    enabled: !running,
  });
  useEffect(() => localStorage.setItem("eye-discipline", discipline), [discipline]);
  if (running && ahead.data)
    return <Session first={ahead.data.items} wanted={{ discipline, exercise }} onEnd={() => setRunning(false)} />;
  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-4">
      <section
        aria-label="Session"
        className="flex flex-wrap items-end gap-3 rounded-lg border border-line bg-sheet p-4"
      >
        <div className="mr-auto basis-full sm:basis-auto">
          <h1 className="text-xl">Eye</h1>
          <p className="text-soft">Five minutes, or twenty looks, at riders whose truth is known.</p>
        </div>
        <div className="grid w-52 max-sm:w-full">
          <Field label="Discipline">
            {(id) => (
              <Select id={id} value={discipline} onChange={(e) => setDiscipline(e.target.value)}>
                <option value="">All fifteen</option>
                {books.data?.map((b) => (
                  <option key={b.id} value={b.id}>
                    {b.title}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        </div>
        <div className="grid w-48 max-sm:w-full">
          <Field label="Exercise">
            {(id) => (
              <Select id={id} value={exercise} onChange={(e) => setExercise(e.target.value)}>
                <option value="">All, in turn</option>
                {Object.entries(EXERCISES).map(([k, title]) => (
                  <option key={k} value={k}>
                    {title}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        </div>
        <Button tone="main" disabled={!ahead.data?.items.length} onClick={() => setRunning(true)}>
          Begin
        </Button>
        {ahead.error && <Trouble error={ahead.error} again={() => void ahead.refetch()} />}
        {ahead.data && (
          <p role="status" className="basis-full text-sm text-soft">
            {ahead.data.ready === 0
              ? ahead.data.making
                ? "The first riders are being simulated. It takes a minute; you need not wait here."
                : "There is nothing of this kind: this discipline has no two sides."
              : `${ahead.data.ready} looks are ready${ahead.data.making ? ", and more are being made" : ""}.`}
          </p>
        )}
      </section>
      <Profile />
    </div>
  );
}
