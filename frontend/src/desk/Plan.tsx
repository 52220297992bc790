import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, type Discipline, type Schemas } from "../api/client";
import { desk } from "../api/queries";
import { day } from "../ui/days";
import { Dialog } from "../ui/Dialog";
import { Button, Field, Input } from "../ui/parts";
import { plain } from "../ui/places";
import { Draw } from "./Draw";

type Desk = Schemas["Desk"];
const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** Minutes as they are said: "35 min", "2 h 10 min". */
const long = (min: number) => {
  const whole = Math.round(min);
  return whole < 60 ? `${whole} min` : `${Math.floor(whole / 60)} h${whole % 60 ? ` ${whole % 60} min` : ""}`;
};

/** What waits against the minutes there are. */
export function Plan({ plan, books }: { plan: Desk | undefined; books: Discipline[] | undefined }) {
  const [open, setOpen] = useState(false);
  const [drawing, setDrawing] = useState(false);
  if (!plan || plan.waiting === 0) return null;
  return (
    <section
      aria-label="Time"
      className="flex flex-wrap items-center gap-x-4 gap-y-2 rounded-lg border border-line bg-sheet px-4 py-2"
    >
      <p>
        <b>{plan.waiting} wait</b>: about {long(plan.needed_min)}{" "}
        <span className="text-soft">
          ({long(plan.needed_low_min)} to {long(plan.needed_high_min)})
        </span>
        {plan.done_on
          ? `, answered by ${day(plan.done_on)}`
          : ", not to be answered within a year in the minutes there are"}
        .{" "}
        {(!plan.week_said || Object.values(plan.minutes).some((m) => m.n === 0)) && (
          <span className="text-soft">Partly assumed: see Minutes.</span>
        )}
      </p>
      {plan.late_count > 0 && (
        <p className="font-semibold text-bad">
          {plan.late_count} will be later than {plan.late_count === 1 ? "its day" : "their days"}.
        </p>
      )}
      <span className="ml-auto flex gap-2">
        <Button onClick={() => setOpen(true)}>Minutes</Button>
        <Button onClick={() => setDrawing(true)}>Draw</Button>
      </span>
      <Dialog
        title="Minutes"
        about="What waits is laid over the minutes that you have, soonest due first, then the oldest."
        open={open}
        onOpen={setOpen}
        wide
      >
        <Minutes plan={plan} books={books} />
      </Dialog>
      <Draw open={drawing} onOpen={setDrawing} />
    </section>
  );
}

function Minutes({ plan, books }: { plan: Desk; books: Discipline[] | undefined }) {
  const title = (id: string) => books?.find((b) => b.id === id)?.title ?? plain(id);
  const all = Object.entries(plan.minutes);
  const assumed = all.filter(([, m]) => m.n === 0);
  const client = useQueryClient();
  const [week, setWeek] = useState(plan.week.map(String));
  const keep = useMutation({
    mutationFn: () =>
      need(api.PUT("/api/desk/week", { body: { minutes: week.map((m) => Number(m.replace(",", ".")) || 0) } })),
    onSuccess: (fresh) => client.setQueryData(desk.queryKey, fresh),
  });
  return (
    <div className="grid gap-4">
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate();
        }}
      >
        <h3 className="font-semibold">Minutes you have for answering</h3>
        {!plan.week_said && <p className="text-sm text-soft">Assumed until you say it: an hour on weekdays.</p>}
        <div className="grid grid-cols-2 gap-2 sm:grid-cols-4">
          {DAYS.map((name, k) => (
            <Field key={name} label={name}>
              {(id) => (
                <Input
                  id={id}
                  inputMode="decimal"
                  value={week[k]}
                  onChange={(e) => setWeek(week.map((m, i) => (i === k ? e.target.value : m)))}
                />
              )}
            </Field>
          ))}
        </div>
        {keep.error && (
          <p role="alert" className="text-bad">
            {keep.error.message}
          </p>
        )}
        <Button type="submit" tone="main" className="justify-self-start" disabled={keep.isPending}>
          Keep
        </Button>
      </form>
      <section>
        <h3 className="font-semibold">How long an answer takes</h3>
        <ul>
          {all
            .filter(([, m]) => m.n > 0)
            .map(([d, m]) => (
              <li key={d}>
                {title(d)}: {m.each.toFixed(0)} min{" "}
                <span className="text-soft">
                  (half of them {m.low.toFixed(0)} to {m.high.toFixed(0)} min; from {m.n} of yours, Bench opened to
                  Script approved)
                </span>
              </li>
            ))}
          {assumed.length > 0 && (
            <li>
              {assumed[0]![1].each.toFixed(0)} min{" "}
              <span className="text-soft">
                (assumed, {assumed[0]![1].low.toFixed(0)} to {assumed[0]![1].high.toFixed(0)}: fewer than 4 of your
                answers are known)
              </span>
              : {assumed.map(([d]) => title(d)).join(", ")}
            </li>
          )}
        </ul>
      </section>
      <p>
        {plan.next_on
          ? `A clip that comes now would be answered on ${day(plan.next_on)}: promise no earlier day.`
          : "A clip that comes now would not be answered within a year: promise no day."}
      </p>
      {plan.late_count > 0 && (
        <section>
          <h3 className="font-semibold text-bad">Later than promised</h3>
          <ul>
            {plan.late.map((x) => (
              <li key={x.run}>
                <Link to="/runs/$run" params={{ run: x.run }} className="underline decoration-line underline-offset-4">
                  {x.rider}
                </Link>
                : due {day(x.due)}, {x.on ? `answered on ${day(x.on)}` : "not within a year"}
              </li>
            ))}
          </ul>
          {plan.late_count > plan.late.length && <p>and {plan.late_count - plan.late.length} more.</p>}
        </section>
      )}
    </div>
  );
}
