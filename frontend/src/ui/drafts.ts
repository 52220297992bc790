import { useEffect, useState } from "react";

interface Kept<T> {
  value: T;
  /** What was saved when the typing began. */
  was: T;
}

const place = (key: string) => `draft/${key}`;

function kept<T>(key: string): Kept<T> | null {
  try {
    return JSON.parse(localStorage.getItem(place(key)) ?? "null") as Kept<T> | null;
  } catch {
    return null; // a browser that keeps nothing, or something that is none of ours
  }
}

function keep<T>(key: string, draft: Kept<T> | null) {
  try {
    if (draft) localStorage.setItem(place(key), JSON.stringify(draft));
    else localStorage.removeItem(place(key));
  } catch {
    // Without a place to keep it the text is still on the page.
  }
}

/**
 * What is typed, kept in this browser until it is saved: a refresh, a lost connection, a log-out loses nothing.
 *
 * `value` is the draft or what is saved; `was` is what the draft started from; `unsaved` tells whether they differ.
 */
export function useDraft<T>(key: string, saved: T) {
  const [draft, setDraft] = useState<Kept<T> | null>(() => kept<T>(key));
  const same = (a: T, b: T) => JSON.stringify(a) === JSON.stringify(b);
  const put = (next: Kept<T> | null) => {
    keep(key, next);
    setDraft(next);
  };
  return {
    value: draft ? draft.value : saved,
    was: draft ? draft.was : saved,
    unsaved: draft !== null && !same(draft.value, saved),
    set: (value: T) => put(same(value, saved) ? null : { value, was: draft ? draft.was : saved }),
    /** Saved, or given up; with `only`, not what has been typed since. */
    clear: (only?: T) => {
      const now = kept<T>(key) ?? draft;
      if (only === undefined || (now && same(now.value, only))) put(null);
    },
  };
}

/** Ask before the page is left while something on it is not saved. */
export function useLeaving(unsaved: boolean) {
  useEffect(() => {
    if (!unsaved) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, [unsaved]);
}
