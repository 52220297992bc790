/** Pairs of landmarks between which a limb or its gear is drawn. */
export const LIMBS: [string, string][] = [
  ["l_ear", "nose"],
  ["nose", "r_ear"],
  ["l_shoulder", "r_shoulder"],
  ["l_hip", "r_hip"],
  ...(["l", "r"] as const).flatMap((s) =>
    [
      ["shoulder", "elbow"],
      ["elbow", "wrist"],
      ["shoulder", "hip"],
      ["hip", "knee"],
      ["knee", "ankle"],
      ["ankle", "heel"],
      ["heel", "toe"],
      ["ski_tail", "ski_tip"],
      ["pole_grip", "pole_tip"],
    ].map(([a, b]) => [`${s}_${a}`, `${s}_${b}`] as [string, string]),
  ),
];
