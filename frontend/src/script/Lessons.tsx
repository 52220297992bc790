import { X } from "lucide-react";

import type { Discipline, Schemas } from "../api/client";
import { Button, Select } from "../ui/parts";
import { Card } from "./Card";

/** Lesson sheets that go with the Script: a fault as it is explained to anybody. */
export function Lessons({
  run,
  book,
  lessons,
  locked,
  onLessons,
}: {
  run: number;
  book: Discipline | undefined;
  lessons: Schemas["LessonRef"][];
  locked: boolean;
  onLessons: (faults: string[]) => void;
}) {
  const ids = lessons.map((x) => x.fault);
  if (locked && !ids.length) return null;
  const others = Object.entries(book?.faults ?? {}).filter(([id]) => !ids.includes(id));
  return (
    <Card title="Lesson sheets that go with it">
      <ul className="grid gap-0.5">
        {lessons.map((x) => (
          <li key={x.fault} className="flex items-center gap-2">
            <a href={`/api/runs/${run}/script/lessons/${x.fault}`} className="min-h-7 underline">
              {x.title}
            </a>
            {!locked && (
              <Button
                tone="quiet"
                aria-label={`Leave out ${x.title}`}
                onClick={() => onLessons(ids.filter((i) => i !== x.fault))}
              >
                <X aria-hidden className="size-4" />
              </Button>
            )}
          </li>
        ))}
      </ul>
      {!locked && ids.length < MOST && (
        <Select aria-label="Add a lesson sheet" value="" onChange={(e) => onLessons([...ids, e.target.value])}>
          <option value="">Add a lesson sheet…</option>
          {others.map(([id, f]) => (
            <option key={id} value={id}>
              {f.title}
            </option>
          ))}
        </Select>
      )}
    </Card>
  );
}

/** So many sheets go with a Script. */
const MOST = 6;
