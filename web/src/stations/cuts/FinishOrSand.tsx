import { useQueries, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { call } from "../../api/client";
import type { FinishChoice, FinishWeighed, Operation, Setup } from "../../api/model";
import { inUnit } from "../../shared/Tokens";
import { length, useUnit } from "../../shared/lengths";
import type { Whose } from "./Steps";
import type { Change } from "./phrases";

const minutes = (s: number) => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, "0")}`;

/** Finish by machine or by hand: what other cutters and step-overs would come to, weighed a few at a time; the one taken is recorded with the step. */
export function FinishOrSand({
  step,
  setup,
  whose,
  change,
}: {
  step: Operation;
  setup: Setup;
  whose: Whose;
  change: Change;
}) {
  const [open, setOpen] = useState(false),
    { unit } = useUnit();
  if (step.kind !== "relief finish") return null;
  return (
    <div className="py-0.5">
      {step.note && <p className="text-small">{inUnit(step.note, unit)}</p>}
      <button className="key !py-0" aria-expanded={open} onClick={() => setOpen(!open)}>
        Finish or sand?
      </button>
      {open && <Weighing {...{ step, setup, whose, change }} />}
    </div>
  );
}

function Weighing({
  step,
  setup,
  whose,
  change,
}: {
  step: Operation;
  setup: Setup;
  whose: Whose;
  change: Change;
}) {
  const { id: job } = useParams(),
    { unit } = useUnit();
  const about = new URLSearchParams({
    step: step.id,
    part: "part" in whose ? whose.part : "",
    contour: "part" in whose ? (whose.contour ?? "") : "",
  });
  const at = `/jobs/${job}/setups/${setup.id}`,
    key = [job, setup.id, step, setup.layout] as const;
  const ways = useQuery({
    queryKey: ["finishes", ...key],
    queryFn: () => call<FinishChoice[]>(`${at}/finishes?${about}`),
  });
  const list = ways.data ?? [];
  const [asked, setAsked] = useState(3);
  // each is planned, timed and carved as it would be: a few at a time
  const rows = useQueries({
    queries: list.map((c, k) => ({
      queryKey: ["finish", ...key, c.cutter, c.step_over, c.now],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        call<FinishWeighed>(
          `${at}/finish?${about}&cutter=${encodeURIComponent(c.cutter)}&step_over=${c.step_over}&now=${c.now}`,
          { signal },
        ),
      enabled: k < asked,
      staleTime: Infinity,
      retry: false,
    })),
  });
  const settled = rows.findIndex((r, k) => k < asked && r.isFetching),
    next = settled < 0 ? asked : settled;
  const most = Math.max(1, ...rows.map((r) => (r.data ? r.data.seconds + 60 * r.data.sanding_minutes : 0)));
  const tiny = (mm: number) => length(mm, unit, unit === "mm" ? 3 : 4);
  return (
    <div className="my-1">
      <ol aria-label="Finish or sand">
        {list.map((c, k) => (
          <Way
            key={`${c.cutter} ${c.step_over} ${c.now}`}
            of={c}
            weighed={rows[k]?.data}
            fault={rows[k]?.error?.message}
            waits={k >= asked}
            most={most}
            tiny={tiny}
            take={(w) =>
              change({
                cutter: c.cutter,
                step_over: c.step_over,
                cusp: null,
                note: `finish or sand: ${c.name} at ${Math.round(100 * c.step_over)} %, ${minutes(w.seconds)} by machine, ridges ${length(w.cusp, "mm", 3)}, ${w.sanding_minutes.toFixed(0)} min of sanding, of ${list.length} ways weighed`,
              })
            }
          />
        ))}
      </ol>
      {asked < list.length && (
        <button className="key !py-0" disabled={next < asked} onClick={() => setAsked(asked + 4)}>
          weigh more
        </button>
      )}
      <p className="label">
        Sanding by house rule for ridges on the level; slopes keep higher ones where rows are evenly spaced in
        plan.
      </p>
    </div>
  );
}

/** One way: its minutes by machine and by hand as one bar, then what it leaves. */
function Way({
  of,
  weighed,
  fault,
  waits,
  most,
  tiny,
  take,
}: {
  of: FinishChoice;
  weighed?: FinishWeighed;
  fault?: string;
  waits: boolean;
  most: number;
  tiny: (mm: number) => string;
  take: (w: FinishWeighed) => void;
}) {
  const name = `${of.name}, ${of.cusp ? "by ridges" : `${Math.round(100 * of.step_over)} %`}`;
  return (
    <li className="rule py-1 text-small" aria-label={name}>
      <p className="flex items-baseline justify-between gap-2">
        <span className={of.now ? "font-semibold" : ""}>{name}</span>
        {of.now ? (
          <span className="label">as planned</span>
        ) : (
          weighed && (
            <button className="underline" onClick={() => take(weighed)}>
              take it
            </button>
          )
        )}
      </p>
      {weighed ? (
        <>
          <div className="my-0.5 flex h-2" aria-hidden>
            <span style={{ width: share(weighed.seconds, most), background: "#1c4e49" }} />
            <span
              style={{
                width: share(60 * weighed.sanding_minutes, most),
                background: "repeating-linear-gradient(45deg, #b08a3e 0 2px, transparent 2px 5px)",
                outline: "1px solid #b08a3e",
                outlineOffset: -1,
              }}
            />
          </div>
          <p className="num">
            {minutes(weighed.seconds)} by machine, {weighed.sanding_minutes.toFixed(0)} min of sanding
            {weighed.cost !== null && `, ${weighed.cost.toFixed(2)} in all`}
          </p>
          <p className="label">
            ridges {tiny(weighed.cusp)}; {(weighed.unreached_mm2 / 100).toFixed(1)} cm² of detail not reached,
            up to {tiny(weighed.left_most)} left
          </p>
        </>
      ) : (
        <p className="label">{fault ?? (waits ? "" : "being weighed ...")}</p>
      )}
    </li>
  );
}

const share = (seconds: number, most: number) => `${(100 * seconds) / Math.max(most, 1)}%`;
