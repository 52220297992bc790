import type { ReactNode } from "react";

/** A small page for somebody who is not logged in. */
export function Sheet({ title, about, children }: { title: string; about?: string; children: ReactNode }) {
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <div className="grid w-full max-w-sm gap-4 rounded-lg border border-line bg-sheet p-6">
        <div>
          <h1 className="text-xl">{title}</h1>
          {about && <p className="text-soft">{about}</p>}
        </div>
        {children}
      </div>
    </main>
  );
}
