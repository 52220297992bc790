/** Where a run stands, in the order in which it goes through them. */
export const STANDS = {
  arriving: "Waits for its clip",
  followed: "Being followed",
  unreadable: "Cannot be read",
  look: "Needs a look",
  judge: "Ready to judge",
  writing: "Script open",
  rider: "With the rider",
  again: "Film again",
  done: "Done",
};
export type Standing = keyof typeof STANDS;
