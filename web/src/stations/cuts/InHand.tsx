import type { ReactNode } from "react";

import { many } from "../../shared/many";

/** What is chosen, to be changed together, until it is let go. */
export function InHand({
  count,
  word,
  onDone,
  children,
}: {
  count: number;
  word: "step" | "contour";
  onDone: () => void;
  children: ReactNode;
}) {
  return (
    <section
      aria-label={`Chosen ${word}s`}
      className="mt-2 border-2 border-accent bg-accent-soft px-2.5 py-1.5 text-small"
    >
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="font-semibold">{many(count, word)} chosen</b>
        <button className="key !py-0" onClick={onDone}>
          Let go
        </button>
      </h3>
      {children}
    </section>
  );
}

/** One thing that all have, with its word before it. */
export const Of = ({ what, children }: { what: string; children: ReactNode }) => (
  <span>
    <span className="label">{what}</span> {children}
  </span>
);
