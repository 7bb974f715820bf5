import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { call } from "../api/client";
import type { Attention, RunningSearch } from "../api/model";
import { metres, useUnit } from "../shared/lengths";

const LOOK = 2_000;

/** What runs and what is due in the shop, beside the jobs. */
export function Waiting() {
  const { unit } = useUnit();
  const due = useQuery({ queryKey: ["attention"], queryFn: () => call<Attention>("/desk/attention") }).data,
    running = useQuery({
      queryKey: ["searches"],
      queryFn: () => call<RunningSearch[]>("/searches"),
      refetchInterval: (q) => (q.state.data?.length ? LOOK : 5 * LOOK),
    }).data;
  if (!due || (!running?.length && !due.boards.length && !due.cutters.length)) return null;
  return (
    <section aria-label="Waiting" className="mb-4 border border-line bg-paper p-3">
      <h2 className="mb-1 text-head font-semibold">In the shop</h2>
      <ul className="grid gap-1" aria-live="polite">
        {running?.map((r) => (
          <li key={`${r.job}/${r.setup}`}>
            <Link to={`/job/${r.job}/nest`} className="underline decoration-dotted underline-offset-2">
              {r.name}
            </Link>{" "}
            {r.state === "waiting" ? (
              "waits for its nest"
            ) : (
              <>
                is nested, <span className="num">{Math.round(r.elapsed)}</span> of{" "}
                <span className="num">{Math.round(r.seconds)}</span> s
              </>
            )}
          </li>
        ))}
        {due.boards.map((b) => (
          <li key={b.id}>
            <Link to={`/surfacing/${b.id}`} className="underline decoration-dotted underline-offset-2">
              {b.name}
            </Link>{" "}
            is due: {metres(b.metres * 1000, unit)} cut into it
          </li>
        ))}
        {due.cutters.map((c) => (
          <li key={c.id}>
            <Link to="/library/cutters" className="underline decoration-dotted underline-offset-2">
              {c.name}
            </Link>{" "}
            {c.over ? "is worn" : "is nearly worn"}: {metres(c.metres * 1000, unit)} of{" "}
            {metres(c.life * 1000, unit)}
          </li>
        ))}
      </ul>
    </section>
  );
}
