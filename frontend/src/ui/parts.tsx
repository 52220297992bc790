import { Loader, TriangleAlert } from "lucide-react";
import type { ButtonHTMLAttributes, InputHTMLAttributes, ReactNode, Ref, SelectHTMLAttributes } from "react";
import { useId } from "react";

type Tone = "plain" | "main" | "quiet" | "bad";
const TONES: Record<Tone, string> = {
  plain: "border border-line bg-sheet text-ink hover:bg-tint",
  main: "bg-deep text-on-deep hover:opacity-90 border border-transparent",
  quiet: "text-ink hover:bg-tint border border-transparent",
  bad: "border border-line bg-sheet text-bad hover:bg-tint",
};

export function Button({
  tone = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { tone?: Tone; ref?: Ref<HTMLButtonElement> }) {
  return (
    <button
      type="button"
      {...rest}
      className={`inline-flex min-h-8 items-center gap-1.5 rounded px-3 py-1 font-semibold whitespace-nowrap disabled:opacity-55 ${TONES[tone]} ${className}`}
    />
  );
}

export function Field({
  label,
  error,
  hint,
  children,
}: {
  label: string;
  error?: string;
  hint?: string;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className="grid content-start gap-1">
      <label htmlFor={id} className="font-semibold">
        {label}
      </label>
      {children(id)}
      {hint && !error && <p className="text-sm text-soft">{hint}</p>}
      {error && (
        <p role="alert" className="text-sm text-bad">
          {error}
        </p>
      )}
    </div>
  );
}

const BOX = "w-full rounded border border-line bg-sheet px-2 py-1.5 text-ink placeholder:text-soft";
export const Input = (props: InputHTMLAttributes<HTMLInputElement>) => (
  <input {...props} className={`${BOX} ${props.className ?? ""}`} />
);
export const Select = (props: SelectHTMLAttributes<HTMLSelectElement>) => (
  <select {...props} className={`${BOX} ${props.className ?? ""}`} />
);

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="flex items-center gap-2 p-6 text-soft">
      <Loader aria-hidden className="size-4 animate-spin" /> {what}
    </p>
  );
}

export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <div role="alert" className="m-4 flex items-start gap-3 rounded border border-bad bg-sheet p-4">
      <TriangleAlert aria-hidden className="mt-0.5 size-5 shrink-0 text-bad" />
      <div className="grid gap-2">
        <p>{error.message}</p>
        <div className="flex gap-3">
          {again && (
            <Button onClick={again} className="w-fit">
              Try again
            </Button>
          )}
          {(error as { status?: number }).status === 404 && (
            <a href="/" className="self-center underline">
              Go to the Desk
            </a>
          )}
        </div>
      </div>
    </div>
  );
}

/** Left and right by colour and by shape, always both. */
export function SideMark({ side, word = true }: { side: string; word?: boolean }) {
  const left = side === "left";
  return (
    <span
      className="inline-flex items-center gap-1 font-semibold"
      style={{ color: `var(--${left ? "left" : "right"})` }}
    >
      <svg aria-hidden viewBox="0 0 10 10" className="size-2.5">
        {left ? <path d="M9 0v10L0 5z" fill="currentColor" /> : <path d="M1 0v10l9-5z" fill="currentColor" />}
      </svg>
      {word ? side : <span className="sr-only">{side}</span>}
    </span>
  );
}

export function Bar({ share, label }: { share: number; label: string }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(100 * share)}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-2 overflow-hidden rounded bg-tint"
    >
      <div className="h-full bg-deep transition-[width]" style={{ width: `${100 * share}%` }} />
    </div>
  );
}
