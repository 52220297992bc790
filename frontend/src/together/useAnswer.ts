import { useRef, useState } from "react";

import { api, need, type Schemas } from "../api/client";

/** What goes to all. */
export interface Common {
  text: string;
  cue: string;
  again: string;
  lessons: string[];
  telling: "own" | "none" | number;
}

/** What became of one of them. */
export interface Answered {
  approved: boolean;
  path: string | null;
  problem: string;
}

/** Answers runs one after the other; it can be stopped between two, and what is done stays. */
export function useAnswer() {
  const [came, setCame] = useState<Record<number, Answered>>({});
  const [now, setNow] = useState<{ done: number; of: number } | null>(null);
  const stopped = useRef(false);
  const start = async (
    runs: Schemas["TogetherRun"][],
    fault: string,
    common: Common,
    approve: boolean,
  ): Promise<boolean> => {
    stopped.current = false;
    let all = true;
    for (const [done, r] of runs.entries()) {
      setNow({ done, of: runs.length });
      let got: Answered;
      try {
        got = await one(r, fault, common, approve);
      } catch (e) {
        all = false;
        got = { approved: false, path: null, problem: (e as Error).message };
      }
      setCame((was) => ({ ...was, [r.run]: got }));
      if (stopped.current) {
        all = false;
        break;
      }
    }
    setNow(null);
    return all;
  };
  return {
    came,
    start,
    busy: now !== null,
    done: now?.done ?? 0,
    of: now?.of ?? 0,
    stop: () => {
      stopped.current = true;
    },
  };
}

async function one(r: Schemas["TogetherRun"], fault: string, common: Common, approve: boolean): Promise<Answered> {
  const params = { path: { run: r.run } };
  const before = await need(api.GET("/api/runs/{run}/script", { params }));
  const main = before.prescription.main;
  // It may have been judged anew since the group was put together; what is written to all would then be about another thing.
  if (main?.fault !== fault)
    throw new Error(
      `Nothing was written: the main thing is ${main ? `“${main.title}”` : "none"} by now. Load the page again.`,
    );
  const has = before.lessons.map((x) => x.fault);
  const script = await need(
    api.PATCH("/api/runs/{run}/script", {
      params,
      body: {
        ...(common.text ? { add_text: common.text } : {}),
        ...(common.cue ? { cue: common.cue } : {}),
        ...(common.again ? { retest_on: common.again } : {}),
        ...(common.lessons.length ? { lessons: [...new Set([...has, ...common.lessons])] } : {}),
        ...(common.telling === "own" ? {} : { with_telling: common.telling !== "none" }),
      },
    }),
  );
  // Who was told already keeps what was told to them.
  if (typeof common.telling === "number" && common.telling !== r.run && !r.told)
    await need(api.POST("/api/runs/{run}/telling/from", { params, body: { run: common.telling } }));
  if (!approve) return { approved: false, path: null, problem: "" };
  await need(
    api.POST("/api/runs/{run}/script/approve", {
      params,
      body: {
        was: {
          cue: script.prescription.main?.cue ?? "",
          message: script.message,
          retest_on: script.retest_on,
          others: script.others,
          lessons: script.lessons.map((x) => x.fault),
        },
      },
    }),
  );
  if (!script.may_share) return { approved: true, path: null, problem: "" };
  const sent = await need(api.POST("/api/runs/{run}/script/share", { params }));
  return { approved: true, path: sent.share?.path ?? null, problem: "" };
}
