import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";

import { api, need, Problem } from "../api/client";
import { Trouble, Waiting } from "../ui/parts";
import { JoinFields, type Joining } from "./JoinFields";
import { Sheet } from "./Sheet";

const AS = { owner: "an owner", coach: "a coach", helper: "a helper" };

/** Joining a club by its invitation. */
export function Join() {
  const { token } = useParams({ from: "/join/$token" });
  const params = { path: { token } };
  const asked = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => need(api.GET("/api/invitations/{token}", { params })),
    retry: false,
    staleTime: Infinity,
  });
  const [name, setName] = useState("");
  const join = useMutation({
    mutationFn: (body: Joining) => need(api.POST("/api/invitations/{token}", { params, body })),
  });
  if (join.isSuccess)
    return (
      <Sheet title={`Welcome, ${name}`}>
        <Link to="/login" search={{}} className="underline">
          Log in
        </Link>
      </Sheet>
    );
  if (asked.error) return <Trouble error={asked.error} />;
  if (!asked.data) return <Waiting what="Opening the invitation" />;
  const wrong = join.error instanceof Problem ? join.error.fields : {};
  return (
    <Sheet title={asked.data.club} about={`${asked.data.by || "The club"} invites you as ${AS[asked.data.role]}.`}>
      <JoinFields
        busy={join.isPending}
        error={join.error?.message}
        fields={wrong}
        onJoin={(said) => {
          setName(said.name);
          join.mutate(said);
        }}
      />
    </Sheet>
  );
}
