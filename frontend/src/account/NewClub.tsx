import { useMutation } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, Problem } from "../api/client";
import { Field, Input } from "../ui/parts";
import { JoinFields, type Joining } from "./JoinFields";
import { Sheet } from "./Sheet";

/** A new club and its first owner. */
export function NewClub() {
  const [club, setClub] = useState("");
  const [code, setCode] = useState("");
  const make = useMutation({
    mutationFn: (said: Joining) => need(api.POST("/api/new-club", { body: { ...said, club, code } })),
  });
  if (make.isSuccess)
    return (
      <Sheet title={club} about="The club is made, and you are its owner. Invite the others on the Club page.">
        <Link to="/login" search={{}} className="underline">
          Log in
        </Link>
      </Sheet>
    );
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  return (
    <Sheet title="A new club" about="For whoever has the word for it from those who run this server.">
      <Field label="Name of the club" error={wrong.club}>
        {(id) => <Input id={id} required maxLength={120} value={club} onChange={(e) => setClub(e.target.value)} />}
      </Field>
      <Field label="The word for new clubs" error={wrong.code}>
        {(id) => (
          <Input
            id={id}
            type="password"
            required
            maxLength={200}
            autoComplete="off"
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
        )}
      </Field>
      <JoinFields
        label="Make the club"
        busy={make.isPending}
        error={make.error?.message}
        fields={wrong}
        onJoin={(said) => make.mutate(said)}
      />
    </Sheet>
  );
}
