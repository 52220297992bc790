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
  ["board_tail", "board_nose"],
  ["stern", "bow"],
  ["mast_foot", "mast_head"],
  ["boom_front", "boom_end"],
  ["bar_l", "bar_r"],
  ["blade_l", "blade_r"],
  ["rear_axle", "front_axle"],
  ["bar_end_l", "bar_end_r"],
];
