import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import { clock, type ProofSheet, type SheetRecord, type Snag } from "../../api/model";
import { useJobView } from "../../job/view";
import { many } from "../../shared/many";
import { when } from "../../shared/when";
import { type Picked, type ReleaseState, type SheetState } from "./useReleases";

type Props = {
  picked: Picked;
  onPick: (p: Picked) => void;
  state?: ReleaseState;
  proof?: ProofSheet[];
};

/** Every sheet as it will be cut, with its check list and how much of it went out. */
export function SheetCards({ picked, onPick, state, proof }: Props) {
  const { job, setup, sheet: shown } = useJobView();
  const records = useQuery({
    queryKey: ["proof-records", job.id, job.revision],
    queryFn: () => call<SheetRecord[]>(`/jobs/${job.id}/proof/records`),
  });
  const every = job.setups.flatMap((s) =>
    s.sheets.map((x) => ({ setup: s.id, sheet: x.sheet, copy_no: x.copy_no })),
  );
  const same = (a: { setup: string; sheet: string; copy_no: number }, b: typeof a) =>
    a.setup === b.setup && a.sheet === b.sheet && a.copy_no === b.copy_no;
  const tick = (at: (typeof every)[number], on: boolean) => {
    const now = (picked.sheets ?? every).filter((x) => !same(x, at));
    const next = on ? [...now, at] : now;
    const rest = { ...picked };
    delete rest.sheets;
    onPick(next.length === every.length ? rest : { ...rest, sheets: next });
  };
  return (
    <ul className="grid content-start gap-2" aria-label="Sheets">
      {setup.sheets.map((s, i) => {
        const at = { setup: setup.id, sheet: s.sheet, copy_no: s.copy_no };
        const mine = (r: { setup: string; sheet: string; copy_no: number }) => same(r, at);
        return (
          <SheetCard
            key={`${s.sheet}/${s.copy_no}`}
            number={i + 1}
            at={at}
            here={shown[0] === s.sheet && shown[1] === s.copy_no}
            seconds={s.seconds}
            goes={!picked.sheets || picked.sheets.some((x) => same({ ...x, copy_no: x.copy_no ?? 0 }, at))}
            onGoes={(on) => tick(at, on)}
            state={state?.sheets.find(mine)}
            record={records.data?.find(mine)}
            proof={proof?.find((p) => p.sheet === s.sheet && p.copy_no === s.copy_no)}
          />
        );
      })}
    </ul>
  );
}

type Card = {
  number: number;
  at: { setup: string; sheet: string; copy_no: number };
  here: boolean;
  seconds: number;
  goes: boolean;
  onGoes: (on: boolean) => void;
  state?: SheetState;
  record?: SheetRecord;
  proof?: ProofSheet;
};

function SheetCard({ number, at, here, seconds, goes, onGoes, state, record, proof }: Card) {
  const { job, show } = useJobView();
  const q = new URLSearchParams({
    setup: at.setup,
    sheet: at.sheet,
    copy_no: String(at.copy_no),
    px: "520",
    revision: String(job.revision),
  });
  return (
    <li
      className={`border bg-[#fffdf8] ${here ? "border-ink shadow-[inset_4px_0_0_var(--color-accent)]" : "border-line"}`}
      aria-label={`Sheet ${number}`}
    >
      <button
        className="block w-full bg-board px-2 py-1"
        aria-label={`Show sheet ${number}`}
        aria-pressed={here}
        onClick={() => show(at.sheet, at.copy_no)}
      >
        <img
          src={`/api/jobs/${job.id}/cut.webp?${q}`}
          alt={`sheet ${number} as it is cut`}
          loading="lazy"
          className="mx-auto max-h-36 max-w-full"
        />
      </button>
      <div className="px-2.5 pb-1.5 pt-1">
        <label className="flex items-baseline gap-2">
          <input type="checkbox" checked={goes} onChange={(e) => onGoes(e.target.checked)} />
          <b className="font-semibold">Sheet {number}</b>
          <span className="num ml-auto text-small">{clock(seconds)}</span>
        </label>
        {state && <p className="text-small">{standing(state)}</p>}
        <CheckList at={at} record={record} proof={proof} number={number} />
      </div>
    </li>
  );
}

/** How much of a sheet went out, and was run. */
function standing(s: SheetState): string {
  if (!s.cuts) return "nothing is cut on it";
  const said = [];
  if (s.released) said.push(`${s.released} of ${many(s.cuts, "cut")} went out`);
  if (s.left) said.push(s.released || s.changed ? `${s.left} left over` : "nothing went out yet");
  if (s.changed) said.push(`${s.changed} otherwise since`);
  if (s.run) said.push(`${s.run} were run`);
  if (s.spoilt.length) said.push(`${many(s.spoilt.length, "piece")} spoilt, to be cut again`);
  if (s.differ.length) said.push(`${many(s.differ.length, "piece")} that were run would differ`);
  return said.join("; ");
}

/** What is to be done before a sheet is cut: done, or not yet. */
function CheckList({ at, record, proof, number }: Pick<Card, "at" | "record" | "proof" | "number">) {
  const { setup, show, go } = useJobView();
  const stock = setup.stock.find((s) => s.id === at.sheet);
  const about = (s: Snag) =>
    !s.where?.sheet || (s.where.sheet === at.sheet && (s.where.sheet_copy ?? 0) === at.copy_no);
  const stops = [...setup.snags.filter(about), ...(proof?.snags ?? [])].filter((s) => s.severity === "stop");
  const r = record?.record;
  const toProof = () => {
    show(at.sheet, at.copy_no);
    go("prove");
  };
  return (
    <ul className="mt-0.5 text-small" aria-label={`Check list of sheet ${number}`}>
      <Check done={!!proof && !stops.length}>
        {!proof
          ? "reading it back ..."
          : stops.length
            ? many(stops.length, "stop")
            : "read back, nothing stops it"}
      </Check>
      <Check done={!!stock?.readings.length}>
        {stock?.readings.length ? "thickness measured" : "thickness nominal, not measured"}
      </Check>
      <Check done={!!r && !r.changed.length}>
        {!r
          ? "nobody looked at its proof"
          : `${r.author || "somebody"} looked, ${when(r.made)}${r.changed.length ? `; changed since: ${r.changed.slice(0, 2).join(", ")}` : ""}`}{" "}
        <button className="underline" aria-label={`Prove sheet ${number}`} onClick={toProof}>
          prove
        </button>
      </Check>
    </ul>
  );
}

function Check({ done, children }: { done: boolean; children: React.ReactNode }) {
  return (
    <li className="flex items-baseline gap-1.5">
      <span aria-hidden className={`w-3 shrink-0 ${done ? "text-accent" : "text-quiet"}`}>
        {done ? "✓" : "○"}
      </span>
      <span className={done ? "" : "text-quiet"}>
        <span className="sr-only">{done ? "done: " : "open: "}</span>
        {children}
      </span>
    </li>
  );
}
