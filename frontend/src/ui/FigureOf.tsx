import { useQuery } from "@tanstack/react-query";

import { disciplines } from "../api/queries";
import { RightAndWrong } from "./RightAndWrong";

/** The figure of a fault, where it has one. */
export function FigureOf({ discipline, fault }: { discipline: string; fault: string }) {
  const book = useQuery(disciplines).data?.find((d) => d.id === discipline);
  const figure = book?.faults[fault]?.figure;
  return figure ? <RightAndWrong {...{ discipline, fault, figure }} /> : null;
}
