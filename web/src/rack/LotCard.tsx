import { useState } from "react";

import { useJobs } from "../api/queries";
import { TextToken } from "../library/shelf";
import { Pick } from "../shared/Pick";
import { Save } from "../shared/Save";
import { NumberToken } from "../shared/Tokens";
import { bare, length, useUnit } from "../shared/lengths";
import { money } from "../shared/money";
import { LotDrawing } from "./LotDrawing";
import type { Done, FitLine, ShelfLine } from "./rack";

type Props = {
  line: ShelfLine;
  scale: number;
  currency: string;
  fit?: FitLine;
  size?: { width: number; height: number; outline?: string };
  onDo: (lot: string, done: Done) => void;
};

/** A lot: drawn to scale, what it is, how many there are, and what one does with it. */
export function LotCard({ line, scale, currency, fit, size, onDo }: Props) {
  const { unit } = useUnit();
  const { lot } = line;
  const [open, setOpen] = useState(false);
  return (
    <article
      aria-label={`Lot ${lot.label}`}
      className={`grid min-w-0 content-start border bg-paper p-2.5 ${fit ? "border-accent" : "border-line"}`}
    >
      <div className="flex items-baseline gap-2">
        <b className="num text-head font-medium">{lot.label}</b>
        <span className="label truncate">
          {fit && `${line.material}, `}
          {lot.place || "no place said"}
        </span>
        <span className="ml-auto whitespace-nowrap">
          <b className="num text-figure font-medium">{line.on_hand}</b>
          <span className="label"> on hand</span>
        </span>
      </div>
      <div className="mt-1.5 flex justify-center">
        <LotDrawing family={line.family} lot={lot} scale={scale} fit={fit} size={size} />
      </div>
      <p className="mt-1.5">
        <span className="num">
          {bare(lot.width, unit, 0)} x {bare(lot.height, unit, 0)}
        </span>
        , <span className="num">{length(line.thickness, unit)}</span>
        {!lot.readings?.length && <span className="label"> nominal</span>}
        {lot.grade && `, ${lot.grade}`}
        {lot.face && `, ${lot.face}`}
      </p>
      {line.reserved.map((r) => (
        <p key={r.job} className="label flex items-baseline gap-2">
          <span className="num">{r.count}</span> reserved for {r.name}
          <button
            className="key ml-auto !py-0"
            onClick={() => onDo(lot.id, { kind: "set free", job: r.job, count: r.count })}
          >
            Set free
          </button>
        </p>
      ))}
      {line.free < 0 && (
        <p role="alert" className="text-small text-stop">
          {-line.free} more reserved than there are
        </p>
      )}
      {fit && <p className="label">takes {(fit.share * 100).toFixed(0)} % of it</p>}
      <button
        className="key mt-1.5 justify-self-start !py-0"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {open ? "Close" : "Move, count, change"}
      </button>
      {open && <Inside line={line} currency={currency} onDo={(d) => onDo(lot.id, d)} />}
    </article>
  );
}

const COUNTED: [Done["kind"], string][] = [
  ["more came", "more came in"],
  ["take", "taken out"],
  ["bring back", "brought back"],
  ["scrap", "scrapped"],
  ["count", "counted: so many are there"],
  ["reserve", "reserved for a job"],
];

function Inside({ line, currency, onDo }: { line: ShelfLine; currency: string; onDo: (d: Done) => void }) {
  const { lot } = line,
    { unit } = useUnit();
  const [kind, setKind] = useState<Done["kind"]>("take"),
    [n, setN] = useState("1"),
    [job, setJob] = useState(""),
    [says, setSays] = useState("");
  const jobs = useJobs("parts").data ?? [];
  const number = /^\d{1,5}$/.test(n.trim()) ? Number(n) : NaN;
  const ready = number >= (kind === "count" ? 0 : 1) && (kind !== "reserve" || !!job);
  const book = () => {
    if (kind === "count") onDo({ kind, found: number, says });
    else if (kind === "reserve") onDo({ kind, job, count: number });
    else onDo({ kind, count: number, says } as Done);
    setSays("");
  };
  return (
    <div className="mt-2 grid gap-1.5 border-t border-line pt-2">
      <form
        className="flex flex-wrap items-center gap-1.5"
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) book();
        }}
      >
        <input
          className="field w-14 text-right"
          aria-label={`How many of ${lot.label}`}
          inputMode="numeric"
          value={n}
          onChange={(e) => setN(e.target.value)}
        />
        <Pick label={`What happens to ${lot.label}`} value={kind} options={COUNTED} onPick={setKind} />
        {kind === "reserve" ? (
          <Pick
            label="For which job"
            value={job}
            placeholder="choose a job"
            options={jobs.map((j): [string, string] => [j.id, j.name])}
            onPick={setJob}
          />
        ) : (
          <input
            className="field min-w-24 flex-1 !font-sans"
            aria-label="Why"
            placeholder="why"
            maxLength={200}
            value={says}
            onChange={(e) => setSays(e.target.value)}
          />
        )}
        <button className="key-strong" disabled={!ready}>
          Book it
        </button>
      </form>
      <p className="label">
        place{" "}
        <TextToken
          label={`place of ${lot.label}`}
          value={lot.place ?? ""}
          onCommit={(place) => onDo({ kind: "change", place })}
        />
        , grade{" "}
        <TextToken
          label={`grade of ${lot.label}`}
          value={lot.grade ?? ""}
          onCommit={(grade) => onDo({ kind: "change", grade })}
        />
        , a sheet costs{" "}
        <NumberToken
          label={`price of ${lot.label}`}
          value={lot.price ?? 0}
          digits={2}
          unit={currency ? ` ${currency}` : ""}
          onCommit={(price) => onDo({ kind: "change", price })}
        />
        {lot.batch && `, batch ${lot.batch}`}
      </p>
      <p className="label">
        note{" "}
        <TextToken
          label={`note on ${lot.label}`}
          value={lot.note ?? ""}
          onCommit={(note) => onDo({ kind: "change", note })}
        />
        {lot.origin && `; left by run ${lot.origin.run} of ${lot.origin.job}`}
        {line.value !== null && `; all worth ${money(line.value, currency)}`}
      </p>
      <div>
        <Save
          address={`/rack/labels.pdf?unit=${unit}&lot=${encodeURIComponent(lot.id)}`}
          words="Label to print"
        />
      </div>
    </div>
  );
}
