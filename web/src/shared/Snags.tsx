import type { Edits } from "../api/edits";
import type { Remedy, Snag } from "../api/model";
import { ClosedLine } from "./ClosedLine";
import { inUnit } from "./Tokens";
import { useUnit } from "./lengths";

const WORD = { stop: "Stop.", look: "Look.", note: "Note." };
const BAR = { stop: "bg-stop", look: "bg-look", note: "bg-quiet" };
const EDGE = { stop: "border-stop", look: "border-ink", note: "border-line" };

/** What a remedy says of closed groove lines: drawn beside its words. */
const lineMeant = (r: Remedy) =>
  r.command.kind === "change-setup"
    ? (r.command.rules as { closed_grooves?: string } | null | undefined)?.closed_grooves
    : undefined;

/** Snags with their remedies, the gravest first. */
export function Snags({
  snags,
  edits,
  onFind,
  most = 30,
  quiet,
}: {
  snags: Snag[];
  edits: Edits;
  onFind?: (s: Snag) => void;
  most?: number;
  /** Nothing is said where there are none. */
  quiet?: boolean;
}) {
  const { unit } = useUnit();
  if (!snags.length && quiet) return null;
  if (!snags.length) return <p className="mt-2 text-quiet">No snags here.</p>;
  return (
    <ul className="mt-2 space-y-2" aria-label="Snags">
      {snags.slice(0, most).map((s, i) => (
        <li
          key={`${s.rule}/${i}`}
          className={`flex border bg-[#fffdf8] ${EDGE[s.severity]}`}
          data-severity={s.severity}
        >
          <span className={`w-2 shrink-0 ${BAR[s.severity]}`} aria-hidden />
          <div className="min-w-0 px-2.5 py-1.5">
            <p className="break-words">
              <b className={s.severity === "stop" ? "text-stop" : ""}>{WORD[s.severity]}</b>{" "}
              {inUnit(s.message, unit)}
            </p>
            {(s.remedies.length > 0 || (onFind && Boolean(s.where?.piece ?? s.where?.part))) && (
              <div className="mt-1.5 flex flex-wrap gap-1.5">
                {s.remedies.map((r, k) => (
                  <button
                    key={r.label}
                    className={k === 0 && !lineMeant(r) ? "key-strong" : "key"}
                    disabled={edits.busy}
                    title={r.trades ? `Then to look at: ${inUnit(r.trades, unit)}` : undefined}
                    onClick={() => edits.run(r.command)}
                  >
                    {lineMeant(r) && <ClosedLine way={lineMeant(r)!} />}
                    {inUnit(r.label, unit)}
                    {r.trades ? " *" : ""}
                  </button>
                ))}
                {onFind && (s.where?.piece || s.where?.part) ? (
                  <button className="key" onClick={() => onFind(s)}>
                    Show it
                  </button>
                ) : null}
                {s.remedies
                  .filter((r) => r.trades)
                  .map((r) => (
                    <p key={r.label} className="label basis-full">
                      * {inUnit(r.label, unit)}, then to look at: {inUnit(r.trades ?? "", unit)}
                    </p>
                  ))}
              </div>
            )}
          </div>
        </li>
      ))}
      {snags.length > most && <li className="text-quiet">and {snags.length - most} more</li>}
    </ul>
  );
}
