import type { Bench, Discipline, Finding, Prescription, Reading, Run, Script, Unit } from "./api/client";

/** Whole answers of the server for tests, each with what a test wants otherwise. */

export const runOf = (over: Partial<Run> = {}): Run => ({
  id: 9, title: "Blue piste", rider: { id: 7, name: "Wren", number: 7 }, discipline: "alpine_carve", level: "intermediate", intention_text: "", intention_faults: [],
  conditions: {}, gear: {}, schools: {}, observations: [], view: "front", view_offset_deg: 0, roll_deg: 0, filmed_fps: null, sure: [], filmed_on: null,
  added: "2026-11-20T10:00:00Z", state: "ready", step: "", progress: 1, seconds_left: null, problem: "", clip: null, main_title: "", outline: [], approved: false,
  ...over,
});

export const unitOf = (n: number, start: number, side: "left" | "right" | null, over: Partial<Unit> = {}): Unit => ({
  n, side, finest_side: null, outside: side && (side === "left" ? "right" : "left"), start, start_u: 0.01, end: start + 1.4, confidence: 1, by: "auto",
  phases: { transition: [start - 0.1, start + 0.1], entry: [start + 0.1, start + 0.5], belly: [start + 0.5, start + 0.9], finish: [start + 0.9, start + 1.3] },
  ...over,
});

export const readingOf = (unit: number | null, value: number, over: Partial<Reading> = {}): Reading => ({
  measure: "edge", value, u: 2, unit, phase: "belly", limb: null, t: 1, words: String(value), pm: "4", ...over,
});

export const prescriptionOf = (over: Partial<Prescription> = {}): Prescription => ({
  format: "prescription/1", discipline: "alpine_carve", level: "intermediate", strengths: [], intention: null, main: null, findings: [], disagreements: [],
  cues: [], drills: [], gear: [], cautions: [], retest: [], followup: [], weaker_half: null, limits: [], beside: [], fairness: [], cannot_tell: [], unlock: "",
  ...over,
});

export const mainOf = (fault: string, over: Partial<NonNullable<Prescription["main"]>> = {}): NonNullable<Prescription["main"]> => ({
  fault, side: "both", verdict: "clear", title: fault, why: "", cue: "", by: "software", ...over,
});

export const findingOf = (fault: string, status: Finding["status"], over: Partial<Finding> = {}): Finding => ({
  fault, title: fault, status, verdict: "clear", side: "both", share: 1, severity: 1, phase: null, explains: [], because_of: [], evidence: [], ...over,
});

const empty = { t: [0, 0.04, 0.08], phases: ["transition", "entry", "belly", "finish"] };

export const benchOf = (over: Partial<Bench> = {}): Bench => ({
  ...empty, run: runOf(), unit: "turn", unit_plural: "turns", units: [], boundaries: [], readings: [], sides: [], gaps: [], notes: [], doubt: null, rate_sure: true,
  ribbon: { signal: "Tilt of the body", unit: "°", swing: empty.t.map(() => 0), swing_u: empty.t.map(() => 1), edge: null, graded: true, look: [] },
  plays_slower: null, fallen: null, roll_deg: 0, refusals: [], bands: [], measures: {}, prescription: prescriptionOf(), nothing_words: "", points: [], point_words: {},
  markable: [], carrying: [], carry_problems: [], corrections: [], version: "v1", measuring: false, trouble: "", can_undo: false, can_redo: false,
  ...over,
});

export const scriptOf = (over: Partial<Script> = {}): Script => ({
  prescription: prescriptionOf(), nothing_words: "", titles: {}, cue_options: [], targets: [], evidence_words: {}, message: "", dropped: {}, retest_on: "2026-12-10",
  approved_at: null, trouble: "", stale: false, pictures: [], share: null, rider: { id: 7, name: "Wren", born: 1990, guardian_consent: false }, may_share: true,
  ...over,
});

export const disciplineOf = (over: Partial<Discipline> = {}): Discipline => ({
  id: "alpine_carve", title: "Turns on piste", unit: "turn", unit_plural: "turns", asks_front_foot: false, phases: empty.phases, conditions: {}, from_tracks: true,
  faults: {}, observations: {}, schools: {}, by_eye: [], views: "", phase_words: {}, ...over,
});
