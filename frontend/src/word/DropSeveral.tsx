import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Finding } from "../api/client";
import { choices } from "../api/queries";
import { Button, Field, Input, Select } from "../ui/parts";

const OTHER = "other";

/** Findings dropped at once, with one reason: one of the usual ones, or the coach's own. */
export function DropSeveral({
  runId,
  version,
  findings,
  first,
  onDrop,
}: {
  runId: number;
  version: string;
  findings: Finding[];
  first: string;
  onDrop: (faults: string[], reason: string) => void;
}) {
  const usual = useQuery(choices(runId, version)).data?.reasons ?? [];
  const [faults, setFaults] = useState([first]);
  const [reason, setReason] = useState("");
  const [own, setOwn] = useState("");
  const said = reason === OTHER ? own.trim() : reason;
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (faults.length && said) onDrop(faults, said);
      }}
    >
      <fieldset className="grid max-h-60 gap-1 overflow-auto">
        <legend className="mb-1 font-semibold">Findings</legend>
        {findings.map((f) => (
          <label key={f.fault} className="flex min-h-7 items-center gap-2">
            <input
              type="checkbox"
              checked={faults.includes(f.fault)}
              onChange={(e) => setFaults(e.target.checked ? [...faults, f.fault] : faults.filter((x) => x !== f.fault))}
            />
            {f.title}
          </label>
        ))}
      </fieldset>
      <Field label="Reason">
        {(id) => (
          <Select id={id} required value={reason} onChange={(e) => setReason(e.target.value)}>
            <option value="">Choose one</option>
            {usual.map((r) => (
              <option key={r}>{r}</option>
            ))}
            <option value={OTHER}>In my own words…</option>
          </Select>
        )}
      </Field>
      {reason === OTHER && (
        <Field label="In your own words">
          {(id) => <Input id={id} required maxLength={300} value={own} onChange={(e) => setOwn(e.target.value)} />}
        </Field>
      )}
      <div className="flex justify-end">
        <Button type="submit" tone="main" disabled={!faults.length || !said}>
          {faults.length === 1 ? "Drop it" : `Drop ${faults.length}`}
        </Button>
      </div>
    </form>
  );
}
