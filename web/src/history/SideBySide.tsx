import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { clock, type RevisionSide, type RevisionsCompared, type SheetDrawn, STATIONS } from "../api/model";
import { StateMark } from "../app/StateMark";
import { Over } from "../shared/Over";
import { Pick } from "../shared/Pick";
import { many } from "../shared/many";
import { money } from "../shared/money";
import type { Line } from "./History";

const path = (outline: number[][]) => `M${outline.map((p) => p.join(" ")).join("L")}Z`;

/** Two revisions beside each other: what differs is drawn, said and reckoned. */
export default function SideBySide({
  job,
  older,
  newer,
  lines,
  close,
  onBack,
}: {
  job: string;
  older: number;
  newer: number;
  lines: Line[];
  close: () => void;
  onBack?: (revision: number) => Promise<unknown>;
}) {
  const [pair, setPair] = useState<[number, number]>([older, newer]),
    [at, setAt] = useState(0),
    [wrong, setWrong] = useState("");
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: ["compared", job, ...pair],
    queryFn: () => call<RevisionsCompared>(`/jobs/${job}/compared?one=${pair[0]}&other=${pair[1]}`),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: 0,
  });
  const options = lines.map((l): [string, string] => [`${l.revision}`, `${l.revision}: ${l.says}`]);
  const sheets = Math.max(data?.older.sheets.length ?? 0, data?.newer.sheets.length ?? 0);
  return (
    <Over title="Two changes side by side" size="wide" close={close}>
      {(error ?? wrong) && (
        <p role="alert" className="text-stop">
          {error?.message ?? wrong}
        </p>
      )}
      {!data && !error && <p role="status">drawing both ...</p>}
      {data && (
        <div aria-busy={isPlaceholderData}>
          <div className="mt-2 grid gap-4 md:grid-cols-2">
            {(["older", "newer"] as const).map((which, i) => (
              <Side
                key={which}
                side={data[which]}
                beside={data[which === "older" ? "newer" : "older"]}
                at={at}
                pick={
                  <Pick
                    label={i ? "newer change" : "older change"}
                    value={`${data[which].revision}`}
                    options={options}
                    onPick={(v) => setPair(i ? [pair[0], Number(v)] : [Number(v), pair[1]])}
                  />
                }
                onBack={
                  onBack && data[which].revision !== newer
                    ? () => onBack(data[which].revision).catch((e: Error) => setWrong(e.message))
                    : undefined
                }
              />
            ))}
          </div>
          {sheets > 1 && (
            <div className="mt-2 flex gap-1.5" role="group" aria-label="Sheets">
              {Array.from({ length: sheets }, (_, i) => (
                <button
                  key={i}
                  className={i === at ? "key-strong" : "key"}
                  aria-pressed={i === at}
                  onClick={() => setAt(i)}
                >
                  Sheet {i + 1}
                </button>
              ))}
            </div>
          )}
          <p className="label mt-2">
            Hatched: lies elsewhere in the other. Dark: only here. Light: the same in both.
          </p>
          <h3 className="mt-2 font-semibold">
            {many(data.changes.length, "change")} from {data.older.revision} to {data.newer.revision}
          </h3>
          <ol className="max-h-40 overflow-y-auto text-small" aria-label="Changes between">
            {data.changes.map((c, i) => (
              <li key={i} className="rule py-0.5">
                {c}
              </li>
            ))}
          </ol>
        </div>
      )}
    </Over>
  );
}

function Side({
  side,
  beside,
  at,
  pick,
  onBack,
}: {
  side: RevisionSide;
  beside: RevisionSide;
  at: number;
  pick: React.ReactNode;
  onBack?: () => void;
}) {
  return (
    <section aria-label={`Change ${side.revision}`} className="min-w-0">
      <div className="flex items-baseline justify-between gap-2">
        <span className="min-w-0 flex-1">{pick}</span>
        {onBack && (
          <button className="key !py-0" onClick={onBack}>
            Bring this back
          </button>
        )}
      </div>
      <Sheet of={side.sheets[at]} />
      <Figures side={side} beside={beside} />
    </section>
  );
}

function Sheet({ of }: { of?: SheetDrawn }) {
  if (!of)
    return <p className="label my-2 grid h-56 place-items-center border border-line">no such sheet here</p>;
  const { width, height, ground, pieces } = of.picture;
  // a piece with its holes is one path
  const drawn = [...new Set(of.of)].map((n) => ({
    d: pieces
      .filter((_, i) => of.of[i] === n)
      .map(path)
      .join(""),
    state: of.states[of.of.indexOf(n)],
  }));
  const moved = drawn.filter((p) => p.state !== "same").length;
  return (
    <figure className="my-2">
      <svg
        viewBox={`-3 -3 ${width + 6} ${height + 6}`}
        className="h-56 w-full border border-line bg-white"
        role="img"
        aria-label={`${of.name}${moved ? `, ${many(moved, "piece")} otherwise than in the other` : ""}`}
      >
        <defs>
          <pattern
            id="moved"
            width="4"
            height="4"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="4" height="4" fill="#fbf7ef" />
            <path d="M0 0V4" stroke="#8a5a00" strokeWidth="1.6" />
          </pattern>
        </defs>
        <g transform={`translate(0 ${height}) scale(1 -1)`} strokeLinejoin="round">
          <path d={ground.map(path).join("")} fill="#eedcb6" stroke="#21262a" strokeWidth="1" />
          {drawn.map(({ d, state }, i) => (
            <path
              key={i}
              d={d}
              data-state={state}
              fill={{ same: "#fbf7ef", moved: "url(#moved)", "only here": "#1c4e49" }[state]}
              fillRule="evenodd"
              stroke="#1c4e49"
              strokeWidth=".8"
            />
          ))}
        </g>
      </svg>
      <figcaption className="label">{of.name}</figcaption>
    </figure>
  );
}

/** The figures of one side, with what the other one lacks or has beyond it. */
function Figures({ side, beside }: { side: RevisionSide; beside: RevisionSide }) {
  const f = side.figures,
    g = beside.figures;
  const rows: [string, string, string][] = [
    ["pieces", `${f.pieces}`, `${g.pieces}`],
    ["sheets", `${f.sheets}`, `${g.sheets}`],
    [
      "used of the material",
      `${(100 * f.material_yield).toFixed(1)} %`,
      `${(100 * g.material_yield).toFixed(1)} %`,
    ],
    ["time of motion", clock(f.seconds), clock(g.seconds)],
    ["all it costs", sumOf(f), sumOf(g)],
    ["cutters", `${f.cutters}`, `${g.cutters}`],
    ["least hold over load", hold(f.hold), hold(g.hold)],
  ];
  return (
    <table className="w-full text-small">
      <tbody>
        {rows.map(([what, here, there]) => (
          <tr key={what} className={here === there ? "text-quiet" : "font-medium"}>
            <td className="rule py-0.5">{what}</td>
            <td className="num rule py-0.5 text-right">{here}</td>
          </tr>
        ))}
        <tr>
          <td className="py-0.5 text-quiet">stations</td>
          <td className="py-0.5">
            <span className="flex justify-end gap-2">
              {f.route.map((m) => (
                <span
                  key={m.station}
                  className="flex"
                  title={STATIONS.find((s) => s.id === m.station)!.title}
                >
                  <StateMark state={m.mark} />
                  {m.mark === "held up" && <b className="num text-fine text-stop">{m.stops}</b>}
                </span>
              ))}
            </span>
          </td>
        </tr>
      </tbody>
    </table>
  );
}

const hold = (ratio: number | null) => (ratio === null ? "not worked out" : `${ratio.toFixed(2)} x`);

const sumOf = (f: RevisionSide["figures"]) => (f.cost === null ? "not known" : money(f.cost, f.currency));
