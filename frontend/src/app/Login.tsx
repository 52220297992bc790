import { Link, useRouter, useSearch } from "@tanstack/react-router";

import { LoginForm } from "./LoginForm";

/** The first page; from it one goes on to the address that was asked for. */
export function Login() {
  const { next } = useSearch({ from: "/login" });
  const router = useRouter();
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <div className="grid w-full max-w-sm gap-4 rounded-lg border border-line bg-sheet p-6">
        <div className="flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-10" />
          <div>
            <h1 className="text-xl">Proklisis</h1>
            <p className="text-soft">From a slow-motion run to the one thing that helps.</p>
          </div>
        </div>
        <LoginForm
          onIn={(who) => {
            // Riders and guardians have a page of their own, which is built by itself.
            if (next?.startsWith("/mine") || (!who.coach && next !== "/account")) location.assign(next ?? "/mine");
            else router.history.push(next ?? "/");
          }}
        />
        <Link to="/new-password" className="text-sm underline">
          I have forgotten my password
        </Link>
      </div>
    </main>
  );
}
