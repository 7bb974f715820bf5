import { type Snag } from "../api/model";
import { inUnit } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";
import { MARK } from "../shared/marks";
import { type Tabs } from "./tab";

export function Said({
  snags,
  view,
  put,
  send,
}: Tabs & { snags: Snag[]; send: (path: string, body: unknown) => void }) {
  const { unit } = useUnit();
  if (!snags.length) return <p className="label mt-3">No snags here.</p>;
  const remedy = (s: Snag) =>
    s.rule === "ledger.start"
      ? ([
          ["Take the ledger's", () => put({ how: { ...view.bench.how, start: view.state.since_zero } })],
          [
            "Touched off anew",
            () => {
              send("/ledger", { entry: { kind: "zero", says: "touched off anew" } });
              put({ how: { ...view.bench.how, start: 0 } });
            },
          ],
        ] as [string, () => void][])
      : s.rule === "surface.air" && !view.bench.how.only_touched && view.bench.how.pattern !== "spiral"
        ? ([["Cut only where it touches", () => put({ how: { ...view.bench.how, only_touched: true } })]] as [
            string,
            () => void,
          ][])
        : [];
  return (
    <section className="mt-3" aria-label="Snags">
      <h3 className="text-head font-semibold">Snags</h3>
      <ul>
        {snags.map((s, i) => (
          <li key={s.rule + i} className="rule py-1 text-small">
            <span className={`mr-1.5 border px-1 text-fine ${MARK[s.severity]}`}>{s.severity}</span>
            {inUnit(s.message, unit)}
            {remedy(s).map(([t, f]) => (
              <button key={t} className="key ml-1.5 !py-0" onClick={f}>
                {t}
              </button>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
