import { useEffect, useState } from "react";

/** A count that goes on from what was clicked last, while the answers to earlier clicks are on their way. */
export function useCount(value: number, onCommit: (n: number) => void): [number, (n: number) => void] {
  const [asked, ask] = useState<number | null>(null);
  useEffect(() => {
    ask((now) => (now === value ? null : now));
  }, [value]);
  useEffect(() => {
    if (asked === null) return;
    const timer = setTimeout(() => ask(null), 20_000);
    return () => clearTimeout(timer);
  }, [asked]); // a refused edit
  return [
    asked ?? value,
    (n) => {
      ask(n === value ? null : n);
      onCommit(n);
    },
  ];
}
