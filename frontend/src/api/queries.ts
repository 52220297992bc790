import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";

import { api, need, problemOf, setCsrf, type Bench, type Schemas } from "./client";
import type { Standing } from "../ui/standing";

export const session = queryOptions({
  queryKey: ["session"],
  queryFn: async ({ signal }) => {
    const who = await need(api.GET("/api/session", { signal }));
    setCsrf(who.csrf);
    return who;
  },
  staleTime: 5 * 60_000,
});

export const clubBook = (discipline: string) =>
  queryOptions({
    queryKey: ["club-book", discipline],
    queryFn: () => need(api.GET("/api/club/book/{discipline}", { params: { path: { discipline } } })),
  });
export const disciplines = queryOptions({
  queryKey: ["disciplines"],
  queryFn: () => need(api.GET("/api/disciplines")),
  staleTime: Infinity,
});

/** A rope as a coach types it, said back in both ways of counting. */
export const rope = (said: string) =>
  queryOptions({
    queryKey: ["rope", said],
    queryFn: () => need(api.GET("/api/rope", { params: { query: { said } } })),
    staleTime: Infinity,
    retry: false,
  });

export const calculators = queryOptions({
  queryKey: ["calculators"],
  queryFn: () => need(api.GET("/api/reckoner")),
  staleTime: Infinity,
});

/** A calculator's answer to what is typed; the last one stands until the next is there. */
export const reckoned = (name: string, said: Record<string, string>, unknown: string) =>
  queryOptions({
    queryKey: ["reckoned", name, said, unknown],
    queryFn: () => need(api.POST("/api/reckoner/{name}", { params: { path: { name } }, body: { said, unknown } })),
    placeholderData: (old) => old,
    staleTime: 60_000,
    retry: false,
  });

/** What a run has for a calculator's fields. */
export const fromRun = (name: string, run: number) =>
  queryOptions({
    queryKey: ["reckoner", name, "from", run],
    queryFn: () => need(api.GET("/api/reckoner/{name}/from/{run}", { params: { path: { name, run } } })),
  });

export const keptReckonings = (of: { run?: number; rider?: number }) =>
  queryOptions({
    queryKey: ["reckonings", of],
    queryFn: () => need(api.GET("/api/reckonings", { params: { query: { ...of, limit: 50 } } })),
  });

/** What the Eye asks next; `leave` are items that are before the coach already. */
export const eyeNext = (wanted: { discipline?: string; exercise?: string; count?: number }, leave: number[]) =>
  queryOptions({
    queryKey: ["eye", "next", wanted, leave],
    queryFn: () => need(api.GET("/api/eye/next", { params: { query: { ...wanted, leave } } })),
    gcTime: 0,
  });

export const eyeProfile = queryOptions({
  queryKey: ["eye", "profile"],
  queryFn: () => need(api.GET("/api/eye/profile")),
});

/** What the coach's own sessions say of how they see a discipline's faults. */
export const eyeHints = (discipline: string) =>
  queryOptions({
    queryKey: ["eye", "hints", discipline],
    queryFn: () => need(api.GET("/api/eye/hints", { params: { query: { discipline } } })),
    staleTime: 5 * 60_000,
  });

const WORKING = new Set(["queued", "working"]);

/** What a list of runs is narrowed to. */
export interface Wanted {
  find?: string;
  discipline?: string;
  removed?: boolean;
  stands?: Standing;
  order?: "due" | "newest";
}

/** How much waits, how long it takes, and what will be late. */
export const desk = queryOptions({ queryKey: ["desk"], queryFn: () => need(api.GET("/api/desk")), staleTime: 30_000 });

/** Whether anything has come or changed: one small answer. */
export const news = queryOptions({
  queryKey: ["news"],
  queryFn: () => need(api.GET("/api/desk/news")),
  staleTime: 0,
  refetchInterval: 15_000,
});

/** Draws of who is answered, the newest first. */
export const draws = queryOptions({ queryKey: ["draws"], queryFn: () => need(api.GET("/api/draws")), staleTime: 0 });

export const runs = (wanted: Wanted = {}, offset = 0) =>
  queryOptions({
    queryKey: ["runs", wanted, offset],
    queryFn: () => need(api.GET("/api/runs", { params: { query: { ...wanted, offset, limit: 50 } } })),
    placeholderData: (old) => old,
  });

/** How far the runs are that are being analysed; asked the more seldom the longer it takes, and not while nobody looks. */
export const busy = (wanted: boolean) =>
  queryOptions({
    queryKey: ["busy"],
    queryFn: () => need(api.GET("/api/runs/busy")),
    enabled: wanted,
    refetchInterval: (q) => Math.min(2000 + 60 * q.state.dataUpdateCount, 5000),
  });

export const isBusy = (run: { state?: string }) => WORKING.has(run.state ?? "");

const PAGE = 200;

/** Every rider of the club, page by page. */
export const riders = queryOptions({
  queryKey: ["riders"],
  queryFn: async () => {
    const first = await need(api.GET("/api/riders", { params: { query: { limit: PAGE } } }));
    const rest = Array.from({ length: Math.max(0, Math.ceil(first.count / PAGE) - 1) }, (_, k) =>
      need(api.GET("/api/riders", { params: { query: { limit: PAGE, offset: (k + 1) * PAGE } } })),
    );
    return { ...first, results: [...first.results, ...(await Promise.all(rest)).flatMap((p) => p.results)] };
  },
});

export const removedRiders = queryOptions({
  queryKey: ["riders", "removed"],
  queryFn: () => need(api.GET("/api/riders", { params: { query: { limit: PAGE, removed: true } } })),
});

export const bench = (id: number) =>
  queryOptions({
    queryKey: ["bench", id],
    queryFn: () => need(api.GET("/api/runs/{id}/bench", { params: { path: { id } } })),
    staleTime: Infinity,
  });

/** Pixels of every landmark in every frame; fetched again when a correction changes the version. */
export const points = (id: number, version: string) =>
  queryOptions({
    queryKey: ["points", id, version],
    queryFn: async () => {
      const response = await fetch(`/api/runs/${id}/points`);
      if (!response.ok) throw await problemOf(response);
      return new Float32Array(await response.arrayBuffer());
    },
    staleTime: Infinity,
  });

export const trace = (id: number, version: string, measure: string, limb: string) =>
  queryOptions({
    queryKey: ["trace", id, version, measure, limb],
    queryFn: () => need(api.GET("/api/runs/{id}/trace", { params: { path: { id }, query: { measure, limb } } })),
    staleTime: Infinity,
    retry: false,
  });

/** Where a correction would settle most; asked again after each. */
export const questions = (id: number, version: string) =>
  queryOptions({
    queryKey: ["questions", id, version],
    queryFn: () => need(api.GET("/api/runs/{id}/questions", { params: { path: { id } } })),
    staleTime: Infinity,
    placeholderData: (old) => old,
  });

/** The clip's check, people and camera, and a plan for the wanted measures. */
export const footage = (run: number, measures: string[] = []) =>
  queryOptions({
    queryKey: ["footage", run, ...measures],
    queryFn: () =>
      need(
        api.GET("/api/runs/{run}/footage", {
          params: { path: { run }, query: measures.length ? { measures: measures.join(",") } : {} },
        }),
      ),
    retry: false,
  });

/** What a run shows of the last prescription before it. */
export const following = (run: number, version: string) =>
  queryOptions({
    queryKey: ["following", run, version],
    queryFn: () => need(api.GET("/api/runs/{run}/following", { params: { path: { run } } })),
    staleTime: 60_000,
    retry: false,
  });

export const book = (rider: number, discipline?: string) =>
  queryOptions({
    queryKey: ["book", rider, discipline ?? ""],
    queryFn: () =>
      need(
        api.GET("/api/riders/{rider}/book", {
          params: { path: { rider }, query: discipline ? { discipline } : {} },
        }),
      ),
  });

/** What came of each cue over the club. */
export const cues = (discipline: string) =>
  queryOptions({
    queryKey: ["cues", discipline],
    queryFn: () => need(api.GET("/api/cues", { params: { query: { discipline } } })),
  });

/** A run's Telling: a coach's own, or what stands ready. */
export const telling = (run: number) =>
  queryOptions({
    queryKey: ["telling", run],
    queryFn: () => need(api.GET("/api/runs/{run}/telling", { params: { path: { run } } })),
    staleTime: Infinity,
  });

export const script = (run: number) =>
  queryOptions({
    queryKey: ["script", run],
    queryFn: () => need(api.GET("/api/runs/{run}/script", { params: { path: { run } } })),
  });

/** The club's own texts; for a run, filled in. */
export const texts = (run?: number) =>
  queryOptions({
    queryKey: ["texts", run ?? null],
    queryFn: () => need(api.GET("/api/texts", { params: { query: run === undefined ? {} : { run } } })),
  });

export const club = queryOptions({ queryKey: ["club"], queryFn: () => need(api.GET("/api/club")) });

/** Who did what, a page at a time. */
export const done = (offset: number, find: string) =>
  queryOptions({
    queryKey: ["done", offset, find],
    queryFn: () => need(api.GET("/api/club/done", { params: { query: { offset, ...(find ? { find } : {}) } } })),
    placeholderData: (old) => old,
  });

/** What failed on the server, for the club's owners. */
export const failures = queryOptions({
  queryKey: ["failures"],
  queryFn: () => need(api.GET("/api/club/failures")),
  staleTime: 0,
});

/** Links to send clips by. */
export const intakes = queryOptions({ queryKey: ["intakes"], queryFn: () => need(api.GET("/api/intakes")) });

/** Who sent clips and is not known yet. */
export const senders = queryOptions({
  queryKey: ["senders"],
  queryFn: () => need(api.GET("/api/senders", { params: { query: { limit: 100 } } })),
  staleTime: 0,
});

/** Runs whose riders can be answered together. */
export const together = queryOptions({
  queryKey: ["together"],
  queryFn: () => need(api.GET("/api/together")),
  staleTime: 0,
});

/** The rider's page as it would be if the Script were approved now. */
export const preview = (run: number) =>
  queryOptions({
    queryKey: ["preview", run],
    queryFn: () => need(api.GET("/api/runs/{run}/script/preview", { params: { path: { run } } })),
    staleTime: 0,
    gcTime: 0,
  });

/** The pictures that an approval would keep; they change with the main thing. */
export const offered = (run: number, fault: string) =>
  queryOptions({
    queryKey: ["offered", run, fault],
    queryFn: () => need(api.GET("/api/runs/{run}/script/offered", { params: { path: { run } } })),
    staleTime: 5 * 60_000,
    retry: false,
  });

/** What a new run of a rider is guessed to be. */
export const usual = (rider: number) =>
  queryOptions({
    queryKey: ["riders", rider, "usual"],
    queryFn: () => need(api.GET("/api/riders/{id}/usual", { params: { path: { id: rider } } })),
    retry: false,
  });

/** What a unit of a run may be held against. */
export const against = (run: number, version: string, unit: number | undefined) =>
  queryOptions({
    queryKey: ["against", run, version, unit],
    queryFn: () =>
      need(
        api.GET("/api/runs/{run}/against", { params: { path: { run }, query: unit === undefined ? {} : { unit } } }),
      ),
    retry: false,
    staleTime: 60_000,
  });

/** Runs that the club keeps as references. */
export const references = (discipline: string) =>
  queryOptions({
    queryKey: ["references", discipline],
    queryFn: () => need(api.GET("/api/references", { params: { query: { discipline, limit: 200 } } })),
  });

/** The rider's own figure with the main thing mended. */
export const ghost = (run: number, version: string, unit: number) =>
  queryOptions({
    queryKey: ["ghost", run, version, unit],
    queryFn: () => need(api.GET("/api/runs/{run}/ghost", { params: { path: { run }, query: { unit } } })),
    staleTime: Infinity,
    retry: false,
  });

/** The run from where no camera was. */
export const runMap = (run: number, version: string) =>
  queryOptions({
    queryKey: ["map", run, version],
    queryFn: () => need(api.GET("/api/runs/{run}/map", { params: { path: { run } } })),
    staleTime: Infinity,
    retry: false,
  });

/** Units by phases; asked again while pictures are being made. */
export const turnSheet = (run: number, version: string, show: string, columns: string[]) =>
  queryOptions({
    queryKey: ["turn sheet", run, version, show, ...columns],
    queryFn: () =>
      need(
        api.GET("/api/runs/{run}/turn-sheet", {
          params: { path: { run }, query: { ...(show ? { show } : {}), columns } },
        }),
      ),
    refetchInterval: (q) => (q.state.data?.waiting ? 1000 : false),
    retry: false,
  });

/** Session films of the club, the newest first. */
export const films = queryOptions({
  queryKey: ["films"],
  queryFn: () => need(api.GET("/api/session-films", { params: { query: { limit: 50 } } })),
  refetchInterval: (q) => (q.state.data?.results.some(isBusy) ? 3000 : false),
});

/** One session film with its goes; asked again while it, or a run of it, is being worked on. */
export const film = (id: number) =>
  queryOptions({
    queryKey: ["films", id],
    queryFn: () => need(api.GET("/api/session-films/{id}", { params: { path: { id } } })),
    refetchInterval: (q) => {
      const now = q.state.data;
      return now && (isBusy(now) || now.goes.some((g) => g.run && isBusy(g.run))) ? 2500 : false;
    },
  });

/** What may be noted by eye; what stands open on the run changes its order. */
export const notable = (id: number, version: string) =>
  queryOptions({
    queryKey: ["notable", id, version],
    queryFn: () => need(api.GET("/api/runs/{id}/notable", { params: { path: { id } } })),
    placeholderData: (old) => old,
    staleTime: Infinity,
  });

/** The fewest marks that tell more. */
export const leading = (id: number, version: string) =>
  queryOptions({
    queryKey: ["leading", id, version],
    queryFn: () => need(api.GET("/api/runs/{id}/leading", { params: { path: { id } } })),
    placeholderData: (old) => old,
  });

/** Cues and drills that may stand in place of the software's. */
export const choices = (id: number, version: string) =>
  queryOptions({
    queryKey: ["choices", id, version],
    queryFn: () => need(api.GET("/api/runs/{id}/choices", { params: { path: { id } } })),
  });

/** Corrections on the Bench: each answers with the whole Bench as it is afterwards. */
export function useBenchChange(id: number) {
  const client = useQueryClient();
  const done = (fresh: Bench) => {
    client.setQueryData(["bench", id], fresh);
    void client.invalidateQueries({ queryKey: ["script", id] });
    void client.invalidateQueries({ queryKey: ["runs"] });
  };
  return useMutation({
    mutationFn: (
      change:
        | { edit: Schemas["EditRequest"] }
        | { step: "undo" | "redo" }
        | { run: Schemas["PatchedRunRequest"] }
        | { answer: Schemas["AnswerRequest"] }
        | { school: Schemas["SchoolChoiceRequest"] },
    ) => {
      const path = { path: { id } };
      if ("edit" in change) return need(api.POST("/api/runs/{id}/edits", { params: path, body: change.edit }));
      if ("answer" in change) return need(api.POST("/api/runs/{id}/answer", { params: path, body: change.answer }));
      const afresh = () => need(api.GET("/api/runs/{id}/bench", { params: path }));
      if ("school" in change)
        return need(api.POST("/api/runs/{id}/school", { params: path, body: change.school })).then(afresh);
      if ("run" in change) return need(api.PATCH("/api/runs/{id}", { params: path, body: change.run })).then(afresh);
      return change.step === "undo"
        ? need(api.POST("/api/runs/{id}/undo", { params: path }))
        : need(api.POST("/api/runs/{id}/redo", { params: path }));
    },
    onSuccess: done,
  });
}

/** Where the club practises. */
export const places = queryOptions({ queryKey: ["places"], queryFn: () => need(api.GET("/api/places")) });

/** Riders who can practise the same step together. */
export const groups = (place: number | null, minutes: number) =>
  queryOptions({
    queryKey: ["groups", place, minutes],
    queryFn: () => need(api.GET("/api/desk/groups", { params: { query: { minutes, ...(place ? { place } : {}) } } })),
    staleTime: 0,
    placeholderData: (old) => old,
  });
