import type { Rider } from "../api/client";
import { RiderOptions } from "../desk/RiderField";
import { Select } from "../ui/parts";
import { people, pictureOf, type Film } from "./goes";

/** Who is in the film, as they look: one name each names all of their goes. */
export function Riders({
  film,
  club,
  onName,
}: {
  film: Film;
  club?: Rider[];
  onName: (who: number, rider: number | null) => void;
}) {
  return (
    <section aria-labelledby="who" className="rounded border border-line bg-sheet p-3">
      <h2 id="who" className="text-base">
        Who is in the film
      </h2>
      <p className="mb-2 text-sm text-soft">
        Told apart by clothes and build. A name here is for all of their goes; a key 1 to 9 puts the chosen go down to
        somebody else.
      </p>
      <ul className="grid gap-2">
        {people(film.goes).map(({ who, goes, shown }) => {
          const names = new Set(film.goes.filter((g) => g.who === who).map((g) => g.rider ?? null));
          const one = names.size === 1 ? [...names][0] : undefined;
          return (
            <li key={who} className="grid grid-cols-[1.8rem_3rem_minmax(0,1fr)] items-center gap-2">
              <kbd className="rounded border border-line px-1.5 py-0.5 text-center font-semibold">{who}</kbd>
              {film.playable ? (
                <img src={pictureOf(film.id, shown)} alt="" className="size-12 rounded bg-tint object-cover" />
              ) : (
                <span className="size-12 rounded bg-tint" />
              )}
              <span>
                <Select
                  aria-label={`Name of person ${who}, ${goes} ${goes === 1 ? "go" : "goes"}`}
                  value={one ?? ""}
                  onChange={(e) => onName(who, e.target.value ? Number(e.target.value) : null)}
                >
                  <RiderOptions people={club} />
                </Select>
                <span className="text-sm text-soft">
                  {goes} {goes === 1 ? "go" : "goes"}
                  {one === undefined && " · not all of one name"}
                </span>
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
