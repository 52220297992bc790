import type { Discipline } from "../api/client";

/** The disciplines whose clips can be analysed, to choose from. */
export const DisciplineOptions = ({ books }: { books?: Discipline[] }) =>
  books
    ?.filter((b) => b.from_tracks)
    .map((b) => (
      <option key={b.id} value={b.id}>
        {b.title}
      </option>
    ));
