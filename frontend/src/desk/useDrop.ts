import { useEffect, useRef, useState } from "react";

const FILM = /\.(mp4|mov|m4v|mkv|webm|avi)$/i;
const films = (list: FileList | undefined) =>
  [...(list ?? [])].filter((f) => f.type.startsWith("video/") || FILM.test(f.name));

/** Films that are dropped anywhere on the page; returns whether files hover over it now. */
export function useDrop(onFilms: (files: File[]) => void, onOther: () => void) {
  const [over, setOver] = useState(false);
  const now = useRef({ onFilms, onOther });
  useEffect(() => {
    now.current = { onFilms, onOther };
  });
  useEffect(() => {
    const holds = (e: DragEvent) => e.dataTransfer?.types.includes("Files") ?? false;
    const hover = (e: DragEvent) => {
      if (!holds(e)) return;
      // Without this the browser would open the file in place of the page.
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (e.relatedTarget === null) setOver(false);
    };
    const drop = (e: DragEvent) => {
      if (!holds(e)) return;
      e.preventDefault();
      setOver(false);
      const found = films(e.dataTransfer?.files);
      if (found.length) now.current.onFilms(found);
      else now.current.onOther();
    };
    addEventListener("dragover", hover);
    addEventListener("dragleave", leave);
    addEventListener("drop", drop);
    return () => {
      removeEventListener("dragover", hover);
      removeEventListener("dragleave", leave);
      removeEventListener("drop", drop);
    };
  }, []);
  return over;
}
