import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

/** Long work asked for in parts, one after the other: each shows as it comes, and the rest can be stopped. */
export type OneByOne<T> = {
  found: T[];
  of: number;
  running: boolean;
  stopped: boolean;
  error: string;
  stop: () => void;
  goOn: () => void;
};

/** ``key`` names the work as a whole; what was answered before is not asked for again. */
export function useOneByOne<T>(
  key: readonly unknown[],
  names: readonly string[],
  ask: (name: string, signal: AbortSignal) => Promise<T[]>,
  on: boolean,
): OneByOne<T> {
  const client = useQueryClient(),
    whole = JSON.stringify(key);
  const [state, setState] = useState<{ whole: string; found: T[]; error: string; done: boolean }>({
    ...{ whole, found: [], error: "", done: false },
  });
  const [stopped, setStopped] = useState("");
  const halted = stopped === whole;
  useEffect(() => {
    if (!on || halted) return;
    const end = new AbortController();
    (async () => {
      const found: T[] = [];
      try {
        for (const name of names) {
          const answer = await client.fetchQuery({
            queryKey: [...(JSON.parse(whole) as unknown[]), name],
            queryFn: () => ask(name, end.signal),
            staleTime: Infinity,
            retry: 0,
          });
          if (end.signal.aborted) return;
          found.push(...answer);
          setState({ whole, found: [...found], error: "", done: false });
        }
        setState({ whole, found, error: "", done: true });
      } catch (e) {
        if (!end.signal.aborted) setState({ whole, found, error: (e as Error).message, done: true });
      }
    })();
    return () => end.abort();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- named by the key
  }, [on, whole, halted, client]);
  const mine = state.whole === whole ? state : { found: [], error: "", done: false };
  return {
    found: mine.found,
    of: names.length,
    running: on && !halted && !mine.done,
    stopped: halted,
    error: mine.error,
    stop: () => setStopped(whole),
    goOn: () => setStopped(""),
  };
}
